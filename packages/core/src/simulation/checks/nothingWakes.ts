import { isEndless } from "../../shapes";
import { frameOfTick, type Id, type Shot, setBody, setSettings, simulationStart } from "../../shot";
import { Kind, Wake } from "../scene";
import type { Check, Finding } from "./types";

/** Whether an object is something to be moved that takes no part yet: not a mere source of copies, and no ground. */
function couldMove(shot: Shot, id: Id): boolean {
	const { source, hidden } = shot.objects[id]!;
	const solid = source.kind === "mesh" || source.kind === "array" || (source.kind === "shape" && !isEndless(source));
	return solid && !hidden && (shot.bodies[id]?.kind ?? "none") === "none";
}

/** A run in which nothing can ever move by itself. */
export const nothingWakes: Check = {
	id: "nothing-wakes",
	find: ({ shot, scene }): Finding[] => {
		if (!scene) return [];
		const active = [...scene.kind.keys()].filter((i) => scene.kind[i] === Kind.Active);
		if (active.length === 0) {
			// Places that were settled and kept: a still is what was wanted.
			if (shot.keptPlaces) return [];
			const objects = Object.keys(shot.objects).filter((id) => couldMove(shot, id));
			return [
				{
					check: "nothing-wakes",
					level: "warning",
					about: objects.slice(0, 1),
					message: "Nothing is active, so a run would show a still.",
					fixes:
						objects.length > 0
							? [{ label: `Make ${shot.objects[objects[0]!]!.name} active`, command: setBody(objects.slice(0, 1), { kind: "active" }) }]
							: [],
				},
			];
		}
		const { firstFrame, lastFrame } = shot.settings;
		const start = simulationStart(shot.settings);
		if (start > lastFrame)
			return [
				{
					check: "nothing-wakes",
					level: "error",
					about: [],
					message: `The simulation starts at frame ${start}, after the last one.`,
					fixes: [{ label: `Start at ${firstFrame}`, command: setSettings({ startFrame: firstFrame }) }],
				},
			];
		const moves = (i: number) =>
			scene.wake[i] === Wake.Start ||
			scene.wake[i] === Wake.Region ||
			(scene.wake[i] === Wake.Frame && lastFrame >= frameOfTick(shot.settings, scene.wakeTick[i]!));
		if (active.some(moves) || scene.animated.length > 0) return [];
		const owners = [...new Set(active.map((i) => scene.ids[i]!.split(":")[0]!))].map((id) => shot.fractures[id]?.object ?? id);
		return [
			{
				check: "nothing-wakes",
				level: "error",
				about: owners,
				message: "Every active body waits to be touched or for a frame after the end, and nothing moves that could touch it.",
				fixes: [{ label: "Wake from the start", command: setBody(owners, { wake: { when: "start" } }) }],
			},
		];
	},
};
