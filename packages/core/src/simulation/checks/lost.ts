import { EventKind } from "../../cache";
import { shapeById } from "../../shapes";
import { type Shot, setBody, setSettings } from "../../shot";
import type { SimScene } from "../scene";
import { addGround } from "./nothingBelow";
import type { Check, Finding } from "./types";

/** Most substeps a second that are offered. */
const MOST_STEPS = 1200;

/** Ground where there is none or where it carries nothing; else shorter substeps, as something went through it. */
function remedy(shot: Shot, scene: SimScene): Finding["fixes"][number] {
	const grounds = Object.keys(shot.objects).filter((id) => {
		const { source, hidden } = shot.objects[id]!;
		return !hidden && source.kind === "shape" && shapeById(source.shape)?.endless === true;
	});
	if (grounds.length === 0) {
		// Beneath the centres of all that there is.
		let lowest = 0;
		for (let i = 0; i < scene.shown; i++) lowest = Math.min(lowest, scene.position[3 * i + 1]!);
		return addGround(shot, 0, Math.floor(lowest));
	}
	const idle = grounds.filter((id) => (shot.bodies[id]?.kind ?? "none") === "none");
	if (idle.length > 0)
		return { label: `Let ${shot.objects[idle[0]!]!.name} carry`, command: setBody(idle.slice(0, 1), { kind: "passive" }) };
	const stepsPerSecond = Math.min(MOST_STEPS, 2 * shot.settings.stepsPerSecond);
	return { label: "Twice the substeps", command: setSettings({ stepsPerSecond }) };
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
				fixes: [remedy(shot, scene)],
			},
		];
	},
};
