import { EventKind } from "../../cache";
import type { Check, Finding } from "./types";

/** Bodies that fell out of the scene in the last run. */
export const lost: Check = {
	id: "lost",
	find: ({ scene, events }): Finding[] => {
		if (!scene || !events) return [];
		const gone = [...events.kind.keys()].filter((k) => events.kind[k] === EventKind.Lost);
		if (gone.length === 0) return [];
		const first = gone[0]!;
		const names = gone.slice(0, 3).map((k) => scene.paths[events.a[k]!]);
		return [
			{
				check: "lost",
				level: "warning",
				about: gone.map((k) => scene.ids[events.a[k]!]!),
				message: `${names.join(", ")}${gone.length > 3 ? ` and ${gone.length - 3} more` : ""} fell out of the scene, the first at frame ${events.frame[first]}. Is there ground below?`,
				fixes: [],
			},
		];
	},
};
