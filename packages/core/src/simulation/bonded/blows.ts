import { quatAt, rotate, tripleAt, type Vec3, vec3 } from "../../maths";
import type { Group } from "../engine";
import { centreOfMass } from "../pushes";
import { movedPose, type RigidMotion } from "../rigid";
import { stepSeconds } from "../scene";
import { forgetBent, shiftOf, showBent, unbend } from "./bent";
import type { Pressed, StrikePoint, Striker } from "./blowContacts";
import { commonMotion, takeOff } from "./commonMotion";
import { giveGrace } from "./grace";
import { frameOfGroup, fromFrame, materialSpeed } from "./groupFrame";
import { strike } from "./lattice";
import { partsOff } from "./parts";
import { type Bonded, type BreakEvent, type Running, unsettle } from "./state";
import { BLOW_SPEED, findStrike, type Moment, massOf } from "./strikers";
import { findStruck, mayHarm, type Struck } from "./struck";

/** A blow that is not over goes on in the lattice from this use of some bond's strength on, or where it may come to it. */
const WORTH_GOING_ON = 0.2;
/**
 * Waves go on in the lattice when nothing strikes any more while they use this share of some bond's strength: where they meet they load
 * bonds twice. Without that a floating block of which a step of 1/120 s breaks 184 bonds lost 58 in steps of an eighth.
 */
const WORTH_RINGING = 0.5;

/** What blows did. */
export interface BlowsTaken {
	readonly broke: readonly BreakEvent[];
	/** Pairs that have had their blow. */
	readonly muted: readonly (readonly [number, number])[];
}

/**
 * Does what the last step's blows do to bonded groups. Returns what that was, or undefined where the engine's own answer stands; else
 * the state before the step has been put back, with the new speeds, and the step is to be done again with those pairs muted. "coarse":
 * the step is too long for them, and nothing has been done.
 */
export function takeBlows(run: Running, bonded: Bonded, moment: Moment): BlowsTaken | "coarse" | undefined {
	const { scene, engine, before } = run;
	const { state } = bonded;
	const struck = findStruck(run, bonded, moment);
	if (moment.mayDivide && struck.some(({ isCoarse }) => isCoarse)) return "coarse";
	const { pressed } = state;
	state.pressed = new Map();
	state.ringing = [];
	if (struck.length === 0) return undefined;
	bonded.disturbed = true;
	bonded.lattice.dt = stepSeconds(scene);
	bonded.lattice.now = moment.now;
	const outcomes: Outcome[] = [];
	const moved: number[] = [];
	const changed: number[] = [];
	const apart = new Set<number>();
	// One after the other: what has struck one group has another speed for the next.
	for (const one of struck) {
		const waves = strikeGroup(run, bonded, one, moment, apart, pressed);
		for (const i of waves?.moved ?? []) moved.push(i);
		const outcome = waves?.outcome;
		if (!outcome) continue;
		outcomes.push(outcome);
		if (outcome.broke.length > 0) apart.add(one.carrier);
		for (const { bodies, velocity, spin } of outcome.moves)
			for (const i of bodies) {
				before.velocity.set(velocity(i), 3 * i);
				before.spin.set(spin, 3 * i);
				changed.push(i);
			}
	}
	if (outcomes.length > 0) {
		const groups = outcomes.flatMap((outcome) => outcome.groups);
		engine.writeState(before);
		// What comes off does so in its own shape.
		unbend(
			run,
			bonded,
			groups.flatMap(({ bodies, anchored }) => (anchored ? [] : bodies)),
		);
		engine.regroup(groups);
		for (const { bodies, shift } of groups)
			for (const i of shift ? bodies : []) {
				const pose = movedPose({ translation: tripleAt(before.position, i), rotation: quatAt(before.rotation, i) }, shift!);
				before.position.set(pose.translation, 3 * i);
				before.rotation.set(pose.rotation, 4 * i);
			}
		engine.setVelocities(changed, before);
	}
	showBent(run, bonded, before, moved);
	if (outcomes.length === 0) return undefined;
	const broke = outcomes.flatMap((outcome) => outcome.broke);
	giveGrace(run, bonded, broke);
	return { broke, muted: outcomes.flatMap((outcome) => outcome.muted) };
}

