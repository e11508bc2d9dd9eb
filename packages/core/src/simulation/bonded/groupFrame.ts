import { compose, IDENTITY, inverse, type Quat, quatAt, rotate, tripleAt, type Vec3, vec3 } from "../../maths";
import { centreOfMass } from "../pushes";
import type { BondNet } from "./bondNet";
import type { Running } from "./state";

/** How a group has turned and moved since the first frame, and how it moves. */
export interface GroupFrame {
	readonly turn: Quat;
	readonly back: Quat;
	/** A body of it: its centre of mass now, and at the first frame. */
	readonly now: Vec3;
	readonly origin: Vec3;
	readonly velocity: Vec3;
	readonly spin: Vec3;
	/** Whether it has a speed at all. */
	readonly moves: boolean;
}

export function frameOf({ scene, before }: Pick<Running, "scene" | "before">, net: BondNet, body: number, still: boolean): GroupFrame {
	const turn = compose(quatAt(before.rotation, body), inverse(quatAt(scene.rotation, body)));
	return {
		turn,
		back: inverse(turn),
		now: centreOfMass(scene, before, body),
		origin: tripleAt(net.centre, body),
		velocity: still ? vec3.ZERO : tripleAt(before.velocity, body),
		spin: still ? vec3.ZERO : tripleAt(before.spin, body),
		moves: !still,
	};
}

/** Of bodies as if they did not move, each found once. */
export function stillFrames(run: Pick<Running, "scene" | "before">, net: BondNet): (body: number) => GroupFrame {
	const frames = new Map<number, GroupFrame>();
	return (body) => {
		const known = frames.get(body) ?? frameOf(run, net, body, true);
		frames.set(body, known);
		return known;
	};
}

/** Of a group that something holds, which is where it was at the first frame, however it is bent. */
const standingFrame = (net: BondNet, body: number): GroupFrame => ({
	turn: IDENTITY,
	back: IDENTITY,
	now: tripleAt(net.centre, body),
	origin: tripleAt(net.centre, body),
	velocity: vec3.ZERO,
	spin: vec3.ZERO,
	moves: false,
});

/** Of a group, by its first body: where something holds it, it is where it stood. `still`: as if it did not move. */
export const frameOfGroup = (
	run: Pick<Running, "scene" | "before">,
	net: BondNet,
	first: number,
	anchored: boolean,
	still: boolean,
): GroupFrame => (anchored ? standingFrame(net, first) : frameOf(run, net, first, still));

export const toFrame = ({ back, now, origin }: GroupFrame, place: Vec3): Vec3 => vec3.add(origin, rotate(back, vec3.subtract(place, now)));
export const fromFrame = ({ turn, now, origin }: GroupFrame, place: Vec3): Vec3 =>
	vec3.add(now, rotate(turn, vec3.subtract(place, origin)));
/** Velocity of the group's material at a place in the world. */
export const materialSpeed = ({ velocity, spin, now }: GroupFrame, place: Vec3): Vec3 =>
	vec3.add(velocity, vec3.cross(spin, vec3.subtract(place, now)));
