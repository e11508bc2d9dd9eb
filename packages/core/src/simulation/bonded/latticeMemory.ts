import type { Bonds } from "../../bonds";
import { type BondNet, INNER_FRICTION } from "./bondNet";
import { LATTICE_KERNEL } from "./latticeKernel";
import { loadKernel } from "./wasm";

/**
 * What the inner loops of blows (`kernels/lattice.ts`, which says what lies where) need in their memory: bonds in fours, bodies,
 * lists of what is awake. Made for a run; blows fill in what is theirs.
 */
export interface LatticeMemory {
	readonly kernel: Kernel;
	readonly f32: Float32Array;
	readonly i32: Int32Array;
	/** 16 per body: moved by 6, speed 6, and four of the kernel's own; zeros outside of blows. */
	readonly motion: Float64Array;
	/** 1 per bond. */
	readonly state: Uint8Array;
	/** 1 per body, see `Role`. */
	readonly roles: Uint8Array;
	/** Bodies that had moved before, and bodies and quads that are worked on. */
	readonly moved: Int32Array;
	readonly nodes: Int32Array;
	readonly quads: Int32Array;
	/** Of what broke in a blow, 4 numbers each: bond, mode and, in `stresses`, stress. */
	readonly breaks: Int32Array;
	readonly stresses: Float32Array;
	/** Where quads and bodies begin, in 4 bytes. */
	readonly quadsFrom: number;
	readonly nodesFrom: number;
}

/** What a body is in a blow. */
export const Role = { None: 0, Member: 1, HoldsStill: 2 } as const;

/** What bodies are in blows whoever is struck, 1 per body each: kg, kg m², and the speeds from which they stir their bonds, m/s and rad/s. */
export interface Nodes {
	readonly mass: Float64Array;
	readonly inertia: Float64Array;
	readonly stirs: Float64Array;
	readonly turns: Float64Array;
}

/** The functions of `kernels/lattice.ts`; lists as places in its memory, bytes. */
interface Kernel {
	setUp(table: number, friction: number): void;
	begin(smallStep: number, damping: number, held: boolean): void;
	resume(list: number, count: number, share: number, calms: boolean): void;
	calmDown(list: number, count: number, share: number): number;
	stir(body: number): void;
	pull(): number;
	move(): void;
	end(list: number, count: number): void;
	highestUse(): number;
	reachedCount(): number;
	quadCount(): number;
}

/** Numbers of 4 bytes per quad, per body. */
const QUAD = 128;
const NODE = 16;
/** Fields of a quad, by their first lane. */
const [ARMS, AXES, STIFFNESS, PER_MODULUS, PER_AREA, LIMITS, PEAK, ENDS] = [0, 24, 60, 80, 92, 96, 108, 116];
/** Numbers of 8 bytes per body that do not change. */
const BODY = 4;
/** The force on a body, and the moment after it, in its numbers. */
export const NODE_FORCE = 8;
export const NODE_MOMENT = 12;
/** Numbers per body in `motion`, and where what is in it begins. */
export const MOTION = 16;
export const MOTION_SPEED = 6;
/** Numbers per break. */
export const BREAK = 4;

/**
 * `stiffness`: 5 per bond, N/m and N m; `strength`: 1 per bond, share at which it breaks; `left`: 1 per bond, what is left of that;
 * `holdsStill`: whether a body moves by nothing.
 */
