import type { Draft } from "immer";
import type { Command } from "../edit";
import type { Fracture, FractureOption, Id } from "../types";

/** Breaks an object, or breaks it another way: the former set-up is replaced. */
export const setFracture = (id: Id, fracture: Fracture): Command => ({
	name: "Break",
	apply: (shot) => {
		if (!shot.objects[fracture.object]) return;
		for (const [other, item] of Object.entries(shot.fractures))
			if (other !== id && item.object === fracture.object) delete shot.fractures[other];
		shot.fractures[id] = fracture as Draft<Fracture>;
	},
});

export const setFractureOption = (id: Id, option: string, value: FractureOption): Command => ({
	name: `Set ${option}`,
	apply: (shot) => {
		const fracture = shot.fractures[id];
		if (fracture) fracture.options[option] = value as Draft<FractureOption>;
	},
});

export const removeFracture = (id: Id): Command => ({
	name: "Make whole",
	apply: (shot) => {
		delete shot.fractures[id];
	},
});
