import { compose, IDENTITY, inverse, type Quat, quatAt, rotate, tripleAt, type Vec3, vec3 } from "../../maths";
import type { BodyState } from "../engine";
import { centreOfMass } from "../pushes";
import type { Running } from "../running";
import { Kind, type SimScene } from "../scene";

/** What a run knows of its joints. Part of the checkpoint. */
export interface JointState {
	/** 1 per joint: 1 = it has broken. */
	readonly broken: Uint8Array;
	/** 3 per joint: how far it is drawn apart, metres, from its first body in that one's axes; see `lines.ts`. */
	readonly stretch: Float64Array;
	/** 2 per joint: the most that it bore in a frame, N and N m; see `borne.ts`. */
	readonly load: Float64Array;
}

export const makeJointState = ({ joints }: Pick<SimScene, "joints">): JointState => ({
	broken: new Uint8Array(joints.length),
	stretch: new Float64Array(3 * joints.length),
	load: new Float64Array(2 * joints.length),
});
export const copyJointState = ({ broken, stretch, load }: JointState): JointState => ({
	broken: broken.slice(),
	stretch: stretch.slice(),
	load: load.slice(),
});

export const AXES: readonly Vec3[] = [
	[1, 0, 0],
	[0, 1, 0],
	[0, 0, 1],
];

/** Where the point of a body that stood at `place` at the first frame is now, and how fast; the world does not move. */
export function pointOf(scene: SimScene, state: BodyState, i: number, place: Vec3): { at: Vec3; velocity: Vec3 } {
	if (i < 0) return { at: place, velocity: vec3.ZERO };
	const local = rotate(inverse(quatAt(scene.rotation, i)), vec3.subtract(place, tripleAt(scene.position, i)));
	const at = vec3.add(tripleAt(state.position, i), rotate(quatAt(state.rotation, i), local));
	const arm = vec3.subtract(at, centreOfMass(scene, state, i));
	return { at, velocity: vec3.add(tripleAt(state.velocity, i), vec3.cross(tripleAt(state.spin, i), arm)) };
}

/** Whether an end of a joint moves by itself: neither the world, nor held, nor bonded to what holds still. */
export const isFree = ({ scene, engine, held }: Pick<Running, "scene" | "engine" | "held">, i: number): boolean =>
	i >= 0 && scene.kind[i] === Kind.Active && held[i] === 0 && !engine.isAnchored(engine.carrier[i]!);

/** How a body has turned since the first frame. */
export const turnSince = (scene: SimScene, state: BodyState, i: number): Quat =>
	i < 0 ? IDENTITY : compose(quatAt(state.rotation, i), inverse(quatAt(scene.rotation, i)));
