import type { Bonds } from "../../bonds";
import type { Vec3 } from "../../maths";
import { heldBy, makeContacts, meet, type Pressed, type StrikePoint, type Striker } from "./blowContacts";
import type { BondedPart, BondNet } from "./bondNet";
import {
	BREAK,
	fillMotions,
	type LatticeMemory,
	makeLatticeMemory,
	type Nodes,
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
	readonly pressed: Pressed;
}

/** What a blow did. */
export interface Struck {
	readonly broke: readonly Break[];
	/** Highest use of any bond's strength. */
	readonly highest: number;
	/** What its contacts hold at the end. */
	readonly holds: Pressed;
	/** Bodies that have been moved or had been; ascending. */
	readonly moved: Int32Array;
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

/** Small steps in a step. What would need more than the most gets softer springs, and little bodies get heavier: see `planFine`. */
const LEAST_STEPS = 4;
const MOST_STEPS = 160;
/** What has few bonds is followed more closely: as many small steps as make this many looks at a bond, up to that many. */
const MOST_LOOKS = 1e6;
const MOST_FINE_STEPS = 1000;
/** Share of the mass of a part that making little bodies heavier may add to it. */
const MOST_ADDED = 0.01;
/** Of critical, at the highest frequency. */
const DAMPING = 0.2;
/** Share of the limit of stability that is used. */
const SAFETY = 0.9;
/** Highest frequency times small step. */
const LIMIT = SAFETY * 2 * (Math.sqrt(1 + DAMPING * DAMPING) - DAMPING);
/** Translation and turning act on each other: room in the estimate of the highest frequency. */
const COUPLING = 1.5;

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
	/** 1 per bond: share of its strength at which it breaks here, see `planFine`. */
	readonly strength: Float64Array;
	/** 1 per body, N/m: along the normal, of its bonds on average. */
	readonly ofBonds: Float64Array;
	/** 1 per body: the highest frequency of its part that is followed, rad/s. */
	readonly highest: Float64Array;
	readonly moves: (body: number) => boolean;
	/** Whether any bond begins to yield before it breaks. */
	readonly wears: boolean;
	/** Simulated seconds of the step that is being done, and since the first frame when it begins. */
	dt: number;
	now: number;
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
		strength: new Float64Array(m).fill(1),
		ofBonds: new Float64Array(count),
		highest: new Float64Array(count),
		mass: Float64Array.from(mass),
		inertia: Float64Array.from(net.inertia),
		stirs: new Float64Array(count).fill(Number.POSITIVE_INFINITY),
		turns: new Float64Array(count).fill(Number.POSITIVE_INFINITY),
		moves,
		wears: bonds.yields.some((share) => share < 1),
		dt,
		now: 0,
		memory: undefined,
	};
	for (const whole of wholes) planPart(lattice, net, bonds, whole, moves);
	for (const [i, list] of net.of.entries()) {
		for (const k of list) lattice.ofBonds[i]! += lattice.stiffness[5 * k]!;
		lattice.ofBonds[i]! /= Math.max(1, list.length);
	}
	for (let k = 0; k < m; k++) {
		const force = STIRS_FROM * Math.min(bonds.tension[k]!, bonds.shear[k]!, USUAL_STRENGTH) * lattice.strength[k]! * bonds.area[k]!;
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

/** Which frequencies of a part are followed, how stiff and strong its bonds are then, and which masses they can bear. */
function planPart(
	{ stiffness, strength, highest, mass, inertia, dt }: Lattice,
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
	const sliding = members.map((i) => Math.sqrt((2 * COUPLING * along.get(i)!) / mass[i]!));
	const either = members.map((i, z) => Math.max(sliding[z]!, Math.sqrt((2 * COUPLING * about.get(i)!) / inertia[i]!)));
	const usual = either.sort((x, y) => x - y)[Math.floor(0.8 * (members.length - 1))]!;
	const { followed, softening } =
		usual <= (LIMIT * MOST_STEPS) / dt
			? { followed: usual, softening: 1 }
			: planFine(
					sliding,
					members.map((i) => mass[i]!),
					list.length,
					dt,
				);
	const least = (2 * COUPLING * softening) / (followed * followed);
	for (const i of members) {
		highest[i] = followed;
		mass[i] = Math.max(mass[i]!, least * along.get(i)!);
		inertia[i] = Math.max(inertia[i]!, least * about.get(i)!);
	}
	for (const k of list) {
		for (let c = 0; c < 5; c++) stiffness[5 * k + c]! *= softening;
		strength[k] = Math.sqrt(softening);
	}
}

/**
 * What is small, thin or stiff, a pane of glass or a cup, has waves that take thousands of small steps to follow. Then the least bodies
 * become heavier, as long as that adds little to all, and springs softer by a factor s. A wave at speed v loads a bond by v √(k m), which
 * becomes less by √s, and so the bond breaks at √s of its strength: it takes the same speed to break it, and it holds the same energy,
 * (√s σ)² / s k = σ² / k. Cracks are slower by √s, and what bends does so by more. With softer springs alone 64 kg of steel at 12 m/s broke
 * none of 1,172 bonds of a pane of 4 mm, whose s had to be 9e-5: they were a hundred times too strong.
 *
 * `frequency`: 1 per body, rad/s; `mass`: 1 per body, kg; `dt`: seconds of a step. Returns the highest frequency that is followed, rad/s,
 * and s.
 */
export function planFine(frequency: readonly number[], mass: readonly number[], bonds: number, dt: number) {
	const steps = Math.min(MOST_FINE_STEPS, Math.max(MOST_STEPS, MOST_LOOKS / bonds));
	const order = [...frequency.keys()].sort((x, y) => frequency[y]! - frequency[x]!);
	const whole = mass.reduce((sum, m) => sum + m, 0);
	let usual = frequency[order[0]!]!;
	// Of the bodies with higher frequencies: m and m ω².
	let [light, stiff] = [0, 0];
	for (const z of order) {
		if (stiff / frequency[z]! ** 2 - light > MOST_ADDED * whole) break;
		usual = frequency[z]!;
		light += mass[z]!;
		stiff += mass[z]! * usual ** 2;
	}
	const followed = Math.min(usual, (LIMIT * steps) / dt);
	return { followed, softening: (followed / usual) ** 2 };
}

/** Has a bond keep only so much of its strength. */
export function weakenBond({ memory, strength }: Lattice, bonds: Bonds, bond: number, left: number): void {
	if (memory) setStrength(memory, bonds, bond, left * strength[bond]!);
}

/**
 * What strikers do to a group within one step. Only what the blow has reached is worked on: a body that is pulled at moves, and
 * once it is fast enough to matter to its other bonds, these wake and pull at the next ones.
 */
export function strike(blow: Blow): Struck {
	const { lattice, net, bonds, members, u, v, state } = blow;
	lattice.memory ??= makeLatticeMemory(net, bonds, lattice, blow.left, (i) => !lattice.moves(i));
	const { memory } = lattice;
	const { kernel, roles } = memory;
	const highest = lattice.highest[members[0]!]!;
	const steps = Math.max(LEAST_STEPS, Math.ceil((highest * lattice.dt) / LIMIT - 1e-9));
	const h = lattice.dt / steps;
	// Counted from the first frame, so that it does not matter how short the steps of the simulation are.
	const begun = Math.round(lattice.now / h);
	const calms = (step: number): boolean => blow.anchored && (begun + step) % CALM_EVERY === 0;
	memory.state.set(state);
	for (const i of members) roles[i] = Role.Member;
	kernel.begin(h, (2 * DAMPING) / highest, blow.anchored);
	let moved = fillMotions(memory, members, u, v);
	kernel.resume(memory.moved.byteOffset, moved, STIRS_FROM, calms(0));
	const stirStruck = (): void => {
		for (const { body } of blow.points) if (body >= 0) kernel.stir(body);
	};
	const notePeaks = (): void => {
		for (let z = 0; lattice.wears && z < kernel.quadCount(); z++) {
			const first = 4 * memory.quads[z]!;
			for (let k = first; k < Math.min(bonds.count, first + 4); k++) blow.peak[k] = Math.max(blow.peak[k]!, peakOfLane(memory, k));
		}
	};
	stirStruck();
	const contacts = makeContacts(blow.points, blow.strikers, net, lattice.ofBonds, lattice, blow.pressed, h);
	let count = 0;
	for (let step = 0; step < steps; step++) {
		if (step > 0 && calms(step)) {
			notePeaks();
			moved = kernel.calmDown(memory.moved.byteOffset, moved, STIRS_FROM);
			stirStruck();
		}
		count = kernel.pull();
		for (const contact of contacts) meet(contact, blow.strikers, memory, h);
		kernel.move();
	}
	const broke = Array.from({ length: count }, (_, c) => {
		const bond = memory.breaks[BREAK * c]!;
		const stress = memory.stresses[BREAK * c + 2]! / lattice.strength[bond]!;
		return { bond, mode: memory.breaks[BREAK * c + 1]! as BreakMode, stress };
	});
	state.set(memory.state);
	notePeaks();
	const reached = kernel.reachedCount();
	takeMotions(memory, memory.moved, moved, u, v);
	takeMotions(memory, memory.nodes, reached, u, v);
	const all = union(memory.moved.subarray(0, moved), memory.nodes.subarray(0, reached));
	kernel.end(memory.moved.byteOffset, moved);
	for (const i of members) roles[i] = Role.None;
	return { broke, highest: kernel.highestUse(), holds: heldBy(contacts), moved: all };
}

/** Numbers that are in either list; ascending. */
function union(one: Int32Array, other: Int32Array): Int32Array {
	const all = new Int32Array(one.length + other.length);
	all.set(one);
	all.set(other, one.length);
	all.sort();
	return all.filter((value, z) => z === 0 || value !== all[z - 1]);
}
