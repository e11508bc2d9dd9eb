import type { Bonds } from "../../bonds";
import type { Vec3 } from "../../maths";
import type { BondedPart, BondNet } from "./bondNet";
import {
	BREAK,
	fillMotions,
	type LatticeMemory,
	MOTION,
	MOTION_SPEED,
	makeLatticeMemory,
	NODE_FORCE,
	NODE_MOMENT,
	type Nodes,
	nodeAt,
	peakOfLane,
	Role,
	setStrength,
	takeMotions,
} from "./latticeMemory";

/**
 * A blow on bonded bodies: bodies as masses, bonds as damped springs (rigid bodies and springs, Kawai 1978; explicit
 * symplectic Euler), what strikes as rigid bodies in penalty contact. Within one step of the simulation it takes as many
 * small steps as the waves need; a bond breaks at its limit of tension with bending, of shear with friction, or of
 * compression (Mohr and Coulomb with a cut-off); broken faces go on pressing and rubbing until they have slipped away.
 *
 * Why not an impulse shared out by a static solution: it is computed against a structure that does not give way, and
 * then laid on one that gets weaker. Tried on a wall of 20 × 20 bricks struck by 300 kg at 15 m/s: static equilibrium
 * broke all of it at once, foot too; breaking the worst bonds only and solving again stopped the striker dead; with
 * inertia in the solution a few bricks popped out. Here momentum is exchanged while things break: a local hole first.
 *
 * The loops over bonds and bodies are `kernels/lattice.ts`, in vectors of four: they were nine tenths of a frame in which a large
 * wall breaks, and are ten times as fast there as in plain TypeScript.
 */

/** Bonds as `bondState` has them: whole, broken while its faces still press and rub, and, as 2, gone when they have left each other. */
export const BOND_WHOLE = 0;
export const BOND_BROKEN = 1;

/** What strikes: a body or a group of them, in the axes of what it strikes. */
export interface Striker {
	/** kg; infinite for what goes by its keys. */
	readonly mass: number;
	/** kg m², mean. */
	readonly inertia: number;
	readonly centre: Vec3;
	/** m/s and rad/s, against what it strikes; changed by the blow. */
	readonly velocity: Float64Array;
	readonly spin: Float64Array;
}

/** Where a striker meets a bonded body. */
export interface StrikePoint {
	readonly striker: number;
	readonly body: number;
	/** In the axes of what is struck. */
	readonly place: Vec3;
	/** Unit, into the body. */
	readonly normal: Vec3;
	/** Metres before the step. */
	readonly gap: number;
	readonly friction: number;
}

export interface Blow {
	readonly lattice: Lattice;
	readonly net: BondNet;
	readonly bonds: Bonds;
	/** Whether something that holds still holds the group, and takes up the momentum of what comes to rest. */
	readonly anchored: boolean;
	/** Bodies of the group that is struck. */
	readonly members: readonly number[];
	/** 1 per bond of the scene; changed. */
	readonly state: Uint8Array;
	/** 1 per bond of the scene: share of its strength that is left. */
	readonly left: Float64Array;
	/** 1 per bond of the scene: highest use of its strength so far; changed. */
	readonly peak: Float64Array;
	/** 6 per body of the scene: moved by (m, rad) and speed; changed. */
	readonly u: Float64Array;
	readonly v: Float64Array;
	readonly strikers: readonly Striker[];
	readonly points: readonly StrikePoint[];
}

/** What a blow did. */
export interface Struck {
	readonly broke: readonly Break[];
	/** Highest use of any bond's strength. */
	readonly highest: number;
}

/** What broke in it, as bonds and why. */
export interface Break {
	readonly bond: number;
	readonly mode: BreakMode;
	/** Pa, at the limit. */
	readonly stress: number;
}
export const BreakMode = { Tension: 0, Shear: 1, Compression: 2 } as const;
export type BreakMode = (typeof BreakMode)[keyof typeof BreakMode];

/** Small steps in a step. More than the most are not taken: then springs are softer, and little bodies heavier. */
const LEAST_STEPS = 16;
const MOST_STEPS = 160;
/** Of critical, at the highest frequency. */
const DAMPING = 0.2;
/** Share of the limit of stability that is used. */
const SAFETY = 0.9;
/** Highest frequency times small step. */
const LIMIT = SAFETY * 2 * (Math.sqrt(1 + DAMPING * DAMPING) - DAMPING);
/** Translation and turning act on each other: room in the estimate of the highest frequency. */
const COUPLING = 1.5;
/** Of critical, in a blow's contact. */
const CONTACT_DAMPING = 0.3;

