import type { Vec3 } from "../../maths";
import type { RigidMotion } from "../rigid";
import type { SimScene } from "../scene";

/** Poses and velocities of all bodies, in the engine's own precision. */
export interface BodyState {
	/** 3 per body, metres, world, of the body's frame. */
	readonly position: Float32Array;
	/** 4 per body. */
	readonly rotation: Float32Array;
	/** 3 per body, m/s, of the centre of mass. */
	readonly velocity: Float32Array;
	/** 3 per body, rad/s. */
	readonly spin: Float32Array;
	/** 1 per body: 1 = moves by itself and is awake. */
	readonly awake: Uint8Array;
}

export const makeBodyState = (count: number): BodyState => ({
	position: new Float32Array(3 * count),
	rotation: new Float32Array(4 * count),
	velocity: new Float32Array(3 * count),
	spin: new Float32Array(3 * count),
	awake: new Uint8Array(count),
});

/** Pairs of bodies that met in the last step. */
export interface Contacts {
	count: number;
	readonly a: Int32Array;
	readonly b: Int32Array;
	/** Impulse over the step, N s. */
	readonly impulse: Float32Array;
}

export interface Touch {
	/** Of the moving body against the held one, m/s, positive towards it, before the step. */
	readonly approach: number;
	/** Metres between them before the step; negative where they overlap. */
	readonly distance: number;
}

/** Where two bodies meet. World, from the poses before the step. */
export interface ContactPoint {
	readonly place: readonly [number, number, number];
	/** Unit, from the body that was asked for to the other one. */
	readonly normal: readonly [number, number, number];
	/** Metres; negative where they overlap. */
	readonly distance: number;
	/** Along the normal over the last solver iteration of the step, N s. */
	readonly impulse: number;
}

/** Bodies that are to move as one. */
export interface Group {
	/** Ascending. */
	readonly bodies: readonly number[];
	/** Whether something that holds still holds it. */
	readonly anchored: boolean;
	/** How its bodies are moved first, in the world. */
	readonly shift?: RigidMotion | undefined;
}

export interface Overlap {
	readonly a: number;
	readonly b: number;
	/** metres */
	readonly depth: number;
	/** Unit: the way in which b leaves a soonest. */
	readonly normal: Vec3;
}

/**
 * What the simulation needs of a physics library: flat arrays in, flat arrays out, in bulk. Bodies are numbered as in
 * the scene. Nothing outside this folder knows the library. Calls are not reentrant; `dispose` frees its memory.
 */
