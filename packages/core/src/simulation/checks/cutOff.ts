import { EventKind } from "../../cache";
import { twiceTheSubsteps } from "./twiceTheSubsteps";
import type { Check, Finding } from "./types";

/** Steps in which things went on giving way after several tries: what strikes may have lost too much speed there. */
export const cutOff: Check = {
	id: "cut-off",
	find: ({ shot, scene, events }): Finding[] => {
		if (!scene || !events) return [];
		const found = [...events.kind.keys()].filter((e) => events.kind[e] === EventKind.Repeated);
		const first = found[0];
		if (first === undefined) return [];
		const by = events.b[first]!;
		return [
			{
				check: "cut-off",
				level: "note",
				about: [scene.ids[events.a[first]!]!],
				message: `In ${found.length} ${found.length === 1 ? "substep" : "substeps"}, the first in frame ${events.frame[first]}, things were still giving way${by >= 0 ? ` to ${scene.paths[by]}` : ""} after ${events.value[first]} tries. Smaller substeps let it through more truly.`,
				fixes: twiceTheSubsteps(shot),
			},
		];
	},
};