/**
 * Waves that load bonds by less than this share of their strength are not followed, nor are their remains kept for long: a wave at
 * speed v loads a bond by v √(k m) (σ = ρ c v). What is left out breaks nothing by itself, and changes by as little what else does.
 */
const STIRS_FROM = 0.1;
/** Small steps after which what has become slow comes to rest: a wave that has passed leaves half of what it has woken still moving a little. */
const CALM_EVERY = 12;
/** Of bonds that never break, Pa, for that. */
const USUAL_STRENGTH = 1e6;

/** What blows need of a scene, found once: how many small steps, how stiff bonds are then, which masses they can bear. */
export interface Lattice extends Nodes {
	/** 5 per bond, N/m and N m: along the normal, across it, bending about both axes, twisting. */
	readonly stiffness: Float64Array;
	/** 1 per body: small steps in a step. */
	readonly steps: Int32Array;
	readonly moves: (body: number) => boolean;
	/** Whether any bond begins to yield before it breaks. */
	readonly wears: boolean;
	/** Simulated seconds of the step that is being done. */
	dt: number;
	/** Made when the first blow falls. */
	memory: LatticeMemory | undefined;
}

/** `wholes`: connected parts at the first frame, with their bonds; `moves`: whether a body is no support. */
export function makeLattice(
	net: BondNet,
	bonds: Bonds,
	mass: Float64Array,
	moves: (body: number) => boolean,
	wholes: readonly BondedPart[],
	dt: number,
): Lattice {
	const [count, m] = [net.of.length, bonds.count];
	const lattice: Lattice = {
		stiffness: Float64Array.from(net.stiffness, (value, c) => value * net.young[Math.floor(c / 5)]!),
		steps: new Int32Array(count),
		mass: Float64Array.from(mass),
		inertia: Float64Array.from(net.inertia),
		stirs: new Float64Array(count).fill(Number.POSITIVE_INFINITY),
		turns: new Float64Array(count).fill(Number.POSITIVE_INFINITY),
		moves,
		wears: bonds.yields.some((share) => share < 1),
		dt,
		memory: undefined,
	};
	for (const whole of wholes) planPart(lattice, net, bonds, whole, moves);
	for (let k = 0; k < m; k++) {
		const force = STIRS_FROM * Math.min(bonds.tension[k]!, bonds.shear[k]!, USUAL_STRENGTH) * bonds.area[k]!;
		for (const [body, arm] of [
			[bonds.a[k]!, 0],
			[bonds.b[k]!, 3],
		] as const) {
			if (!moves(body)) continue;
			const speed = force / Math.sqrt(lattice.stiffness[5 * k]! * lattice.mass[body]!);
			const [x, y, z] = net.arms.subarray(6 * k + arm, 6 * k + arm + 3) as unknown as Vec3;
			lattice.stirs[body] = Math.min(lattice.stirs[body]!, speed);
			lattice.turns[body] = Math.min(lattice.turns[body]!, speed / Math.sqrt(x * x + y * y + z * z));
		}
	}
	return lattice;
}

/** How many small steps a part needs, how stiff its bonds are then, and which masses they can bear. */
function planPart(
	{ stiffness, steps, mass, inertia, dt }: Lattice,
	{ arms }: BondNet,
	{ a, b }: Bonds,
	{ members, list }: BondedPart,
	moves: (body: number) => boolean,
): void {
	const along = new Map(members.map((body) => [body, 0]));
	const about = new Map(along);
	for (const k of list) {
		const kn = stiffness[5 * k]!;
		const bend = Math.max(stiffness[5 * k + 2]!, stiffness[5 * k + 3]!, stiffness[5 * k + 4]!);
		for (const [body, arm] of [
			[a[k]!, 6 * k],
			[b[k]!, 6 * k + 3],
		] as const) {
			if (!moves(body)) continue;
			along.set(body, along.get(body)! + kn);
			about.set(body, about.get(body)! + bend + kn * (arms[arm]! ** 2 + arms[arm + 1]! ** 2 + arms[arm + 2]! ** 2));
		}
	}
	const frequency = members.map((i) => Math.sqrt(2 * COUPLING * Math.max(along.get(i)! / mass[i]!, about.get(i)! / inertia[i]!)));
	const usual = frequency.sort((x, y) => x - y)[Math.floor(0.8 * (members.length - 1))]!;
	const wanted = (usual * dt) / LIMIT;
	const stiffening = wanted > MOST_STEPS ? (MOST_STEPS / wanted) ** 2 : 1;
	const taken = Math.max(LEAST_STEPS, Math.min(MOST_STEPS, Math.ceil(wanted)));
	const highest = (LIMIT * taken) / dt;
	const least = (2 * COUPLING * stiffening) / (highest * highest);
	for (const i of members) {
		steps[i] = taken;
		mass[i] = Math.max(mass[i]!, least * along.get(i)!);
		inertia[i] = Math.max(inertia[i]!, least * about.get(i)!);
	}
	for (const k of list) for (let c = 0; c < 5; c++) stiffness[5 * k + c]! *= stiffening;
}

