import { setBondOption } from "../../shot";
import type { Check, Finding } from "./types";

/** Bonds that never break around something that the ground holds: it cannot move, whatever happens. */
export const bondsNeverMove: Check = {
	id: "bonds-never-move",
	find: ({ shot, scene }): Finding[] => {
		if (!scene) return [];
		const found = new Map<string, string>();
		const { bonds } = scene;
		for (let k = 0; k < bonds.count; k++)
			if (bonds.tension[k] === Number.POSITIVE_INFINITY && scene.bonded[bonds.b[k]!] !== 1)
				found.set(bonds.sets[bonds.set[k]!]!.id, scene.ids[bonds.a[k]!]!);
		return [...found].map(([id, body]) => ({
			check: "bonds-never-move",
			level: "note",
			about: [body],
			message: `The bonds “${shot.bondSets[id]!.name}” never break and are held by the ground: what they tie can never move.`,
			fixes: [
				{ label: "Let it stand loose", command: setBondOption(id, "foot", "none") },
				{ label: "Give them their material's strength", command: setBondOption(id, "strength", "material") },
			],
		}));
	},
};
