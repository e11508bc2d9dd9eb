import { centreOf } from "../../bodies";
import { vec3 } from "../../maths";
import { bounds } from "../../mesh";
import { setBody } from "../../shot";
import type { Check, Finding } from "./types";

/** Centres of mass that were moved out of the box around the shape: such a thing swings as nothing does. */
export const centreOutside: Check = {
	id: "centre-outside",
	find: ({ built }): Finding[] => {
		const about = built.bodies.filter((body) => {
			if (body.endless || body.settings.kind !== "active" || body.settings.centre.every((x) => x === 0)) return false;
			const { min, max } = bounds(body.mesh);
			const at = vec3.scale(centreOf(body), 1 / body.scale);
			return [0, 1, 2].some((k) => at[k]! < min[k]! || at[k]! > max[k]!);
		});
		if (about.length === 0) return [];
		return [
			{
				check: "centre-outside",
				level: "warning",
				about: about.map(({ id }) => id),
				message: `The centre of mass of ${about[0]!.path}${about.length > 1 ? ` and ${about.length - 1} more` : ""} was moved out of its shape.`,
				fixes: [
					{
						label: "Where the shape has it",
						command: setBody([...new Set(about.map(({ id, object }) => (id.includes(":") ? id : object)))], { centre: undefined }),
					},
				],
			},
		];
	},
};