/** Has a bond keep only so much of its strength. */
export function weakenBond({ memory }: Lattice, bonds: Bonds, bond: number, left: number): void {
	if (memory) setStrength(memory, bonds, bond, left);
}

/**
 * What strikers do to a group within one step. Only what the blow has reached is worked on: a body that is pulled at moves, and
 * once it is fast enough to matter to its other bonds, these wake and pull at the next ones.
 */
export function strike(blow: Blow): Struck {
	const { lattice, net, bonds, members, u, v, state } = blow;
	lattice.memory ??= makeLatticeMemory(net, bonds, lattice.stiffness, blow.left, lattice, (i) => !lattice.moves(i));
	const { memory } = lattice;
	const { kernel, roles } = memory;
	const steps = lattice.steps[members[0]!]!;
	const h = lattice.dt / steps;
	// Of the highest frequency that these steps can follow.
	const highest = LIMIT / h;
	memory.state.set(state);
	for (const i of members) roles[i] = Role.Member;
	kernel.begin(h, (2 * DAMPING) / highest);
	let moved = fillMotions(memory, members, u, v);
	kernel.resume(memory.moved.byteOffset, moved, STIRS_FROM);
	const stirStruck = (): void => {
		for (const { body } of blow.points) kernel.stir(body);
	};
	const notePeaks = (): void => {
		for (let z = 0; lattice.wears && z < kernel.quadCount(); z++) {
			const first = 4 * memory.quads[z]!;
			for (let k = first; k < Math.min(bonds.count, first + 4); k++) blow.peak[k] = Math.max(blow.peak[k]!, peakOfLane(memory, k));
		}
	};
	stirStruck();
	const contacts = blow.points.map((point) => contactOf(blow, point));
	steady(contacts, blow.strikers, lattice.mass, lattice.inertia, h);
	let count = 0;
	for (let step = 0; step < steps; step++) {
		if (blow.anchored && step > 0 && step % CALM_EVERY === 0) {
			notePeaks();
			moved = kernel.calmDown(memory.moved.byteOffset, moved, STIRS_FROM);
			stirStruck();
		}
		count = kernel.pull();
		for (const contact of contacts) meet(contact, blow.strikers[contact.striker]!, memory, h);
		kernel.move();
	}
	const broke = Array.from({ length: count }, (_, c) => ({
		bond: memory.breaks[BREAK * c]!,
		mode: memory.breaks[BREAK * c + 1]! as BreakMode,
		stress: memory.stresses[BREAK * c + 2]!,
	}));
	state.set(memory.state);
	notePeaks();
	takeMotions(memory, memory.moved, moved, u, v);
	takeMotions(memory, memory.nodes, kernel.reachedCount(), u, v);
	kernel.end(memory.moved.byteOffset, moved);
	for (const i of members) roles[i] = Role.None;
	return { broke, highest: kernel.highestUse() };
}

interface Contact {
	readonly striker: number;
	readonly node: number;
	/** From the body's centre, and from the striker's. */
	readonly arm: Vec3;
	readonly reach: Vec3;
	readonly normal: Vec3;
	stiffness: number;
	damping: number;
	readonly friction: number;
	gap: number;
}

/** As stiff as what it strikes, shared by the points of the pair. */
function contactOf({ lattice, net, strikers, points }: Blow, point: StrikePoint): Contact {
	const { body, striker, place } = point;
	const { centre } = strikers[striker]!;
	let sum = 0;
	for (const k of net.of[body]!) sum += lattice.stiffness[5 * k]!;
	const shares = points.filter((other) => other.body === body && other.striker === striker).length;
	const c = net.centre;
	return {
		striker,
		node: body,
		arm: [place[0] - c[3 * body]!, place[1] - c[3 * body + 1]!, place[2] - c[3 * body + 2]!],
		reach: [place[0] - centre[0], place[1] - centre[1], place[2] - centre[2]],
		normal: point.normal,
		stiffness: (0.5 * sum) / Math.max(1, net.of[body]!.length) / shares,
		damping: 0,
		friction: point.friction,
		gap: Math.max(point.gap, 0),
	};
}