interface Outcome extends BlowsTaken {
	readonly groups: readonly Group[];
	readonly moves: readonly Moves[];
}

/** Bodies that move as one otherwise than before: m/s of each body's centre, rad/s. */
interface Moves {
	readonly bodies: readonly number[];
	readonly velocity: (body: number) => Vec3;
	readonly spin: Vec3;
}

interface Waves {
	/** Bodies that have been moved or had been. */
	readonly moved: Int32Array;
	/** Undefined where the blow is over and nothing broke: then the engine's own answer is as good, and has bounce. */
	readonly outcome: Outcome | undefined;
}

/** One group's blow; undefined where there is none. */
function strikeGroup(
	run: Running,
	bonded: Bonded,
	struck: Struck,
	moment: Moment,
	apart: ReadonlySet<number>,
	pressed: Pressed,
): Waves | undefined {
	const { scene, engine, before } = run;
	const { bonds } = scene;
	const { net, state } = bonded;
	const members = engine.membersOf(struck.carrier);
	const anchored = engine.isAnchored(struck.carrier);
	const frame = frameOfGroup(run, net, members[0]!, anchored, false);
	const { carriers, strikers, points, muted, coming } = findStrike(run, bonded, struck, moment, apart, frame);
	if (points.length === 0 && !struck.rings)
		return coming.length > 0 ? { moved: new Int32Array(0), outcome: { broke: [], muted: coming, groups: [], moves: [] } } : undefined;
	const wasOn = points.some(({ pair }) => pressed.has(pair));
	/** How it was bent when the step began. */
	const bent = bonded.bentBefore;
	bent.set(state.u);
	const { broke, highest, holds, moved } = strike({
		lattice: bonded.lattice,
		net,
		bonds,
		anchored,
		members,
		state: state.state,
		left: bonded.left,
		peak: state.peak,
		u: state.u,
		v: state.v,
		strikers,
		points,
		pressed,
	});
	const mass = anchored ? Number.POSITIVE_INFINITY : massOf(run, members[0]!);
	const goesOn =
		(highest > WORTH_GOING_ON && throwsBack(holds, points, strikers, mass)) ||
		points.some((point) => comesOn(run, bonded, points, strikers, point, highest));
	const rings = goesOn || highest > WORTH_RINGING;
	const stop = (bodies: readonly number[]): void => {
		for (const i of bodies) state.v.fill(0, 6 * i, 6 * i + 6);
	};
	/** Waves go on in parts of several bodies, and in what holds still. */
	const ringOn = (part: Group): void => {
		if (part.bodies.length === 0) return;
		if (!part.anchored && part.bodies.length === 1) forgetBent(bonded, part.bodies);
		else if (rings) state.ringing.push(part.bodies[0]!);
		else stop(part.bodies);
	};
	const whole: Group = { bodies: members, anchored };
	if (broke.length === 0 && !goesOn && !wasOn) {
		if (!anchored) for (const motions of [state.u, state.v]) takeOff(commonMotion(scene, net, members, motions), net, members, motions);
		ringOn(whole);
		return { moved, outcome: undefined };
	}
	if (goesOn) for (const [pair, energy] of holds) state.pressed.set(pair, energy);
	/** What moves as one in the group's axes, in the world. */
	const inWorld = (bodies: readonly number[], { along, about, centre }: RigidMotion): Moves => {
		const middle = fromFrame(frame, centre);
		const spin = vec3.add(frame.spin, rotate(frame.turn, about));
		const own = vec3.add(materialSpeed(frame, middle), rotate(frame.turn, along));
		return { bodies, spin, velocity: (i) => vec3.add(own, vec3.cross(spin, vec3.subtract(centreOfMass(scene, before, i), middle))) };
	};
	const moves: Moves[] = [];
	/** What a part does as one from now on, from where it has been bent to; what is left of the motion of its bodies goes on within it. */
	const together = (part: Group): Group => {
		const { bodies } = part;
		const speed = commonMotion(scene, net, bodies, state.v);
		takeOff(commonMotion(scene, net, bodies, state.u), net, bodies, state.u);
		takeOff(speed, net, bodies, state.v);
		moves.push(inWorld(bodies, speed));
		return { ...part, shift: shiftOf(run, bonded, frame, bodies, bent) };
	};
	// Where nothing broke and nothing moves by itself all stays as it is.
	const ends = broke.flatMap(({ bond }) => [bonds.a[bond]!, bonds.b[bond]!]);
	const parts = broke.length > 0 ? partsOff(scene, bonded, members, anchored, ends) : anchored ? [] : [whole];
	const groups = parts.map((part) => (part.anchored ? part : together(part)));
	for (const [n, c] of carriers.entries()) {
		const { velocity, spin, centre, mass } = strikers[n]!;
		if (mass < Number.POSITIVE_INFINITY)
			moves.push(inWorld(engine.membersOf(c), { along: tripleAt(velocity, 0), about: tripleAt(spin, 0), centre }));
	}
	for (const i of members) {
		bonded.struck[i] = 1;
		unsettle(state, i);
	}
	const off = new Set(parts.flatMap((part) => part.bodies));
	for (const part of parts) ringOn(part);
	const left = members.find((i) => !off.has(i));
	if (rings && left !== undefined) state.ringing.push(left);
	if (!rings) stop(Array.from(moved).filter((i) => !off.has(i)));
	const outcome = { broke: broke.map((one) => ({ ...one, a: bonds.a[one.bond]!, b: bonds.b[one.bond]! })), muted, groups, moves };
	return { moved, outcome };
}

