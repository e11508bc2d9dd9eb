import { EventKind } from "../../cache";
import { isEndless } from "../../shapes";
import { type Shot, setBody } from "../../shot";
import type { SimScene } from "../scene";
import { addGround } from "./nothingBelow";
import { twiceTheSubsteps } from "./twiceTheSubsteps";
import type { Check, Finding } from "./types";

/** Ground where there is none or where it carries nothing; else shorter substeps, as something went through it. */
function remedy(shot: Shot, scene: SimScene, world: number): Finding["fixes"] {
	const grounds = Object.keys(shot.objects).filter((id) => !shot.objects[id]!.hidden && isEndless(shot.objects[id]!.source));
	if (grounds.length === 0) {
		// Beneath the centres of all that there is.
		let lowest = 0;
		for (let i = 0; i < scene.shown; i++) lowest = Math.min(lowest, scene.position[3 * i + 1]!);
		return [addGround(shot, world, Math.floor(lowest))];
	}
	const idle = grounds.find((id) => (shot.bodies[id]?.kind ?? "none") === "none");
	return idle === undefined
		? twiceTheSubsteps(shot)
		: [{ label: `Let ${shot.objects[idle]!.name} carry`, command: setBody([idle], { kind: "passive" }) }];
}

/** Bodies that fell out of the scene in the last run. */
export const lost: Check = {
	id: "lost",
	find: ({ shot, scene, events }): Finding[] => {
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
				fixes: remedy(shot, scene, scene.world[events.a[first]!]!),
			},
		];
	},
};
