import type { Command } from "../edit";
import { plainName } from "../plainText";
import type { AssetRef, Colouring, Id, Scenery, ShotSettings, World } from "../types";

export const renameShot = (name: string): Command => ({
	name: `Rename shot to ${name}`,
	apply: (shot) => {
		shot.name = plainName(name, 200) || shot.name;
	},
});

export const setSettings = (change: Partial<ShotSettings>): Command => ({
	name: `Set ${Object.keys(change).join(", ")}`,
	apply: (shot) => {
		Object.assign(shot.settings, change);
	},
});

/** Where pieces and copies stand at the start; null: where they were made. */
export const setKeptPlaces = (places: AssetRef | null): Command => ({
	name: places ? "Keep places" : "Forget kept places",
	apply: (shot) => {
		shot.keptPlaces = places;
	},
});

export const setScenery = (change: Partial<Scenery>): Command => ({
	name: `Set ${Object.keys(change).join(", ")}`,
	apply: (shot) => {
		Object.assign(shot.scenery, change);
	},
});

/** Colours bodies by a gradient; null: as their materials are. */
export const setColouring = (colouring: Colouring | null): Command => ({
	name: colouring ? "Colour by a gradient" : "Colours of the materials",
	apply: (shot) => {
		if (!colouring) return void delete shot.colouring;
		const { stops, picture, ...rest } = colouring;
		shot.colouring = {
			...rest,
			stops: stops.map(([share, colour]) => [share, colour]),
			...(picture && { picture: { ...picture, middle: [...picture.middle] } }),
		};
	},
});

/** Adds a world, or changes one. */
export const setWorld = (id: Id, world: World): Command => ({
	name: `Set world ${world.name}`,
	apply: (shot) => {
		shot.worlds[id] = { name: world.name, gravity: [...world.gravity] };
	},
});

/** Bodies of a world that goes belong to the main one again. */
export const removeWorld = (id: Id): Command => ({
	name: "Remove world",
	apply: (shot) => {
		delete shot.worlds[id];
		for (const settings of [
			...Object.values(shot.bodies),
			...Object.values(shot.overrides),
			...shot.bodyRules.map((rule) => rule.settings),
		])
			if (settings.world === id) delete settings.world;
	},
});
