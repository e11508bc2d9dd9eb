import { compose, inverse, type Quat, quatAt, rotate, tripleAt, type Vec3, vec3 } from "../maths";
import { frameOfTick, type Ticks } from "../shot";
import { type BondNet, makeBondNet, useOfStrength } from "./bondNet";
import { type ContactLoad, contactLoads } from "./contactLoads";
import type { BodyState, Engine, Group } from "./engine";
import { balance, stressOf } from "./equilibrium";
import {
	BOND_BROKEN,
	BOND_WHOLE,
	type Break,
	BreakMode,
	type Lattice,
	makeLattice,
	type StrikePoint,
	type Striker,
	strike,
} from "./lattice";
import { centreOfMass } from "./pushes";
import { addInertia, rigidGroup } from "./rigid";
import { Kind, type SimScene, stepSeconds } from "./scene";
import { makeStructures, type Structures, structureOf } from "./structures";

/**
 * What is bonded moves as one body until its bonds break. Blows go through `lattice.ts` within the step in which they
 * fall; loads that come slowly, own weight among them, through `equilibrium.ts` once a frame. Whatever comes apart
 * moves on with the velocity of its material.
 */
export interface BondState {
	/** 1 per bond, see `lattice.ts`. */
	readonly state: Uint8Array;
	/** 1 per bond: share of its strength that has been lost to earlier blows. */
	readonly damage: Float64Array;
	/** 1 per bond: highest use of its strength in this frame. */
	readonly peak: Float64Array;
	/** 6 per body: how far a blow that is not over has moved it, and how fast. */
	readonly u: Float64Array;
	readonly v: Float64Array;
	/** 6 per body: the slow loads that were last looked at, and what they do. */
	readonly load: Float64Array;
	readonly bent: Float64Array;
	/** 1 per body, see `Look`. */
	readonly settled: Uint8Array;
	/** Bonds that broke, and the step until which what they tied does not push each other: 2 per bond. */
	grace: number[];
}

/** Whether the slow loads of a body's group are to be looked at; from `PutOff` on they should have been, for one frame and more. */
const Look = { Due: 0, Balanced: 1, Untouched: 2, PutOff: 3 } as const;

export function makeBondState(scene: SimScene): BondState {
	const [m, n] = [scene.bonds.count, scene.bonds.count > 0 ? scene.count : 0];
	return {
		state: new Uint8Array(m),
		damage: new Float64Array(m),
		peak: new Float64Array(m),
		u: new Float64Array(6 * n),
		v: new Float64Array(6 * n),
		load: new Float64Array(6 * n),
		bent: new Float64Array(6 * n),
		settled: new Uint8Array(n),
		grace: [],
	};
}

export const copyBondState = (from: BondState): BondState => ({
	state: from.state.slice(),
	damage: from.damage.slice(),
	peak: from.peak.slice(),
	u: from.u.slice(),
	v: from.v.slice(),
	load: from.load.slice(),
	bent: from.bent.slice(),
	settled: from.settled.slice(),
	grace: [...from.grace],
});

/** What it takes to find out who hangs together. */
interface Whereabouts {
	readonly net: BondNet;
	readonly state: BondState;
	/** 1 per body: 0 outside of the functions that use it. */
	readonly waiting: Uint8Array;
}

/** What a run knows of its bonds. */
export interface Bonded extends Whereabouts {
	/** 1 per bond: share of its strength that is left now. */
	readonly left: Float64Array;
	readonly structures: Structures;
	readonly lattice: Lattice;
	/** Whether `left` may be out of date: a blow has fallen, or it was never looked at. */
	disturbed: boolean;
	/** 1 per body: whether its group has been struck in this frame. */
	readonly struck: Uint8Array;
}

export interface BreakEvent extends Break {
	readonly a: number;
	readonly b: number;
}

interface Running {
	readonly scene: SimScene;
	readonly engine: Engine;
	readonly held: Uint8Array;
	readonly before: BodyState;
	readonly after: BodyState;
	readonly step: number;
}

/** Slower touches are loads, not blows. m/s */
const BLOW_SPEED = 0.3;
/** A blow is looked at from this share of what the weakest bond of the struck body bears. */
const WORTH_LOOKING = 0.1;
/** A blow that is not over goes on in the lattice from this use of some bond's strength on. */
const WORTH_GOING_ON = 0.2;
/**
 * What came apart shares a face, where rounding alone would throw it apart: for so many steps it does not push each other.
 * Where the speeds that the lattice gave it bring it into each other, that ends at once: a blow of 7 m/s left pieces of
 * concrete 19 cm inside each other for half a second otherwise, and even 1 cm of patience left them 12 cm deep.
 */
