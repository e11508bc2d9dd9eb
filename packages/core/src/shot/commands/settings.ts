import type { Command } from "../edit";
import type { Scenery, ShotSettings } from "../types";

export const renameShot = (name: string): Command => ({
	name: `Rename shot to ${name}`,
	apply: (shot) => {
		shot.name = name.replace(/[/\n]/g, " ").trim().slice(0, 200) || shot.name;
	},
});

export const setSettings = (change: Partial<ShotSettings>): Command => ({
	name: `Set ${Object.keys(change).join(", ")}`,
	apply: (shot) => {
		Object.assign(shot.settings, change);
	},
});

export const setScenery = (change: Partial<Scenery>): Command => ({
	name: `Set ${Object.keys(change).join(", ")}`,
	apply: (shot) => {
		Object.assign(shot.scenery, change);
	},
});
