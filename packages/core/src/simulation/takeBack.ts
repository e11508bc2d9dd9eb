import { POSE_STRIDE } from "../cache";
import { type Quat, slerp, type Vec3, vec3 } from "../maths";
import { TICKS_PER_SECOND, type Ticks } from "../shot";
import type { BodyState, Engine, KeyedPose } from "./engine";
import type { Running } from "./running";
import { Held, type SimScene } from "./scene";

/** Seconds of the shot in which a body goes from where it was to where its keys are. */
const WAY_BACK = 0.5;

/** Bodies that follow their keys again. Part of the checkpoint. */
export interface TakenState {
	/** 1 per body: the tick at which it was taken; negative where it was not. */
	readonly tick: Float64Array;
	/** 7 per body: where it was then. */
	readonly pose: Float32Array;
}

export const makeTakenState = (count: number): TakenState => ({
	tick: new Float64Array(count).fill(-1),
	pose: new Float32Array(POSE_STRIDE * count),
});

export const copyTaken = ({ tick, pose }: TakenState): TakenState => ({ tick: tick.slice(), pose: pose.slice() });

/** Takes into hand what is due at this tick. */
export function takeBack(scene: SimScene, engine: Engine, held: Uint8Array, state: BodyState, taken: TakenState, tick: Ticks): void {
	const due = scene.followers.filter((i) => held[i] === 0 && scene.backTick[i]! <= tick);
	if (due.length === 0) return;
	for (const i of due) {
		held[i] = Held.Taken;
		taken.tick[i] = tick;
		taken.pose.set(state.position.subarray(3 * i, 3 * i + 3), POSE_STRIDE * i);
		taken.pose.set(state.rotation.subarray(4 * i, 4 * i + 4), POSE_STRIDE * i + 3);
	}
	engine.hold(due);
}

/** What goes by its keys in this step: animated bodies, and active ones that have keys and have not woken or were taken back. */
export const keyedNow = ({ scene, held }: Pick<Running, "scene" | "held">): number[] => [
	...scene.animated,
	...scene.followers.filter((i) => held[i] !== 0),
];

/** Where a body that goes by its keys is at a tick: on them, or on its smooth way back to them. */
export function keyedPose(scene: SimScene, taken: TakenState, i: number, tick: Ticks): KeyedPose {
	const pose = scene.poseAt(i, tick);
	const since = taken.tick[i]! < 0 ? 1 : (tick - taken.tick[i]!) / (WAY_BACK * TICKS_PER_SECOND);
	if (since >= 1) return pose;
	const t = Math.max(0, since);
	const share = t * t * (3 - 2 * t);
	const was = taken.pose.subarray(POSE_STRIDE * i, POSE_STRIDE * (i + 1));
	return {
		translation: vec3.mix([was[0]!, was[1]!, was[2]!] as Vec3, pose.translation, share),
		rotation: slerp([was[3]!, was[4]!, was[5]!, was[6]!] as Quat, pose.rotation, share),
	};
}
