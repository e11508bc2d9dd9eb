import { POSE_STRIDE } from "../cache";
import type { RestState } from "./rest";
import { Kind, type SimScene } from "./scene";

/**
 * What is seen of bodies that rest. Until their whole heap sleeps the contact solver keeps some of them trembling by a
 * fraction of a millimetre, thin shards by a degree or two, which nobody does in nature. A body that has not left its
 * place for a second is shown where it was then, while it trembles no further than that; the simulation itself goes on
 * as it does. Part of the checkpoint, so that a run that goes on shows the same.
 */
export interface StillState {
	/** 1 per body: 1 = shown where `pose` says. */
	readonly held: Uint8Array;
	/** 7 per body. */
	readonly pose: Float32Array;
}

const STILL_SECONDS = 1;
/** Share of its size that a body may tremble, and the cosine of half the angle: 0.12 rad. */
const TREMBLE = 0.02;
const LEAST_ALIGNMENT = 0.9982;

export const makeStillState = (count: number): StillState => ({ held: new Uint8Array(count), pose: new Float32Array(POSE_STRIDE * count) });

export const copyStill = ({ held, pose }: StillState): StillState => ({ held: held.slice(), pose: pose.slice() });

/** Puts the places of what trembles into `poses` (7 per body), those that are about to be stored. Call once a frame, after the rest was looked at. */
export function showStill(scene: SimScene, rest: RestState, still: StillState, poses: Float32Array): void {
	const patience = Math.min(250, Math.max(2, Math.round((STILL_SECONDS * scene.settings.fps) / scene.settings.timeScale)));
	for (let i = 0; i < scene.count; i++) {
		if (scene.kind[i] !== Kind.Active || scene.restSpeed[i] === 0) continue;
		const at = POSE_STRIDE * i;
		const now = poses.subarray(at, at + POSE_STRIDE);
		if (rest.frames[i]! < patience || (still.held[i] === 1 && !isNear(scene.size[i]!, still.pose.subarray(at, at + POSE_STRIDE), now))) {
			still.held[i] = 0;
			continue;
		}
		if (still.held[i] === 0) {
			still.held[i] = 1;
			still.pose.set(now, at);
		} else now.set(still.pose.subarray(at, at + POSE_STRIDE));
	}
}

function isNear(size: number, a: Float32Array, b: Float32Array): boolean {
	const limit = TREMBLE * size;
	let squared = 0;
	for (let k = 0; k < 3; k++) squared += (a[k]! - b[k]!) ** 2;
	let alignment = 0;
	for (let k = 3; k < 7; k++) alignment += a[k]! * b[k]!;
	return squared <= limit * limit && Math.abs(alignment) >= LEAST_ALIGNMENT;
}