const GRACE_STEPS = 10;
/** Of the strength that damage can take. */
const MOST_DAMAGE = 0.6;
/** Relative change of loads from which they are looked at again. */
const LOAD_CHANGE = 0.05;
/** Iterations a frame, and bonds looked at in all of them together: a large structure goes on in the next frame. */
const LEAST_ITERATIONS = 5;
const WORK = 80_000;
/** Iterations for looking at a structure once, before anything moves. */
const PATIENT = 300;
/** Residual up to which stresses are believed. */
const BELIEVED = 0.02;
/** How often a frame breaks by slow loads and looks again, and which bonds go together with the worst. */
const ROUNDS = 4;
/**
 * Structures with more bonds than this are looked at once a frame, and not while a blow goes through them: it bears far more, and
 * changes them before the look is done. What it has undermined does not wait for longer than so many frames.
 */
const LARGE = 4000;
const MOST_PUT_OFF = 3;
const WITH_THE_WORST = 0.9;

/** Puts what is bonded on common carriers; call once, before the first step. */
export function bindGroups(scene: SimScene, engine: Engine, bonded: Bonded): void {
	if (scene.bonds.count === 0) return;
	const groups = partsOf(scene, bonded, bodiesWithBonds(scene)).filter(({ bodies, anchored }) => bodies.length > 1 || anchored);
	engine.regroup(groups);
}

export function makeBonded(scene: SimScene, state: BondState): Bonded {
	const { net, waiting, wholes } = atFirstFrame(scene);
	return {
		net,
		state,
		waiting,
		structures: makeStructures(scene, wholes),
		lattice: makeLattice(net, scene.bonds, scene.mass, (i) => scene.kind[i] === Kind.Active, wholes, stepSeconds(scene)),
		left: new Float64Array(scene.bonds.count).fill(1),
		disturbed: true,
		struck: new Uint8Array(scene.count),
	};
}

/** Who hangs together before anything has broken, and by which bonds. */
function atFirstFrame(scene: SimScene) {
	const fresh = { net: makeBondNet(scene), state: makeBondState(scene), waiting: new Uint8Array(scene.count) };
	const wholes = partsOf(scene, fresh, bodiesWithBonds(scene)).map(({ bodies, anchored }) => ({
		members: bodies,
		anchored,
		list: holdingBonds(scene, fresh, bodies),
	}));
	return { ...fresh, wholes };
}

const bodiesWithBonds = ({ count, bonded }: SimScene): number[] =>
	Array.from({ length: count }, (_, i) => i).filter((i) => bonded[i] === 1);

/** Connected parts of bodies over bonds that hold; bodies ascending. */
function partsOf({ bonds, kind }: SimScene, { net, state, waiting }: Whereabouts, members: readonly number[]): Group[] {
	for (const body of members) waiting[body] = 1;
	const parts: Group[] = [];
	for (const first of members) {
		if (waiting[first] === 0) continue;
		waiting[first] = 0;
		const bodies = [first];
		let anchored = false;
		for (let at = 0; at < bodies.length; at++)
			for (const k of net.of[bodies[at]!]!) {
				if (state.state[k] !== BOND_WHOLE) continue;
				if (kind[bonds.b[k]!] !== Kind.Active) {
					anchored = true;
					continue;
				}
				const other = bonds.a[k] === bodies[at] ? bonds.b[k]! : bonds.a[k]!;
				if (waiting[other] === 0) continue;
				waiting[other] = 0;
				bodies.push(other);
			}
		parts.push({ bodies: Array.from(Int32Array.from(bodies).sort()), anchored });
	}
	return parts;
}

/** How much of each bond's strength is left in a frame. */
export function weaken({ scene }: Pick<Running, "scene">, bonded: Bonded, tick: Ticks): void {
	const { bonds, settings } = scene;
	const { state, left } = bonded;
	if (!bonded.disturbed && !bonds.sets.some(({ fades }) => fades)) return;
	bonded.disturbed = false;
	const frame = frameOfTick(settings, tick);
	const bySet = bonds.sets.map((set) => set.left(frame));
	for (let k = 0; k < bonds.count; k++) {
		// A second blow finishes what the first began.
		if (state.peak[k]! > bonds.yields[k]!) {
			const damage = (MOST_DAMAGE * (Math.min(1, state.peak[k]!) - bonds.yields[k]!)) / Math.max(1e-9, 1 - bonds.yields[k]!);
			state.damage[k] = Math.max(state.damage[k]!, damage);
		}
		state.peak[k] = 0;
		const now = Math.max(0, bySet[bonds.set[k]!]! * (1 - state.damage[k]!));
		// Weaker bonds may give way under loads that have not changed.
		if (now < left[k]!) unsettle(state, bonds.a[k]!);
		left[k] = now;
	}
}

