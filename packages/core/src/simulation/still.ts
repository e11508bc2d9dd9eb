import { POSE_STRIDE } from "../cache";
import type { RestState } from "./rest";
import { Kind, type SimScene } from "./scene";

/**
 * What is seen of bodies that rest. Until their whole heap sleeps the contact solver keeps some of them trembling by a
 * fraction of a millimetre, thin shards by a degree or two, which nobody does in nature. A body that has not left its
 * place for a second is shown on a leash: what trembles within it stands still, what sinks, or rises out of what it lay in
 * too deep, is followed. The simulation itself goes on as it does. Part of the checkpoint, so that a run that goes on shows
 * the same.
 */
export interface StillState {
	/** 1 per body: 1 = shown where `pose` says. */
	readonly held: Uint8Array;
	/** 7 per body. */
	readonly pose: Float32Array;
}

const STILL_SECONDS = 1;
/** The leash: a share of the body's size, and sin of half the angle: 0.04 rad. */
const TREMBLE = 0.005;
const TREMBLE_ANGLE = 0.02;

export const makeStillState = (count: number): StillState => ({ held: new Uint8Array(count), pose: new Float32Array(POSE_STRIDE * count) });

export const copyStill = ({ held, pose }: StillState): StillState => ({ held: held.slice(), pose: pose.slice() });

/** Puts the places of what trembles into `poses` (7 per body), those that are about to be stored. Call once a frame, after the rest was looked at. */
export function showStill(scene: SimScene, rest: RestState, still: StillState, poses: Float32Array): void {
	const patience = Math.min(250, Math.max(2, Math.round((STILL_SECONDS * scene.settings.fps) / scene.settings.timeScale)));
	for (let i = 0; i < scene.count; i++) {
		if (scene.kind[i] !== Kind.Active || scene.restSpeed[i] === 0) continue;
		const at = POSE_STRIDE * i;
		const now = poses.subarray(at, at + POSE_STRIDE);
		if (rest.frames[i]! < patience) {
			still.held[i] = 0;
			continue;
		}
		const shown = still.pose.subarray(at, at + POSE_STRIDE);
		if (still.held[i] === 1) follow(shown, now, TREMBLE * scene.size[i]!);
		else shown.set(now);
		still.held[i] = 1;
		now.set(shown);
	}
}

/** Draws what is shown after where it is, until it is no further than a leash away. */
function follow(shown: Float32Array, now: Float32Array, leash: number): void {
	const way = Math.sqrt([0, 1, 2].reduce((sum, k) => sum + (now[k]! - shown[k]!) ** 2, 0));
	if (way > leash) for (let k = 0; k < 3; k++) shown[k]! += (1 - leash / way) * (now[k]! - shown[k]!);
	let alignment = 0;
	for (let k = 3; k < 7; k++) alignment += shown[k]! * now[k]!;
	const sign = alignment < 0 ? -1 : 1;
	// For angles as small as these, between unit quaternions: half the angle.
	const half = Math.sqrt(Math.max(0, 2 - 2 * Math.abs(alignment)));
	if (half <= TREMBLE_ANGLE) return;
	let length = 0;
	for (let k = 3; k < 7; k++) {
		shown[k]! += (1 - TREMBLE_ANGLE / half) * (sign * now[k]! - shown[k]!);
		length += shown[k]! * shown[k]!;
	}
	for (let k = 3; k < 7; k++) shown[k]! /= Math.sqrt(length);
}
