import { setBody } from "../../shot";
import type { Check, Finding } from "./types";

/** Active bodies that were to collide by their exact mesh, which has no inside to be pushed out of. */
export const meshCollider: Check = {
	id: "mesh-collider",
	find: ({ built }): Finding[] => {
		const about = built.bodies.filter(({ settings }) => settings.kind === "active" && settings.collider === "mesh");
		if (about.length === 0) return [];
		const ids = [...new Set(about.map(({ object }) => object))];
		return [
			{
				check: "mesh-collider",
				level: "note",
				about: about.map(({ id }) => id),
				message: `${about[0]!.path}${about.length > 1 ? ` and ${about.length - 1} more` : ""}: an active body cannot collide by its exact mesh; convex parts are taken in its place.`,
				fixes: [{ label: "Take convex parts", command: setBody(ids, { collider: "parts" }) }],
			},
		];
	},
};