/** Has a body's group looked at again. How often that was put off stays known. */
function unsettle({ settled }: BondState, body: number): void {
	if (settled[body]! < Look.PutOff) settled[body] = Look.Due;
}

/** A group that is struck, and by what. */
interface Struck {
	readonly carrier: number;
	/** Carriers that strike it. */
	readonly by: Set<number>;
	/** Bodies of theirs that touch it. */
	readonly touching: Set<number>;
}

/** Blows of the last step that may break something. `keyed`: bodies that go by their keys. */
function findStruck(run: Running, { net, state, left }: Bonded, keyed: readonly number[]): Struck[] {
	const { scene, engine, before, held } = run;
	const { bonds, kind } = scene;
	const dt = stepSeconds(scene);
	const found = new Map<number, Struck>();
	const note = (body: number, by: number) => {
		const carrier = engine.carrier[body]!;
		const struck = found.get(carrier) ?? { carrier, by: new Set<number>(), touching: new Set<number>() };
		found.set(carrier, struck);
		struck.by.add(engine.carrier[by]!);
		struck.touching.add(by);
	};
	/** Whether a blow may come near to what the weakest bond of a body bears: over a step, or while the bond springs back (v √(k m)). */
	const worthIt = (i: number, impulse: number, approach: number): boolean =>
		net.of[i]!.some((k) => {
			if (state.state[k] !== BOND_WHOLE) return false;
			const bears = Math.min(bonds.tension[k]!, bonds.shear[k]!) * bonds.area[k]! * left[k]!;
			return Math.max(impulse / dt, Math.sqrt(net.stiffness[5 * k]! * net.young[k]! * impulse * approach)) >= WORTH_LOOKING * bears;
		});
	const isTied = (i: number): boolean =>
		scene.bonded[i] === 1 && held[i] === 0 && (engine.isAnchored(engine.carrier[i]!) || engine.membersOf(engine.carrier[i]!).length > 1);
	const { contacts } = engine;
	for (let k = 0; k < contacts.count; k++)
		for (const [body, by] of [
			[contacts.a[k]!, contacts.b[k]!],
			[contacts.b[k]!, contacts.a[k]!],
		] as const) {
			if (!isTied(body) || engine.carrier[body] === engine.carrier[by]) continue;
			const approach = engine.touch(by, body, before)?.approach ?? 0;
			if (approach >= BLOW_SPEED && worthIt(body, contacts.impulse[k]!, approach)) note(body, by);
		}
	// Keyed things exert no force on what is held, in the engine.
	for (const by of keyed)
		engine.nearKeyed(by, (body, { approach, distance }) => {
			if (body !== by && kind[body] === Kind.Active && isTied(body) && approach >= BLOW_SPEED && distance <= approach * dt) note(body, by);
		});
	return [...found.values()].sort((x, y) => x.carrier - y.carrier);
}

/** How a group has turned and moved since the first frame, and how it moves. */
interface Frame {
	readonly turn: Quat;
	readonly back: Quat;
	/** A body of it: its centre of mass now, and at the first frame. */
	readonly now: Vec3;
	readonly origin: Vec3;
	readonly velocity: Vec3;
	readonly spin: Vec3;
}

function frameOf({ scene, before }: Pick<Running, "scene" | "before">, net: BondNet, body: number, still: boolean): Frame {
	const turn = compose(quatAt(before.rotation, body), inverse(quatAt(scene.rotation, body)));
	return {
		turn,
		back: inverse(turn),
		now: centreOfMass(scene, before, body),
		origin: tripleAt(net.centre, body),
		velocity: still ? vec3.ZERO : tripleAt(before.velocity, body),
		spin: still ? vec3.ZERO : tripleAt(before.spin, body),
	};
}

const toFrame = ({ back, now, origin }: Frame, place: Vec3): Vec3 => vec3.add(origin, rotate(back, vec3.subtract(place, now)));
const fromFrame = ({ turn, now, origin }: Frame, place: Vec3): Vec3 => vec3.add(now, rotate(turn, vec3.subtract(place, origin)));
/** Velocity of the group's material at a place in the world. */
const materialSpeed = ({ velocity, spin, now }: Frame, place: Vec3): Vec3 =>
	vec3.add(velocity, vec3.cross(spin, vec3.subtract(place, now)));

