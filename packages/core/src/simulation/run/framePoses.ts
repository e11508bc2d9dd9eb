import { POSE_STRIDE } from "../../cache";
import { quatAt, tripleAt } from "../../maths";
import { TICKS_PER_SECOND } from "../../shot";
import { bendFloating } from "../bonded";
import { seatInPiece } from "../crumble";
import { Held, tickOfStep } from "../scene";
import { keyedNow, keyedPose } from "../takeBack";
import type { Run } from "./run";

/** Poses at a tick that may lie before the last step's end: then between the states before and after it. */
export function posesAtTick(run: Run, tick: number): Float32Array {
	const { scene, step, before, after } = run;
	const poses = new Float32Array(scene.count * POSE_STRIDE);
	const end = tickOfStep(scene.settings, step);
	// What lies before the last part of a step is where that begins: only steps that frames do not divide have any.
	const t = step === 0 ? 1 : Math.max(0, 1 - (run.lastParts * (end - tick)) / (TICKS_PER_SECOND / scene.settings.stepsPerSecond));
	const exact = t > 1 - 1e-9;
	for (let i = 0; i < scene.count; i++) {
		const at = i * POSE_STRIDE;
		if (exact) {
			poses.set(after.position.subarray(3 * i, 3 * i + 3), at);
			poses.set(after.rotation.subarray(4 * i, 4 * i + 4), at + 3);
			continue;
		}
		for (let k = 0; k < 3; k++) poses[at + k] = before.position[3 * i + k]! * (1 - t) + after.position[3 * i + k]! * t;
		let dot = 0;
		for (let k = 0; k < 4; k++) dot += before.rotation[4 * i + k]! * after.rotation[4 * i + k]!;
		let size = 0;
		const q = [0, 0, 0, 0];
		for (let k = 0; k < 4; k++) {
			q[k] = before.rotation[4 * i + k]! * (1 - t) * (dot < 0 ? -1 : 1) + after.rotation[4 * i + k]! * t;
			size += q[k]! * q[k]!;
		}
		for (let k = 0; k < 4; k++) poses[at + 3 + k] = q[k]! / Math.sqrt(size);
	}
	if (run.hasBonds) bendFloating(run, run.bonded, poses);
	scene.crumbOf.forEach((piece, i) => {
		if (piece < 0 || run.held[i] !== Held.Absent) return;
		const at = poses.subarray(POSE_STRIDE * piece);
		const { translation, rotation } = seatInPiece(scene, i, { translation: tripleAt(at, 0), rotation: quatAt(at.subarray(3), 0) });
		poses.set(translation, i * POSE_STRIDE);
		poses.set(rotation, i * POSE_STRIDE + 3);
	});
	for (const i of keyedNow(run)) {
		// What is keyed stands exactly where its keys say at the frame.
		const pose = keyedPose(scene, run.taken, i, tick);
		poses.set(pose.translation, i * POSE_STRIDE);
		poses.set(pose.rotation, i * POSE_STRIDE + 3);
	}
	return poses;
}