export function makeLatticeMemory(
	net: BondNet,
	bonds: Bonds,
	lattice: Nodes & { readonly stiffness: Float64Array; readonly strength: Float64Array },
	left: Float64Array,
	holdsStill: (body: number) => boolean,
): LatticeMemory {
	const [bodies, m] = [net.of.length, bonds.count];
	const fours = Math.ceil(m / 4);
	const table: number[] = [];
	let size = 4 * 16;
	const room = (bytes: number): number => {
		const at = size;
		size += Math.ceil(bytes / 16) * 16;
		table.push(at);
		return at;
	};
	// In the order of the kernel's table. One body more than there are: the ends of bonds that fill up the last quad.
	const quadsAt = room(4 * QUAD * fours);
	const nodesAt = room(4 * NODE * (bodies + 1));
	const motionsAt = room(8 * MOTION * bodies);
	const bodiesAt = room(8 * BODY * bodies);
	const statesAt = room(m);
	const breaksAt = room(4 * BREAK * m);
	const startsAt = room(4 * (bodies + 1));
	const listsAt = room(4 * net.of.reduce((sum, list) => sum + list.length, 0));
	const rolesAt = room(bodies + 1);
	// Marks of bodies, of quads and of bonds.
	for (const bytes of [bodies, fours, m]) room(bytes);
	const nodeList = room(4 * bodies);
	const quadList = room(4 * fours);
	// Broken bonds, and quads once more.
	for (const count of [m, fours]) room(4 * count);
	const movedAt = room(4 * bodies);
	const { kernel, memory } = loadKernel<Kernel>(LATTICE_KERNEL, size);
	const { buffer } = memory;
	new Int32Array(buffer).set(table);
	kernel.setUp(0, INNER_FRICTION);
	const made: LatticeMemory = {
		kernel,
		f32: new Float32Array(buffer),
		i32: new Int32Array(buffer),
		motion: new Float64Array(buffer, motionsAt, MOTION * bodies),
		state: new Uint8Array(buffer, statesAt, m),
		roles: new Uint8Array(buffer, rolesAt, bodies),
		moved: new Int32Array(buffer, movedAt, bodies),
		nodes: new Int32Array(buffer, nodeList, bodies),
		quads: new Int32Array(buffer, quadList, fours),
		breaks: new Int32Array(buffer, breaksAt, BREAK * m),
		stresses: new Float32Array(buffer, breaksAt, BREAK * m),
		quadsFrom: quadsAt / 4,
		nodesFrom: nodesAt / 4,
	};
	for (let k = 0; k < 4 * fours; k++) fillLane(made, net, bonds, lattice.stiffness, k);
	for (let k = 0; k < m; k++) setStrength(made, bonds, k, left[k]! * lattice.strength[k]!);
	const [own, starts, lists] = [new Float64Array(buffer, bodiesAt), new Int32Array(buffer, startsAt), new Int32Array(buffer, listsAt)];
	let at = 0;
	for (const [i, list] of net.of.entries()) {
		own.set([lattice.mass[i]!, lattice.inertia[i]!, lattice.stirs[i]!, lattice.turns[i]!], BODY * i);
		if (holdsStill(i)) made.roles[i] = Role.HoldsStill;
		starts[i] = at;
		lists.set(list, at);
		at += list.length;
	}
	starts[net.of.length] = at;
	return made;
}

const laneOf = ({ quadsFrom }: LatticeMemory, bond: number): number => quadsFrom + QUAD * (bond >> 2) + (bond & 3);

function fillLane(memory: LatticeMemory, net: BondNet, bonds: Bonds, stiffness: Float64Array, k: number): void {
	const { f32, i32 } = memory;
	const at = laneOf(memory, k);
	const known = k < bonds.count;
	i32[at + ENDS] = 4 * NODE * (known ? bonds.a[k]! : net.of.length);
	i32[at + ENDS + 4] = 4 * NODE * (known ? bonds.b[k]! : net.of.length);
	if (!known) return;
	for (let c = 0; c < 6; c++) f32[at + ARMS + 4 * c] = net.arms[6 * k + c]!;
	for (let c = 0; c < 9; c++) f32[at + AXES + 4 * c] = net.axes[9 * k + c]!;
	for (let c = 0; c < 5; c++) f32[at + STIFFNESS + 4 * c] = stiffness[5 * k + c]!;
	for (let c = 0; c < 3; c++) f32[at + PER_MODULUS + 4 * c] = 1 / net.modulus[3 * k + c]!;
	f32[at + PER_AREA] = 1 / bonds.area[k]!;
}

/** What share of its strength a bond has left. */
export function setStrength(memory: LatticeMemory, { tension, shear, compression }: Bonds, k: number, left: number): void {
	const { f32 } = memory;
	const at = laneOf(memory, k);
	f32[at + LIMITS] = tension[k]! * left;
	f32[at + LIMITS + 4] = shear[k]! * left;
	f32[at + LIMITS + 8] = compression[k]! * left;
}

/** Highest use of a bond's strength in this blow, of a quad that is awake. */
export const peakOfLane = (memory: LatticeMemory, k: number): number => memory.f32[laneOf(memory, k) + PEAK]!;

/**
 * Fills in how a group's bodies have moved and how fast they are, 6 per body of the scene each; returns how many have. Their list is
 * `moved`.
 */
export function fillMotions({ motion, moved }: LatticeMemory, members: readonly number[], u: Float64Array, v: Float64Array): number {
	let count = 0;
	for (const i of members) {
		const from = 6 * i;
		const to = MOTION * i;
		let any = false;
		for (let d = 0; d < 6; d++) {
			const way = u[from + d]!;
			const speed = v[from + d]!;
			if (way === 0 && speed === 0) continue;
			motion[to + d] = way;
			motion[to + MOTION_SPEED + d] = speed;
			any = true;
		}
		if (any) moved[count++] = i;
	}
	return count;
}

/** Where listed bodies have come to, and how fast they are. */
export function takeMotions({ motion }: LatticeMemory, list: Int32Array, count: number, u: Float64Array, v: Float64Array): void {
	for (let z = 0; z < count; z++) {
		const from = MOTION * list[z]!;
		const to = 6 * list[z]!;
		for (let d = 0; d < 6; d++) {
			u[to + d] = motion[from + d]!;
			v[to + d] = motion[from + MOTION_SPEED + d]!;
		}
	}
}

/** Where the numbers of a body begin in `f32`. */
export const nodeAt = ({ nodesFrom }: LatticeMemory, i: number): number => nodesFrom + NODE * i;