/** What moves as one in the world: mass, centre, mean inertia, speed. */
function rigid({ scene, engine, before }: Running, carrier: number) {
	const whole = rigidGroup(scene, engine, before, carrier);
	const first = engine.membersOf(carrier)[0]!;
	const spin = tripleAt(before.spin, first);
	const arm = vec3.subtract(whole.centre, centreOfMass(scene, before, first));
	return { ...whole, velocity: vec3.add(tripleAt(before.velocity, first), vec3.cross(spin, arm)), spin };
}

/**
 * Does what the last step's blows do to bonded groups. Returns what broke and the pairs that have had their blow, or
 * undefined where the engine's own answer stands; else the state before the step has been put back, with the new speeds,
 * and the step is to be done again with those pairs muted. `speedOf`: of bodies that go by their keys, m/s and rad/s.
 */
export function takeBlows(
	run: Running,
	bonded: Bonded,
	keyed: readonly number[],
	speedOf: (body: number) => { readonly velocity: Vec3; readonly spin: Vec3 },
): { readonly broke: BreakEvent[]; readonly muted: [number, number][] } | undefined {
	const struck = findStruck(run, bonded, keyed);
	if (struck.length === 0) return undefined;
	bonded.disturbed = true;
	const { scene, engine, before } = run;
	const isKeyed = new Set(keyed);
	const broke: BreakEvent[] = [];
	const muted: [number, number][] = [];
	const groups: Group[] = [];
	const changed: number[] = [];
	for (const one of struck) {
		const outcome = strikeGroup(run, bonded, one, isKeyed, speedOf);
		if (!outcome) continue;
		broke.push(...outcome.broke);
		muted.push(...outcome.muted);
		groups.push(...outcome.groups);
		for (const { bodies, velocity, spin } of outcome.strikers)
			for (const i of bodies) {
				before.velocity.set(velocity(i), 3 * i);
				before.spin.set(spin, 3 * i);
				changed.push(i);
			}
	}
	// Whatever had its blow is muted.
	if (muted.length === 0) return undefined;
	engine.writeState(before);
	const regrouped = new Set(groups.flatMap(({ bodies }) => bodies));
	engine.regroup(groups);
	engine.setVelocities(
		changed.filter((i) => !regrouped.has(i)),
		before,
	);
	for (const { bond, b } of broke) if (scene.kind[b] === Kind.Active) bonded.state.grace.push(bond, run.step + GRACE_STEPS);
	return { broke, muted };
}

interface Outcome {
	readonly broke: BreakEvent[];
	readonly muted: [number, number][];
	readonly groups: Group[];
	readonly strikers: readonly { readonly bodies: readonly number[]; readonly velocity: (body: number) => Vec3; readonly spin: Vec3 }[];
}

