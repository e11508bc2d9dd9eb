import { setBondOption } from "../../shot";
import type { Check, Finding } from "./types";

/** Bond sets whose rule means nothing, or whose bodies share no faces. */
export const bondsTieNothing: Check = {
	id: "bonds-tie-nothing",
	find: ({ shot, scene }): Finding[] => {
		if (!scene) return [];
		const used = new Set([...scene.bonds.set].map((set) => scene.bonds.sets[set]!.id));
		return Object.keys(shot.bondSets)
			.sort()
			.filter((id) => !shot.bondSets[id]!.hidden && !used.has(id))
			.map((id) => {
				const { name, options } = shot.bondSets[id]!;
				const byFaces = options.by !== "near";
				return {
					check: "bonds-tie-nothing",
					level: "warning",
					about: [],
					message: `The bonds “${name}” tie nothing: ${byFaces ? "what they mean shares no faces of one break." : "nothing they mean stands so close."} Only active bodies are bonded.`,
					fixes: [
						byFaces
							? { label: "Find by closeness", command: setBondOption(id, "by", "near") }
							: { label: "Reach twice as far", command: setBondOption(id, "reach", 2 * Number(options.reach ?? 0.005)) },
					],
				};
			});
	},
};
