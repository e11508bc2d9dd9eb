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
	/** 16 per body: moved by 6, speed 6, step / mass, step / inertia, how far it may move and turn before it stirs. */
	readonly motion: Float64Array;
	/** 1 per bond. */
	readonly state: Uint8Array;
	/** Bodies, quads and broken bonds that are worked on, and bodies that have just stirred. */
	readonly nodes: Int32Array;
	readonly quads: Int32Array;
	readonly rubbing: Int32Array;
	readonly stirred: Int32Array;
	/** Of what broke last, 4 numbers each: bond, mode and, in `stresses`, stress. */
	readonly breaks: Int32Array;
	readonly stresses: Float32Array;
	/** Where quads and bodies begin, in 4 bytes. */
	readonly quadsFrom: number;
	readonly nodesFrom: number;
	/** 1 per body: 1 = something pulls at it, 2 = its bonds are awake. */
	readonly mark: Uint8Array;
	/** 1 per quad, 1 per bond: whether it is listed. */
	readonly quadAwake: Uint8Array;
	readonly rubs: Uint8Array;
}

/** The functions of `kernels/lattice.ts`; lists as places in its memory, bytes. */
interface Kernel {
	setUp(quads: number, nodes: number, motions: number, states: number, breaks: number, friction: number): void;
	begin(): void;
	highestUse(): number;
	place(body: number, beta: number): void;
	move(list: number, count: number, h: number, beta: number, stirred: number): number;
	pull(list: number, count: number): number;
	rub(list: number, count: number): void;
}

/** Numbers of 4 bytes per quad, per body. */
const QUAD = 128;
const NODE = 16;
/** Fields of a quad, by their first lane. */
const [ARMS, AXES, STIFFNESS, PER_MODULUS, PER_AREA, LIMITS, PEAK, HOLDS, ENDS] = [0, 24, 60, 80, 92, 96, 108, 112, 116];
/** The force on a body, and the moment after it, in its numbers. */
export const NODE_FORCE = 8;
export const NODE_MOMENT = 12;
/** Numbers per body in `motion`, and where what is in it begins. */
export const MOTION = 16;
export const MOTION_SPEED = 6;
const MOTION_WEIGHT = 12;
export const MOTION_STIRS = 14;
/** Numbers per break. */
export const BREAK = 4;

/** `stiffness`: 5 per bond, N/m and N m. */
export function makeLatticeMemory(net: BondNet, bonds: Bonds, stiffness: Float64Array): LatticeMemory {
	const [bodies, m] = [net.of.length, bonds.count];
	const fours = Math.ceil(m / 4);
	let size = 0;
	const room = (bytes: number): number => {
		const at = size;
		size += Math.ceil(bytes / 16) * 16;
		return at;
	};
	const quadsAt = room(4 * QUAD * fours);
	// One more than there are: the ends of bonds that fill up the last quad.
	const nodesAt = room(4 * NODE * (bodies + 1));
	const motionsAt = room(8 * MOTION * bodies);
	const statesAt = room(m);
	const breaksAt = room(4 * BREAK * m);
	const [nodeList, quadList, rubList, stirList] = [room(4 * bodies), room(4 * fours), room(4 * m), room(4 * bodies)] as const;
	const { kernel, memory } = loadKernel<Kernel>(LATTICE_KERNEL, size);
	const { buffer } = memory;
	kernel.setUp(quadsAt, nodesAt, motionsAt, statesAt, breaksAt, INNER_FRICTION);
	const made: LatticeMemory = {
		kernel,
		f32: new Float32Array(buffer),
		i32: new Int32Array(buffer),
		motion: new Float64Array(buffer, motionsAt, MOTION * bodies),
		state: new Uint8Array(buffer, statesAt, m),
		nodes: new Int32Array(buffer, nodeList, bodies),
		quads: new Int32Array(buffer, quadList, fours),
		rubbing: new Int32Array(buffer, rubList, m),
		stirred: new Int32Array(buffer, stirList, bodies),
		breaks: new Int32Array(buffer, breaksAt, BREAK * m),
		stresses: new Float32Array(buffer, breaksAt, BREAK * m),
		quadsFrom: quadsAt / 4,
		nodesFrom: nodesAt / 4,
		mark: new Uint8Array(bodies),
		quadAwake: new Uint8Array(fours),
		rubs: new Uint8Array(m),
	};
	for (let k = 0; k < 4 * fours; k++) fillLane(made, net, bonds, stiffness, k);
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

/** A bond of an awake quad: whether it holds in this blow, and what share of its strength is left. */
export function setLane(memory: LatticeMemory, { tension, shear, compression }: Bonds, k: number, holds: boolean, left: number): void {
	const { f32, i32 } = memory;
	const at = laneOf(memory, k);
	i32[at + HOLDS] = holds ? -1 : 0;
	f32[at + PEAK] = 0;
	if (!holds) return;
	f32[at + LIMITS] = tension[k]! * left;
	f32[at + LIMITS + 4] = shear[k]! * left;
	f32[at + LIMITS + 8] = compression[k]! * left;
}

/** Highest use of a bond's strength in this blow, of a quad that is awake. */
export const peakOfLane = (memory: LatticeMemory, k: number): number => memory.f32[laneOf(memory, k) + PEAK]!;

/** A body as the blow finds it, and as bonds see it; `byMass` and `byInertia`: small step over either. */
export function setNode(
	memory: LatticeMemory,
	i: number,
	u: Float64Array,
	v: Float64Array,
	byMass: number,
	byInertia: number,
	stirs: number,
	turns: number,
	beta: number,
): void {
	const { motion } = memory;
	const at = MOTION * i;
	for (let d = 0; d < 6; d++) {
		motion[at + d] = u[6 * i + d]!;
		motion[at + MOTION_SPEED + d] = v[6 * i + d]!;
	}
	motion[at + MOTION_WEIGHT] = byMass;
	motion[at + MOTION_WEIGHT + 1] = byInertia;
	motion[at + MOTION_STIRS] = stirs;
	motion[at + MOTION_STIRS + 1] = turns;
	memory.kernel.place(i, beta);
}

/** Puts a body back to where bonds see no blow, and tells where it has come to. */
export function takeNode({ motion, f32, nodesFrom }: LatticeMemory, i: number, u: Float64Array, v: Float64Array): void {
	for (let d = 0; d < 6; d++) {
		u[6 * i + d] = motion[MOTION * i + d]!;
		v[6 * i + d] = motion[MOTION * i + MOTION_SPEED + d]!;
	}
	f32.fill(0, nodesFrom + NODE * i, nodesFrom + NODE * (i + 1));
}

/** Where the numbers of a body begin in `f32`. */
export const nodeAt = ({ nodesFrom }: LatticeMemory, i: number): number => nodesFrom + NODE * i;