/** One group's blow; undefined where it is over and nothing broke: then the engine's own answer is as good, and has bounce. */
function strikeGroup(
	run: Running,
	bonded: Bonded,
	{ carrier, by, touching }: Struck,
	keyed: ReadonlySet<number>,
	speedOf: (body: number) => { readonly velocity: Vec3; readonly spin: Vec3 },
): Outcome | undefined {
	const { scene, engine, before } = run;
	const { bonds } = scene;
	const { net, state, left } = bonded;
	const dt = stepSeconds(scene);
	const members = engine.membersOf(carrier);
	const anchored = engine.isAnchored(carrier);
	const frame = frameOf(run, net, members[0]!, anchored);
	const belongs = (k: number): boolean => {
		const [a, b] = [bonds.a[k]!, bonds.b[k]!];
		return engine.carrier[a] === carrier && (scene.kind[b] !== Kind.Active || engine.carrier[b] === carrier);
	};
	const carriers = [...by].sort((a, b) => a - b);
	const world = carriers.map((c) => {
		const first = engine.membersOf(c)[0]!;
		const whole = rigid(run, c);
		if (keyed.has(first)) return { ...whole, ...speedOf(first), mass: Number.POSITIVE_INFINITY };
		const still = scene.kind[first] !== Kind.Active || engine.isAnchored(c) || run.held[first] !== 0;
		return still ? { ...whole, mass: Number.POSITIVE_INFINITY, velocity: vec3.ZERO, spin: vec3.ZERO } : whole;
	});
	const strikers: Striker[] = world.map(({ mass, inertia, centre, velocity, spin }) => ({
		mass,
		inertia: Math.max(inertia, 1e-12),
		centre: toFrame(frame, centre),
		velocity: Float64Array.from(rotate(frame.back, vec3.subtract(velocity, materialSpeed(frame, centre)))),
		spin: Float64Array.from(rotate(frame.back, vec3.subtract(spin, frame.spin))),
	}));
	const points: StrikePoint[] = [];
	const muted: [number, number][] = [];
	for (const body of [...touching].sort((a, b) => a - b)) {
		const striker = carriers.indexOf(engine.carrier[body]!);
		const speed = vec3.length(Array.from(strikers[striker]!.velocity) as unknown as Vec3);
		engine.contactsWith(body, (other, { place, normal, distance }) => {
			if (engine.carrier[other] !== carrier || distance > speed * dt) return;
			const at = toFrame(frame, place);
			const n = rotate(frame.back, normal);
			const moved = anchored ? movedAt(state.u, net.centre, other, at, n) : 0;
			points.push({
				striker,
				body: other,
				place: at,
				normal: n,
				// A contact begins without load: what already overlaps would push back with energy that nobody has put in.
				gap: Math.max(distance + moved, 0),
				friction: (scene.friction[body]! + scene.friction[other]!) / 2,
			});
			muted.push([body, other]);
		});
	}
	if (points.length === 0) return undefined;
	if (!anchored)
		for (const i of members) {
			state.u.fill(0, 6 * i, 6 * i + 6);
			state.v.fill(0, 6 * i, 6 * i + 6);
		}
	bonded.lattice.dt = dt;
	const { broke, highest } = strike({
		lattice: bonded.lattice,
		net,
		bonds,
		members,
		belongs,
		state: state.state,
		left,
		peak: state.peak,
		u: state.u,
		v: state.v,
		strikers,
		points,
	});
	const nearest = new Float64Array(strikers.length).fill(Number.POSITIVE_INFINITY);
	for (const { striker, gap } of points) nearest[striker] = Math.min(nearest[striker]!, gap);
	// What touched nowhere when the step began has not had its blow yet: the engine would let it bounce from a distance.
	const goesOn = points.some(
		({ striker, normal }) =>
			(highest > WORTH_GOING_ON || nearest[striker]! > 0) &&
			vec3.dot(normal, Array.from(strikers[striker]!.velocity) as unknown as Vec3) > BLOW_SPEED,
	);
	if (broke.length === 0 && !goesOn) {
		for (const i of members) {
			state.u.fill(0, 6 * i, 6 * i + 6);
			state.v.fill(0, 6 * i, 6 * i + 6);
		}
		return undefined;
	}
	const speeds = (i: number) => ({
		velocity: vec3.add(materialSpeed(frame, centreOfMass(scene, before, i)), rotate(frame.turn, tripleAt(state.v, 2 * i))),
		spin: vec3.add(frame.spin, rotate(frame.turn, tripleAt(state.v, 2 * i + 1))),
	});
	// Where nothing broke and nothing moves by itself all stays as it is.
	const parts = broke.length > 0 ? partsOf(scene, bonded, members) : anchored ? [] : [{ bodies: members, anchored }];
	const groups = parts.map((part) => (part.anchored ? part : { ...part, ...together(run, net, part.bodies, speeds) }));
	for (const i of members) {
		bonded.struck[i] = 1;
		unsettle(state, i);
	}
	for (const part of parts) {
		if (part.anchored) continue;
		for (const i of part.bodies) {
			state.u.fill(0, 6 * i, 6 * i + 6);
			state.v.fill(0, 6 * i, 6 * i + 6);
		}
	}
	return {
		broke: broke.map((one) => ({ ...one, a: bonds.a[one.bond]!, b: bonds.b[one.bond]! })),
		muted,
		groups,
		strikers: carriers.flatMap((c, n) => {
			if (world[n]!.mass === Number.POSITIVE_INFINITY) return [];
			const { centre } = world[n]!;
			const spin = vec3.add(frame.spin, rotate(frame.turn, Array.from(strikers[n]!.spin) as unknown as Vec3));
			const own = vec3.add(materialSpeed(frame, centre), rotate(frame.turn, Array.from(strikers[n]!.velocity) as unknown as Vec3));
			const velocity = (i: number) => vec3.add(own, vec3.cross(spin, vec3.subtract(centreOfMass(scene, before, i), centre)));
			return [{ bodies: engine.membersOf(c), velocity, spin }];
		}),
	};
}

/** How far a body's material at a place has moved along a direction, by what the blow has done to it so far. */
function movedAt(u: Float64Array, centre: Float64Array, i: number, place: Vec3, n: Vec3): number {
	const r = vec3.subtract(place, tripleAt(centre, i));
	return vec3.dot(n, vec3.add(tripleAt(u, 2 * i), vec3.cross(tripleAt(u, 2 * i + 1), r)));
}