export interface Engine {
	readonly count: number;
	/** One step. Keyed bodies go to the poses set before. */
	step(): void;
	/** Simulated seconds of the coming steps; at first those of a whole step of the scene. */
	setStep(seconds: number): void;
	/** Poses of keyed bodies at the beginning and at the end of the coming step. */
	setKeyed(body: number, from: KeyedPose, to: KeyedPose): void;
	/** Gives a body that is one hull another one: 3 numbers per point, in its frame. */
	setPoints(body: number, points: Float32Array): void;
	/** The main world's gravity from now on, m/s²; wakes everything where it changes. */
	setGravity(gravity: Vec3): void;
	readState(into: BodyState): void;
	/** Puts back the state of every body that moves or that `from.awake` marks. */
	writeState(from: BodyState): void;
	/** Puts everything active, alone or bonded, where a record has it and at its speed, whatever the engine thought before. */
	place(from: BodyState): void;
	/** Lets held bodies go, at these velocities (3 per body of the scene, m/s and rad/s): from now on they move by themselves. */
	release(bodies: readonly number[], start: Pick<SimScene, "velocity" | "spin">): void;
	/** Takes free bodies into hand: from now on they go where `setKeyed` says. */
	hold(bodies: readonly number[]): void;
	/**
	 * Forces on the centres of mass for the coming step, newtons, 3 for each of the first `count` bodies in the list; on
	 * no others. Those that sleep are woken by it where `wakes` says so.
	 */
	push(bodies: Int32Array, count: number, forces: Float64Array, wakes: Uint8Array): void;
	/** Whether it touches anything. */
	touches(body: number): boolean;
	/** Of the last step; the same object each time. */
	readonly contacts: Contacts;
	/** Held bodies that this keyed body is near, in the last step. */
	nearKeyed(body: number, visit: (held: number, touch: Touch) => void): void;
	/** How a pair met, from the state before the step. */
	touch(a: number, b: number, before: BodyState): Touch | undefined;
	/** m/s of a body that moves alone, of its centre of mass after the step. */
	velocityOf(body: number): Vec3;
	/** Has a body that moves alone be so many times as hard to move, and to turn, as it is; it weighs what it did. */
	setInertia(body: number, times: number, turns: number): void;
	/** How fast the first of a pair that met comes on the other after the step, m/s, where it does so fastest. */
	approach(a: number, b: number): number | undefined;
	/** Pairs of bodies that overlap now by more than `tolerance` metres and are not both passive. */
	overlaps(tolerance: number): Overlap[];
	/** The point of a body's surface that is nearest to a point of the world. */
	nearest(body: number, point: Vec3): Vec3;
	/** Pairs that shall not push each other. */
	mute(pairs: readonly (readonly [number, number, ...unknown[]])[]): void;
	/** Metres between two bodies, undefined where farther apart than `reach`. */
	separation(a: number, b: number, reach: number): number | undefined;
	/** Distance that a body may travel unseen in the next step, metres; 0 for slow ones. */
	setSweep(body: number, distance: number): void;
	/** Says how fast things may get in the next step, m/s: the library holds back what is faster. */
	allowSpeed(speed: number): void;
	/** Sets the velocities of these bodies to those in `from`; does not wake them. */
	setVelocities(bodies: readonly number[], from: Pick<BodyState, "velocity" | "spin">): void;
	/** Bodies whose colliders are close enough to be looked at as a pair with this one. */
	neighbours(body: number, visit: (other: number) => void): void;
	/** Puts bodies to sleep until something wakes them. */
	sleep(bodies: readonly number[]): void;
	/** Takes bodies that move alone out for good: they stay where they are and meet nothing. */
	remove(bodies: readonly number[]): void;
	/** Puts bodies that were not there where a record has them and at its speed: from now on they move by themselves. */
	appear(bodies: readonly number[], from: BodyState): void;
	/** Which carrier each body moves on; bodies on one move as one. The same array each time. */
	readonly carrier: Int32Array;
	/** Bodies on a carrier. */
	membersOf(carrier: number): readonly number[];
	/** Whether what is on this carrier is held by something that holds still. */
	isAnchored(carrier: number): boolean;
	/**
	 * Puts bodies on carriers of their own, group by group: they stay where they are, unless they are shifted. All members of every carrier that is
	 * named must be in some group, unless it is anchored: then the others stay so. They keep the speed of their
	 * material points.
	 */
	regroup(groups: readonly Group[]): void;
	/** Puts bodies that hold still somewhere else: where a blow has bent what they belong to. */
	bend(bodies: readonly number[], poseOf: (body: number) => KeyedPose): void;
	/** Keeps the state of everything that moves, for `writeState`; call before a step that may be done again, with its state. */
	remember(before: BodyState): void;
	/** Contact points of a body with others that matter in the last step, as they were before it moved. */
	contactsWith(body: number, matters: (other: number) => boolean, visit: (other: number, point: ContactPoint) => void): void;
	/** Adds an impulse (N s) at a place of the world, and one that turns (N m s), to a body; wakes it. */
	addImpulse(body: number, impulse: readonly [number, number, number], at: readonly [number, number, number]): void;
	addTurn(body: number, impulse: readonly [number, number, number]): void;
	/** Lets go a joint of the scene, by its number. */
	cutJoint(joint: number): void;
	/** Lets a joint out by so much from where it holds its first body, metres in that one's axes. */
	stretchJoint(joint: number, by: Vec3): void;
	/** Whether the body moves by itself in the engine now: neither held, nor anchored, nor asleep. */
	moves(body: number): boolean;
	snapshot(): Uint8Array;
	dispose(): void;
}

export interface KeyedPose {
	readonly translation: readonly [number, number, number];
	readonly rotation: readonly [number, number, number, number];
}

/** Starts an engine on a scene; `held`: 1 per body, see `Held`. From a snapshot where one is given. */
export type EngineFactory = (scene: SimScene, held: Uint8Array, snapshot?: Uint8Array) => Promise<Engine>;