/**
 * Whether contacts hold enough to throw some striker back from what is struck, kg, as a blow: what lies on weak bonds presses them for ever,
 * and sank in by millimetres because that was taken for a blow.
 */
function throwsBack(holds: Pressed, points: readonly StrikePoint[], strikers: readonly Striker[], struck: number): boolean {
	const energy = new Float64Array(strikers.length);
	const pairs = new Map(points.map(({ pair, striker }) => [pair, striker]));
	for (const [pair, held] of holds) energy[pairs.get(pair)!]! += held;
	return strikers.some(({ mass }, n) => {
		// What goes by its keys is not thrown back: it goes on for as long as it presses what holds still.
		const together = mass === Number.POSITIVE_INFINITY && struck === mass ? 0 : 1 / (1 / mass + 1 / struck);
		return energy[n]! > 0.5 * together * BLOW_SPEED * BLOW_SPEED;
	});
}

/** Whether what strikes at this point has not had all of its blow. `highest`: use of some bond's strength in the step. */
function comesOn(
	run: Running,
	bonded: Bonded,
	points: readonly StrikePoint[],
	strikers: readonly Striker[],
	{ striker, body, normal }: StrikePoint,
	highest: number,
): boolean {
	if (body < 0) return false;
	const { velocity, mass } = strikers[striker]!;
	const approach = vec3.dot(normal, tripleAt(velocity, 0));
	if (approach <= BLOW_SPEED) return false;
	if (highest > WORTH_GOING_ON || mayHarm(run, bonded, body, (stiffness) => approach * Math.sqrt(stiffness * mass), WORTH_GOING_ON))
		return true;
	// What touched nowhere when the step began has not had its blow yet: the engine would let it bounce from a distance.
	return points.every((other) => other.striker !== striker || other.body < 0 || other.gap > 0);
}