/** The rigid motion of several bodies that has their momentum and their angular momentum. */
function together(
	{ scene, before }: Pick<Running, "scene" | "before">,
	net: BondNet,
	bodies: readonly number[],
	speeds: (body: number) => { readonly velocity: Vec3; readonly spin: Vec3 },
): { readonly velocity: Vec3; readonly spin: Vec3 } {
	if (bodies.length === 1) return speeds(bodies[0]!);
	let mass = 0;
	let centre: Vec3 = vec3.ZERO;
	let momentum: Vec3 = vec3.ZERO;
	const places = bodies.map((i) => centreOfMass(scene, before, i));
	const all = bodies.map(speeds);
	for (const [z, i] of bodies.entries()) {
		const m = scene.mass[i]!;
		mass += m;
		centre = vec3.add(centre, vec3.scale(places[z]!, m));
		momentum = vec3.add(momentum, vec3.scale(all[z]!.velocity, m));
	}
	centre = vec3.scale(centre, 1 / mass);
	const velocity = vec3.scale(momentum, 1 / mass);
	let turning: Vec3 = vec3.ZERO;
	const tensor = [0, 0, 0, 0, 0, 0, 0, 0, 0];
	for (const [z, i] of bodies.entries()) {
		const m = scene.mass[i]!;
		const r = vec3.subtract(places[z]!, centre);
		turning = vec3.add(turning, vec3.add(vec3.scale(vec3.cross(r, all[z]!.velocity), m), vec3.scale(all[z]!.spin, net.inertia[i]!)));
		addInertia(tensor, m, r, net.inertia[i]!);
	}
	return { velocity, spin: solve3(tensor, turning) };
}

/** x of A x = b, by Cramer's rule; A row by row. */
export function solve3(a: readonly number[], b: Vec3): Vec3 {
	const rows = [0, 3, 6].map((r) => [a[r]!, a[r + 1]!, a[r + 2]!] as const) as [Vec3, Vec3, Vec3];
	const det = vec3.dot(rows[0], vec3.cross(rows[1], rows[2]));
	if (det === 0) return vec3.ZERO;
	const columns = [0, 1, 2].map((c) => [rows[0][c]!, rows[1][c]!, rows[2][c]!] as const) as [Vec3, Vec3, Vec3];
	return [
		vec3.dot(b, vec3.cross(columns[1], columns[2])) / det,
		vec3.dot(columns[0], vec3.cross(b, columns[2])) / det,
		vec3.dot(columns[0], vec3.cross(columns[1], b)) / det,
	];
}

/** Pairs that came apart a moment ago; forgets those whose time is over and those that close in on each other. */
export function inGrace(run: Pick<Running, "scene" | "before" | "step">, { net, state }: Bonded): [number, number][] {
	const { bonds } = run.scene;
	const kept: number[] = [];
	const pairs: [number, number][] = [];
	for (let k = 0; k < state.grace.length; k += 2) {
		const [bond, until] = [state.grace[k]!, state.grace[k + 1]!];
		const [a, b] = [bonds.a[bond]!, bonds.b[bond]!];
		if (until < run.step) continue;
		const frame = frameOf(run, net, a, true);
		const place = tripleAt(bonds.centre, bond);
		const into = vec3.dot(
			rotate(frame.turn, tripleAt(bonds.normal, bond)),
			vec3.subtract(fromFrame(frame, place), fromFrame(frameOf(run, net, b, true), place)),
		);
		if (into > 0) continue;
		kept.push(bond, until);
		pairs.push([a, b]);
	}
	state.grace = kept;
	return pairs;
}

/**
 * Slow loads of all groups at the end of a frame: own weight, forces of the shot (3 per body, N), and what lies or leans
 * on them. Returns what broke.
 */
