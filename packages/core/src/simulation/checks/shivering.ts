import { POSE_STRIDE, posesAt } from "../../cache";
import { setBody, setSettings, together } from "../../shot";
import { Kind } from "../scene";
import type { Check, Finding } from "./types";

/** Seconds at the end of a run that are looked at. */
const LOOKED_AT = 1;
/** A body shivers that turns back in this share of the frames (what rocks turns back now and then), */
const TURNS_BACK = 0.3;
/** goes this many times as far as it gets, and at least this share of its size. */
const TO_AND_FRO = 6;
const LEAST_SHARE = 0.06;

/** Bodies that still shake on the spot when the run ends. */
export const shivering: Check = {
	id: "shivering",
	find: ({ shot, scene, run }): Finding[] => {
		if (!scene || !run || run.bodies !== scene.shown || run.chunks.length === 0) return [];
		const chunk = run.chunks[run.chunks.length - 1]!;
		const last = chunk.firstFrame + chunk.frames - 1;
		const begin = last - Math.round(LOOKED_AT * shot.settings.fps);
		const poses = Array.from({ length: last - begin + 1 }, (_, k) => posesAt(run, begin + k));
		if (begin < shot.settings.firstFrame || poses.some((frame) => !frame)) return [];
		const distance = (a: Float32Array, b: Float32Array, at: number) =>
			Math.sqrt((a[at]! - b[at]!) ** 2 + (a[at + 1]! - b[at + 1]!) ** 2 + (a[at + 2]! - b[at + 2]!) ** 2);
		const found: number[] = [];
		for (let i = 0; i < scene.count; i++) {
			// What hangs swings, and is meant to.
			if (scene.kind[i] !== Kind.Active || scene.jointed[i] === 1) continue;
			const at = i * POSE_STRIDE;
			let way = 0;
			let turns = 0;
			for (let k = 1; k < poses.length; k++) {
				way += distance(poses[k]!, poses[k - 1]!, at);
				if (k > 1 && turnsBack(poses[k - 2]!, poses[k - 1]!, poses[k]!, at)) turns++;
			}
			if (
				turns > TURNS_BACK * poses.length &&
				way > LEAST_SHARE * scene.size[i]! &&
				way > TO_AND_FRO * distance(poses[0]!, poses[poses.length - 1]!, at)
			)
				found.push(i);
		}
		if (found.length === 0) return [];
		const names = found.slice(0, 3).map((i) => scene.paths[i]);
		const objects = [...new Set(found.map((i) => scene.ids[i]!.split(":")[0]!))].map((id) => shot.fractures[id]?.object ?? id);
		return [
			{
				check: "shivering",
				level: "note",
				about: found.map((i) => scene.ids[i]!),
				message: `${names.join(", ")}${found.length > 3 ? ` and ${found.length - 3} more` : ""} still shake${found.length === 1 ? "s" : ""} at frame ${last}.`,
				fixes: [
					{
						label: "Calm them",
						command: together("Calm them", [
							setBody(objects, { angularDamping: 1, linearDamping: 0.1 }),
							...(shot.settings.solverIterations < 8 ? [setSettings({ solverIterations: 8 })] : []),
						]),
					},
				],
			},
		];
	},
};

/** Whether a body goes back in the second of two frames on the way of the first. */
const turnsBack = (a: Float32Array, b: Float32Array, c: Float32Array, at: number): boolean =>
	[0, 1, 2].reduce((sum, k) => sum + (b[at + k]! - a[at + k]!) * (c[at + k]! - b[at + k]!), 0) < 0;