/** Share of the limit of stability that the contacts of one body take together. */
const STEADY = 0.25;

/**
 * Makes contacts so soft that the small step can follow them, however light what strikes is and however many there are,
 * and damps them in proportion, so that the same holds for their damping.
 */
function steady(
	contacts: readonly Contact[],
	strikers: readonly Striker[],
	nodeMass: ArrayLike<number>,
	nodeInertia: ArrayLike<number>,
	h: number,
): void {
	// How lightly each end gives way at its contact, and the squared frequency of all contacts of a body together.
	const ofStriker = new Float64Array(strikers.length);
	const ofNode = new Float64Array(nodeMass.length);
	const light = contacts.map(({ striker, node, arm, reach, stiffness }) => {
		const { mass, inertia } = strikers[striker]!;
		const one = mass === Number.POSITIVE_INFINITY ? 0 : 1 / mass + squared(reach) / inertia;
		const other = 1 / nodeMass[node]! + squared(arm) / nodeInertia[node]!;
		ofStriker[striker]! += stiffness * one;
		ofNode[node]! += stiffness * other;
		return one + other;
	});
	const limit = (4 * STEADY) / (h * h);
	for (const contact of contacts)
		contact.stiffness *= Math.min(1, limit / (2 * ofStriker[contact.striker]!), limit / (2 * ofNode[contact.node]!));
	ofStriker.fill(0);
	ofNode.fill(0);
	for (const [k, { striker, node, stiffness }] of contacts.entries()) {
		ofStriker[striker]! += stiffness * light[k]!;
		ofNode[node]! += stiffness * light[k]!;
	}
	for (const contact of contacts)
		contact.damping =
			(2 * CONTACT_DAMPING * contact.stiffness) / Math.sqrt(Math.max(ofStriker[contact.striker]!, ofNode[contact.node]!, 1e-30));
}

const squared = ([x, y, z]: Vec3): number => x * x + y * y + z * z;

/** One contact over one small step: the force on the body, and its other half on the striker. */
function meet(contact: Contact, striker: Striker, memory: LatticeMemory, h: number): void {
	const { node, arm: r, reach: s, normal: n } = contact;
	const { motion: v, f32: f } = memory;
	const o = MOTION * node + MOTION_SPEED;
	const { velocity: sv, spin: sw } = striker;
	const rx = v[o]! + v[o + 4]! * r[2] - v[o + 5]! * r[1] - (sv[0]! + sw[1]! * s[2] - sw[2]! * s[1]);
	const ry = v[o + 1]! + v[o + 5]! * r[0] - v[o + 3]! * r[2] - (sv[1]! + sw[2]! * s[0] - sw[0]! * s[2]);
	const rz = v[o + 2]! + v[o + 3]! * r[1] - v[o + 4]! * r[0] - (sv[2]! + sw[0]! * s[1] - sw[1]! * s[0]);
	const parting = rx * n[0] + ry * n[1] + rz * n[2];
	contact.gap += h * parting;
	if (contact.gap >= 0) return;
	const push = Math.max(0, -contact.stiffness * contact.gap - contact.damping * parting);
	if (push === 0) return;
	const [tx, ty, tz] = [rx - parting * n[0], ry - parting * n[1], rz - parting * n[2]];
	const slip = Math.sqrt(tx * tx + ty * ty + tz * tz);
	const rub = slip > 0 ? Math.min(contact.friction * push, contact.damping * slip) / slip : 0;
	const [fx, fy, fz] = [push * n[0] - rub * tx, push * n[1] - rub * ty, push * n[2] - rub * tz];
	const at = nodeAt(memory, node);
	f[at + NODE_FORCE]! += fx;
	f[at + NODE_FORCE + 1]! += fy;
	f[at + NODE_FORCE + 2]! += fz;
	f[at + NODE_MOMENT]! += r[1] * fz - r[2] * fy;
	f[at + NODE_MOMENT + 1]! += r[2] * fx - r[0] * fz;
	f[at + NODE_MOMENT + 2]! += r[0] * fy - r[1] * fx;
	if (striker.mass === Number.POSITIVE_INFINITY) return;
	const [im, ii] = [h / striker.mass, h / striker.inertia];
	sv[0]! -= im * fx;
	sv[1]! -= im * fy;
	sv[2]! -= im * fz;
	sw[0]! -= ii * (s[1] * fz - s[2] * fy);
	sw[1]! -= ii * (s[2] * fx - s[0] * fz);
	sw[2]! -= ii * (s[0] * fy - s[1] * fx);
}