export function bearLoads(run: Running, bonded: Bonded, pushed: ReadonlyMap<number, Vec3>): BreakEvent[] {
	const { scene, engine, held } = run;
	const { bonds } = scene;
	const { state } = bonded;
	const broke: BreakEvent[] = [];
	const seen = new Set<number>();
	const first = run.step * scene.settings.fps <= scene.settings.stepsPerSecond;
	const contacts = contactLoads(run, scene.bonded);
	const touched = new Set([...contacts.keys(), ...pushed.keys()].map((i) => engine.carrier[i]!));
	for (let i = 0; i < scene.count; i++) {
		if (scene.bonded[i] !== 1 || held[i] !== 0) continue;
		const carrier = engine.carrier[i]!;
		if (seen.has(carrier)) continue;
		seen.add(carrier);
		let members = engine.membersOf(carrier);
		let anchored = engine.isAnchored(carrier);
		if (members.length === 1 && !anchored) continue;
		// Nothing has changed for what stands by itself, untouched as before.
		if (anchored && !touched.has(carrier) && members.every((body) => state.settled[body] === Look.Untouched)) continue;
		if (isPutOff(scene, bonded, members)) continue;
		const balanced = anchored && !touched.has(carrier) ? Look.Untouched : Look.Balanced;
		for (let round = 0; round < ROUNDS; round++) {
			const list = holdingBonds(scene, bonded, members);
			if (list.length === 0) break;
			const load = loadOf(run, bonded, members, anchored, contacts, pushed);
			if (!needsLook(state, members, load)) break;
			for (const [z, body] of members.entries()) state.load.set(load.subarray(6 * z, 6 * z + 6), 6 * body);
			const u = new Float64Array(6 * members.length);
			for (const [z, body] of members.entries()) u.set(state.bent.subarray(6 * body, 6 * body + 6), 6 * z);
			// The first look has time.
			const iterations = first ? PATIENT : Math.max(LEAST_ITERATIONS, Math.min(PATIENT, Math.round(WORK / list.length)));
			const residual = balance(structureOf(bonded.structures, bonded.net, scene, { members, list }), load, u, iterations);
			for (const [z, body] of members.entries()) {
				state.bent.set(u.subarray(6 * z, 6 * z + 6), 6 * body);
				state.settled[body] = residual <= BELIEVED ? balanced : Look.Due;
			}
			if (residual > BELIEVED) break;
			const over = overloaded(bonded, bonds, members, list, u);
			if (over.length === 0) break;
			for (const one of over) state.state[one.bond] = BOND_BROKEN;
			broke.push(...over.map((one) => ({ ...one, a: bonds.a[one.bond]!, b: bonds.b[one.bond]! })));
			for (const body of members) state.settled[body] = Look.Due;
			const parts = partsOf(scene, bonded, members);
			if (parts.length > 1 || parts[0]!.anchored !== anchored) engine.regroup(parts);
			const rest = parts.find((part) => part.anchored) ?? [...parts].sort((x, y) => y.bodies.length - x.bodies.length)[0]!;
			members = rest.bodies;
			anchored = rest.anchored;
			if ((members.length === 1 && !anchored) || list.length > LARGE) break;
		}
	}
	bonded.struck.fill(0);
	return broke;
}

/** Whether a group's loads wait for a blow to be over; counts how often. */
function isPutOff(scene: SimScene, bonded: Bonded, members: readonly number[]): boolean {
	const { settled } = bonded.state;
	const first = members[0]!;
	const times = Math.max(0, settled[first]! + 1 - Look.PutOff);
	if (bonded.struck[first] === 0 || times === MOST_PUT_OFF || holdingBonds(scene, bonded, members).length <= LARGE) return false;
	settled[first] = Look.PutOff + times;
	return true;
}

/** Bonds that hold bodies of a group together, or to what holds still; ascending. */
function holdingBonds({ bonds, kind }: SimScene, { net, state, waiting }: Whereabouts, members: readonly number[]): number[] {
	for (const body of members) waiting[body] = 1;
	const list: number[] = [];
	for (const body of members)
		for (const k of net.of[body]!)
			if (bonds.a[k] === body && state.state[k] === BOND_WHOLE && (kind[bonds.b[k]!] !== Kind.Active || waiting[bonds.b[k]!] === 1))
				list.push(k);
	for (const body of members) waiting[body] = 0;
	return Array.from(Int32Array.from(list).sort());
}

/** Whether the loads have changed since they were last in balance. */
function needsLook(state: BondState, members: readonly number[], load: Float64Array): boolean {
	let change = 0;
	let whole = 0;
	for (const [z, body] of members.entries())
		for (let d = 0; d < 6; d++) {
			const value = load[6 * z + d]!;
			change += (value - state.load[6 * body + d]!) ** 2;
			whole += value * value;
		}
	if (members.some((body) => state.settled[body] === Look.Due || state.settled[body]! >= Look.PutOff)) return whole > 0;
	return change > LOAD_CHANGE * LOAD_CHANGE * whole;
}

/** Bonds over their limit in a solution: the worst, and those nearly as bad. */
function overloaded(
	{ net, left }: Bonded,
	bonds: SimScene["bonds"],
	members: readonly number[],
	list: readonly number[],
	u: Float64Array,
): Break[] {
	const local = new Map(members.map((body, z) => [body, z]));
	const all = list.map((bond) => {
		const stress = stressOf(net, bonds, bond, u, local.get(bonds.a[bond]!) ?? -1, local.get(bonds.b[bond]!) ?? -1);
		const limits = {
			tension: bonds.tension[bond]! * left[bond]!,
			shear: bonds.shear[bond]! * left[bond]!,
			compression: bonds.compression[bond]! * left[bond]!,
		};
		return { bond, stress, limits, use: useOfStrength(stress, limits) };
	});
	const worst = all.reduce((most, { use }) => Math.max(most, use), 0);
	if (!(worst > 1)) return [];
	return all
		.filter(({ use }) => use >= Math.max(1, WITH_THE_WORST * worst))
		.map(({ bond, stress, limits, use }) => {
			const mode =
				stress.tension / limits.tension >= use
					? BreakMode.Tension
					: stress.compression / limits.compression >= use
						? BreakMode.Compression
						: BreakMode.Shear;
			return {
				bond,
				mode,
				stress: mode === BreakMode.Tension ? stress.tension : mode === BreakMode.Shear ? stress.shear : stress.compression,
			};
		});
}

