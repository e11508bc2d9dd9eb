import { setBody } from "../../shot";
import { Kind } from "../scene";
import type { Check, Finding } from "./types";

/** From this share of extra volume a collider is called wrong. */
const MOST_ERROR = 0.1;
/** More hulls than this are no cure. */
const MOST_HULLS = 64;

/** Colliders that cover hollows of the shape they stand for. One finding for each object. */
export const concaveHull: Check = {
	id: "concave-hull",
	find: ({ shot, built, scene }): Finding[] => {
		if (!scene) return [];
		const settings = new Map(built.bodies.map((body) => [body.id, body.settings]));
		const worst = new Map<string, { hulls: number; count: number; error: number; choice: string }>();
		for (let i = 0; i < scene.shown; i++) {
			const { error, choice } = scene.colliders[i]!;
			if (Math.abs(error) <= MOST_ERROR || scene.kind[i] === Kind.Passive) continue;
			const id = scene.ids[i]!.split(":")[0]!;
			const object = shot.fractures[id]?.object ?? id;
			const known = worst.get(object);
			const { hulls } = settings.get(scene.ids[i]!)!;
			worst.set(object, { hulls, count: (known?.count ?? 0) + 1, error: Math.max(known?.error ?? 0, Math.abs(error)), choice });
		}
		return [...worst].map(([object, { hulls, count, error, choice }]) => ({
			check: "concave-hull",
			level: "warning" as const,
			about: [object],
			message: `${count === 1 ? "The collider" : `${count} colliders`} of ${shot.objects[object]!.name} (${choice}) differ${count === 1 ? "s" : ""} from what is seen by up to ${(error * 100).toFixed(0)} % of the volume.`,
			fixes:
				choice !== "parts" && choice !== "patches"
					? [{ label: "Use parts", command: setBody([object], { collider: "parts" }) }]
					: hulls < MOST_HULLS
						? [{ label: `${hulls} → ${2 * hulls} hulls`, command: setBody([object], { hulls: 2 * hulls }) }]
						: [],
		}));
	},
};
