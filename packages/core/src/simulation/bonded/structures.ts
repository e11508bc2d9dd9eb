import type { SimScene } from "../scene";
import type { BlockMatrix } from "./blockMatrix";
import { type BlockMemory, blocksAt, free, makeBlockMemory, placeCopy, placeMatrix, placesOf, placeVector } from "./blockMemory";
import type { BondedPart, BondNet } from "./bondNet";
import { type Structure, stiffnessOf, takeOut } from "./equilibrium";
import { cycle, type Multigrid, makeMultigrid, placesOfMultigrid } from "./multigrid";

/**
 * Stiffness and preconditioner of each group that is looked at. To make a preconditioner costs as much as a dozen iterations,
 * and breaking a few bonds hardly makes one worse: a group that has lost little goes on with that of the whole as it was at
 * the first frame, any other gets its own. What is chosen follows from the state alone, so that a run that goes on from a
 * stored frame finds the same numbers.
 */
export interface Structures {
	/** Made when the first structure is looked at. */
	memory: BlockMemory | undefined;
	/** Connected parts at the first frame. */
	readonly wholes: readonly Whole[];
	/** 1 per body: its part, −1 for none. */
	readonly partOf: Int32Array;
	/** The last one of each first member, the longest unused first. */
	readonly last: Map<number, Kept>;
}

interface Kept extends Structure {
	/** What it has in the memory. */
	readonly places: readonly number[];
}

interface Whole extends BondedPart {
	/** Made when it is first looked at, or a group that has lost little of it. */
	made: { readonly levels: Multigrid; readonly pattern: Pick<BlockMatrix, "start" | "column">; readonly rowOf: Int32Array } | undefined;
}

/**
 * A group that has lost no more than these shares of its bodies, of its bonds, and of those that hold it to what holds still goes on with
 * what the whole had. A column that stood on one bond of eight was never in balance with that: its foot did not give way whatever pulled.
 */
const LOST_BODIES = 0.1;
const LOST_BONDS = 0.05;
const LOST_FOOT = 0.25;
/** As many bonds are kept as a scene has, this many times. */
const MOST_KEPT = 2;

export function makeStructures(scene: SimScene, wholes: readonly BondedPart[]): Structures {
	const partOf = new Int32Array(scene.count).fill(-1);
	for (const [n, { members }] of wholes.entries()) for (const i of members) partOf[i] = n;
	return { memory: undefined, wholes: wholes.map((whole) => ({ ...whole, made: undefined })), partOf, last: new Map() };
}

export function structureOf(structures: Structures, net: BondNet, { bonds }: SimScene, { members, list }: BondedPart): Structure {
	const known = structures.last.get(members[0]!);
	structures.last.delete(members[0]!);
	if (known && isSame(known.members, members) && isSame(known.list, list)) {
		structures.last.set(members[0]!, known);
		return known;
	}
	structures.memory ??= makeBlockMemory();
	const { memory } = structures;
	if (known) free(memory, known.places);
	const whole = structures.wholes[structures.partOf[members[0]!]!];
	const isNear =
		whole !== undefined &&
		members.length >= (1 - LOST_BODIES) * whole.members.length &&
		list.length >= (1 - LOST_BONDS) * whole.list.length &&
		footOf(net, list) >= (1 - LOST_FOOT) * footOf(net, whole.list);
	const made = isNear ? ofWhole(memory, net, bonds, whole, { members, list }) : byItself(memory, net, bonds, { members, list });
	structures.last.set(members[0]!, made);
	forget(structures, MOST_KEPT * bonds.count);
	return made;
}

/** How many of these bonds hold to what holds still. */
function footOf({ anchors }: BondNet, list: readonly number[]): number {
	const held = new Set(list);
	return anchors.reduce((count, k) => count + (held.has(k) ? 1 : 0), 0);
}

function byItself(memory: BlockMemory, net: BondNet, bonds: SimScene["bonds"], part: BondedPart): Kept {
	const stiffness = stiffnessOf(net, bonds, part);
	const matrix = placeMatrix(memory, stiffness);
	const levels = makeMultigrid(memory, stiffness, centresOf(net, part.members), matrix);
	const work = makeWork(memory, matrix.n);
	const places = [...placesOf(matrix), ...Object.values(work), ...placesOfMultigrid(levels)];
	return { ...part, memory, matrix, precondition: (r, z) => cycle(levels, r, z), work, places };
}

/** In the rows of the whole, without what has broken: to make its stiffness anew would take as long as a dozen iterations. */
function ofWhole(memory: BlockMemory, net: BondNet, bonds: SimScene["bonds"], whole: Whole, part: BondedPart): Kept {
	if (!whole.made) {
		const stiffness = stiffnessOf(net, bonds, whole);
		const levels = makeMultigrid(memory, stiffness, centresOf(net, whole.members));
		const rowOf = new Int32Array(net.of.length).fill(-1);
		for (const [row, body] of whole.members.entries()) rowOf[body] = row;
		whole.made = { levels, pattern: { start: stiffness.start, column: stiffness.column }, rowOf };
	}
	const { levels, pattern, rowOf } = whole.made;
	const blocks = pattern.column.length;
	const given = levels.levels[0]!.matrix;
	const work = makeWork(memory, given.n);
	const block = placeCopy(memory, given.block, 36 * blocks);
	const diagonal = placeCopy(memory, given.diagonal, 36 * given.n);
	const held = new Set(part.list);
	const broken = whole.list.filter((k) => !held.has(k));
	takeOut(net, bonds, broken, rowOf, pattern, blocksAt(memory, block, blocks), blocksAt(memory, diagonal, given.n));
	return {
		...part,
		memory,
		matrix: { ...given, block, diagonal },
		rows: part.members.length === whole.members.length ? undefined : Int32Array.from(part.members, (body) => rowOf[body]!),
		precondition: (r, z) => cycle(levels, r, z),
		work,
		places: [block, diagonal, ...Object.values(work)],
	};
}

function makeWork(memory: BlockMemory, rows: number): Structure["work"] {
	const vector = () => placeVector(memory, rows);
	return { x: vector(), r: vector(), z: vector(), p: vector(), image: vector() };
}

/** Lets go what has not been used for longest until the rest has no more bonds than this. */
function forget({ memory, last }: Structures, most: number): void {
	let sum = 0;
	for (const { list } of last.values()) sum += list.length;
	for (const [first, { list, places }] of last) {
		if (sum <= most) return;
		free(memory!, places);
		last.delete(first);
		sum -= list.length;
	}
}

const isSame = (a: readonly number[], b: readonly number[]): boolean => a.length === b.length && a.every((value, k) => value === b[k]);

function centresOf(net: BondNet, members: readonly number[]): Float64Array {
	const centres = new Float64Array(3 * members.length);
	for (const [z, i] of members.entries()) centres.set(net.centre.subarray(3 * i, 3 * i + 3), 3 * z);
	return centres;
}