/** 6 per member, in the axes of the first frame; of a group that nothing holds, against its own acceleration. */
function loadOf(
	run: Running,
	bonded: Bonded,
	members: readonly number[],
	anchored: boolean,
	contacts: ReadonlyMap<number, ContactLoad>,
	pushed: ReadonlyMap<number, Vec3>,
): Float64Array {
	const { scene, after } = run;
	const { net } = bonded;
	const frame = frameOf({ scene, before: after }, net, members[0]!, true);
	const load = new Float64Array(6 * members.length);
	let force: Vec3 = vec3.ZERO;
	let moment: Vec3 = vec3.ZERO;
	let mass = 0;
	let centre: Vec3 = vec3.ZERO;
	for (const i of members) {
		mass += scene.mass[i]!;
		centre = vec3.add(centre, vec3.scale(tripleAt(net.centre, i), scene.mass[i]!));
	}
	centre = vec3.scale(centre, 1 / mass);
	for (const [z, i] of members.entries()) {
		const contact = contacts.get(i);
		let f = vec3.scale(tripleAt(scene.gravity, scene.world[i]!), scene.mass[i]!);
		if (pushed.has(i)) f = vec3.add(f, pushed.get(i)!);
		if (contact) f = vec3.add(f, contact.force);
		const own = rotate(frame.back, f);
		const about = contact ? rotate(frame.back, contact.moment) : vec3.ZERO;
		load.set(own, 6 * z);
		load.set(about, 6 * z + 3);
		force = vec3.add(force, own);
		moment = vec3.add(moment, vec3.add(about, vec3.cross(vec3.subtract(tripleAt(net.centre, i), centre), own)));
	}
	if (anchored) return load;
	const acceleration = vec3.scale(force, 1 / mass);
	const tensor = [0, 0, 0, 0, 0, 0, 0, 0, 0];
	for (const i of members) {
		const r = vec3.subtract(tripleAt(net.centre, i), centre);
		addInertia(tensor, scene.mass[i]!, r, net.inertia[i]!);
	}
	const turning = solve3(tensor, moment);
	let largest = 0;
	for (const [z, i] of members.entries()) {
		const r = vec3.subtract(tripleAt(net.centre, i), centre);
		const f = vec3.scale(vec3.add(acceleration, vec3.cross(turning, r)), scene.mass[i]!);
		const t = vec3.scale(turning, net.inertia[i]!);
		for (let d = 0; d < 3; d++) {
			load[6 * z + d]! -= f[d]!;
			load[6 * z + 3 + d]! -= t[d]!;
			largest = Math.max(largest, Math.abs(load[6 * z + d]!));
		}
	}
	// In free fall nothing but rounding is left.
	return largest < 1e-6 * mass * 9.81 ? new Float64Array(load.length) : load;
}

/** 1 per bond: the share of its strength that the structure's own weight takes while it stands; 0 where nothing holds it. */
export function restingUse(scene: SimScene): Float64Array {
	const { bonds } = scene;
	const use = new Float64Array(bonds.count);
	const { net, wholes } = atFirstFrame(scene);
	const structures = makeStructures(scene, wholes);
	for (const { members, list, anchored } of wholes) {
		if (!anchored) continue;
		const load = new Float64Array(6 * members.length);
		for (const [z, i] of members.entries()) load.set(vec3.scale(tripleAt(scene.gravity, scene.world[i]!), scene.mass[i]!), 6 * z);
		const u = new Float64Array(load.length);
		balance(structureOf(structures, net, scene, { members, list }), load, u, PATIENT);
		const local = new Map(members.map((body, z) => [body, z]));
		for (const k of list) {
			const stress = stressOf(net, bonds, k, u, local.get(bonds.a[k]!) ?? -1, local.get(bonds.b[k]!) ?? -1);
			use[k] = Math.max(
				0,
				useOfStrength(stress, { tension: bonds.tension[k]!, shear: bonds.shear[k]!, compression: bonds.compression[k]! }),
			);
		}
	}
	return use;
}
