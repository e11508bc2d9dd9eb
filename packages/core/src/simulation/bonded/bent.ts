import { POSE_STRIDE } from "../../cache";
import { compose, inverse, quatAt, rotate, tripleAt, vec3 } from "../../maths";
import type { BodyState, KeyedPose } from "../engine/types";
import { movedPose, type RigidMotion } from "../rigid";
import type { SimScene } from "../scene";
import { commonMotion } from "./commonMotion";
import { fromFrame, type GroupFrame } from "./groupFrame";
import type { Bonded, Running } from "./state";

/**
 * A blow bends what it strikes, by centimetres before it breaks, for its bonds hold their fracture energy: what strikes would be seen
 * inside it, and what comes off would be pushed back by what the engine has as straight. So the engine and the eye are shown it bent
 * while the blow goes on; afterwards it springs back.
 */

/** Of how far a blow that is over has bent something, so much is left a frame later. */
const LEFT_A_FRAME = 0.4;
/** Bent less than this is straight. m, rad */
const STRAIGHT = 1e-3;

type Bending = Pick<Running, "scene" | "engine">;

const isStraight = (u: Float64Array, i: number): boolean => {
	for (let d = 6 * i; d < 6 * i + 6; d++) if (Math.abs(u[d]!) > STRAIGHT) return false;
	return true;
};

/** A body's pose, bent as `u` (6 per body, in the axes of the first frame) says from this one. */
function bentFrom(pose: KeyedPose, scene: SimScene, u: Float64Array, i: number): KeyedPose {
	const turn = compose(pose.rotation, inverse(quatAt(scene.rotation, i)));
	return movedPose(pose, {
		along: rotate(turn, tripleAt(u, 2 * i)),
		about: rotate(turn, tripleAt(u, 2 * i + 1)),
		centre: vec3.add(pose.translation, rotate(pose.rotation, tripleAt(scene.centre, i))),
	});
}

/** What holds still is where it was at the first frame. */
const straight = ({ position, rotation }: SimScene, i: number): KeyedPose => ({
	translation: tripleAt(position, i),
	rotation: quatAt(rotation, i),
});

/** Has the engine know how those of these bodies that something holds are bent now. `known`: where it has them. */
export function showBent({ scene, engine }: Bending, { state: { u }, bent }: Bonded, known: BodyState, bodies: readonly number[]): void {
	const changed = bodies.filter((i) => {
		if (!engine.isAnchored(engine.carrier[i]!)) return false;
		const was = bent[i];
		bent[i] = isStraight(u, i) ? 0 : 1;
		return bent[i] === 1 ? was === 0 || isElsewhere(scene, u, known, i) : was === 1;
	});
	engine.bend(changed, (i) => (bent[i] === 1 ? bentFrom(straight(scene, i), scene, u, i) : straight(scene, i)));
}

/** Whether a piece is no longer where it is known to be, by as much as is seen. */
function isElsewhere({ position }: SimScene, u: Float64Array, known: BodyState, i: number): boolean {
	for (let d = 0; d < 3; d++) if (Math.abs(position[3 * i + d]! + u[6 * i + d]! - known.position[3 * i + d]!) > STRAIGHT) return true;
	return false;
}

/** Says what the engine has bent, where it goes on from a snapshot. */
export function recallBent({ scene, engine }: Bending, { state: { u }, bent }: Bonded): void {
	for (let i = 0; i < u.length / 6; i++)
		bent[i] = scene.bonded[i] === 1 && engine.isAnchored(engine.carrier[i]!) && !isStraight(u, i) ? 1 : 0;
}

/** How a part that comes off is to be shifted, in the world, from where it stood: by what `u` has bent its bodies in common. */
export function shiftOf(
	{ scene }: Pick<Bending, "scene">,
	{ net }: Bonded,
	frame: GroupFrame,
	bodies: readonly number[],
	u: Float64Array,
): RigidMotion {
	const { along, about, centre } = commonMotion(scene, net, bodies, u);
	return { along: rotate(frame.turn, along), about: rotate(frame.turn, about), centre: fromFrame(frame, centre) };
}

/** Puts what is bent back to where it stood. */
export function unbend({ scene, engine }: Bending, { bent }: Bonded, bodies: readonly number[]): void {
	const changed = bodies.filter((i) => bent[i] === 1);
	for (const i of changed) bent[i] = 0;
	engine.bend(changed, (i) => straight(scene, i));
}

/** What a blow has done to bodies so far is over: they move as one, or by themselves, from where they are. */
export function forgetBent({ state: { u, v }, bent }: Bonded, bodies: readonly number[]): void {
	for (const i of bodies) {
		u.fill(0, 6 * i, 6 * i + 6);
		v.fill(0, 6 * i, 6 * i + 6);
		bent[i] = 0;
	}
}

/** Bends what floats, which the engine has as one, in poses (7 per body) that show it. */
export function bendFloating({ scene, engine }: Bending, { state: { u } }: Bonded, poses: Float32Array): void {
	for (let i = 0; i < u.length / 6; i++) {
		if (isStraight(u, i) || engine.isAnchored(engine.carrier[i]!)) continue;
		const at = i * POSE_STRIDE;
		const pose = { translation: tripleAt(poses.subarray(at), 0), rotation: quatAt(poses.subarray(at + 3), 0) };
		const { translation, rotation } = bentFrom(pose, scene, u, i);
		poses.set(translation, at);
		poses.set(rotation, at + 3);
	}
}

/** Lets what a blow has bent that is over go back, over some frames; call once a frame. */
export function springBack(run: Bending & Pick<Running, "after">, bonded: Bonded): void {
	const { u, v, ringing } = bonded.state;
	const { carrier } = run.engine;
	const goesOn = new Set(ringing.map((i) => carrier[i]!));
	const changed: number[] = [];
	for (let i = 0; i < u.length / 6; i++) {
		if (goesOn.has(carrier[i]!)) continue;
		let isAtRest = true;
		for (let d = 6 * i; d < 6 * i + 6; d++) isAtRest &&= u[d] === 0 && v[d] === 0;
		if (isAtRest) continue;
		const left = isStraight(u, i) ? 0 : LEFT_A_FRAME;
		for (let d = 6 * i; d < 6 * i + 6; d++) {
			u[d]! *= left;
			v[d] = 0;
		}
		changed.push(i);
	}
	showBent(run, bonded, run.after, changed);
}
