import { type BlockMatrix, blockAt, emptyBlockMatrix, factorWhole, invertDiagonal } from "./blockMatrix";
import { type BlockMemory, multiply, type PlacedMatrix, placeArray, placeMatrix, placesOf, placeVector, vectorAt } from "./blockMemory";

/**
 * A preconditioner for structures of many bodies: neighbours taken together as one rigid body each, smoothed so that they
 * bend a little at their edges, these again, down to a few dozen that are solved directly (smoothed aggregation; Vaněk,
 * Mandel & Brezina 1996, with rigid body modes). On each level one sweep of Gauss and Seidel before and after. The number
 * of iterations hardly grows with the span of a structure: walls of 510, 2,020 and 5,025 bricks take 15, 16 and 25 for a
 * push from the side, which bends them. Tried: groups that are not smoothed, with two steps of conjugate gradients on each level
 * (Notay 2008), took 11 for own weight, but more than 100 for that push; one coarse space next to the diagonal's blocks
 * 329 for own weight.
 */
interface Level {
	readonly matrix: PlacedMatrix;
	/** Place of 36 per node: of the diagonal's blocks; none at the coarsest. */
	readonly inverse: number | undefined;
	readonly up: PlacedProlongation | undefined;
	/** Place of the coarsest level's. */
	readonly factor: number | undefined;
	/** Vectors: what comes down to this level, what goes back up, what is left. */
	readonly given: number;
	readonly found: number;
	readonly rest: number;
}

type PlacedProlongation = { readonly [array in keyof Prolongation]: number };

/** How nodes move with the groups of the coarser level: blocks of 6 × 6 in rows as in `BlockMatrix`. */
interface Prolongation {
	readonly groups: number;
	readonly start: Int32Array;
	readonly column: Int32Array;
	readonly block: Float64Array;
}

/** Levels, the finest first, in a memory. */
export interface Multigrid {
	readonly memory: BlockMemory;
	readonly levels: readonly Level[];
}

/** So few are solved directly. */
const DIRECT = 40;
/** A neighbour is taken along where the coupling is at least this share of the strongest that the first one has. */
const STRONG = 0.08;
/** Levels that hardly get smaller are the last. */
const LEAST_SHRINK = 0.9;
/** Steps of the power method for the largest eigenvalue, and room above what they find. */
const POWER_STEPS = 8;
const ROOM = 1.1;

/** `centre`: 3 per row; `placed`: the matrix where it already is in the memory. */
export function makeMultigrid(memory: BlockMemory, matrix: BlockMatrix, centre: Float64Array, placed?: PlacedMatrix): Multigrid {
	const levels: Level[] = [];
	for (let m = matrix, at = placed, c = centre; ; at = undefined) {
		at ??= placeMatrix(memory, m);
		const [group, groups] = m.n > DIRECT ? aggregate(m) : [new Int32Array(0), m.n];
		const work = { given: placeVector(memory, m.n), found: placeVector(memory, m.n), rest: placeVector(memory, m.n) };
		if (m.n <= DIRECT || groups > LEAST_SHRINK * m.n) {
			levels.push({ matrix: at, inverse: undefined, up: undefined, factor: placeArray(memory, factorWhole(m)), ...work });
			return { memory, levels };
		}
		const diagonal = invertDiagonal(m);
		const inverse = placeArray(memory, diagonal);
		const middle = middles(group, groups, c);
		const omega = 4 / (3 * largestEigenvalue(memory, at, inverse, work));
		const up = prolongation(m, diagonal, omega, group, groups, c, middle);
		const { start, column, block } = up;
		levels.push({
			matrix: at,
			inverse,
			up: { groups, start: placeArray(memory, start), column: placeArray(memory, column), block: placeArray(memory, block) },
			factor: undefined,
			...work,
		});
		m = coarsen(m, up);
		c = middle;
	}
}

/** Places of all it has but the finest matrix. */
export const placesOfMultigrid = ({ levels }: Multigrid): number[] =>
	levels.flatMap(({ matrix, inverse, up, factor, given, found, rest }, depth) => [
		...(depth > 0 ? placesOf(matrix) : []),
		...(up ? [up.start, up.column, up.block] : []),
		...[inverse, factor].filter((at) => at !== undefined),
		given,
		found,
		rest,
	]);

/** z = about A⁻¹ r, linear and symmetric; vectors by their places. */
export function cycle({ memory, levels }: Multigrid, r: number, z: number, depth = 0): void {
	const { kernel } = memory;
	const { matrix: m, inverse, up, factor, rest } = levels[depth]!;
	if (factor !== undefined) {
		vectorAt(memory, z, m.n).set(vectorAt(memory, r, m.n));
		kernel.solveFactored(6 * m.n, factor, z);
		return;
	}
	const below = levels[depth + 1]!;
	kernel.sweepDown(m.n, m.start, m.upper, m.column, m.block, inverse!, r, z, rest);
	kernel.restrict(m.n, up!.groups, up!.start, up!.column, up!.block, rest, below.given);
	cycle({ memory, levels }, below.given, below.found, depth + 1);
	kernel.prolong(m.n, up!.start, up!.column, up!.block, below.found, z);
	kernel.sweepUp(m.n, m.start, m.column, m.block, inverse!, r, z);
}

/** Groups of a node and those it is strongly joined to; who is left over goes to the group that holds it most. */
function aggregate(m: BlockMatrix): [group: Int32Array, groups: number] {
	const { n, start, column } = m;
	const strength = Float64Array.from(column, (_, k) => -(m.block[36 * k]! + m.block[36 * k + 7]! + m.block[36 * k + 14]!));
	const strongest = new Float64Array(n);
	for (let i = 0; i < n; i++) for (let k = start[i]!; k < start[i + 1]!; k++) strongest[i] = Math.max(strongest[i]!, strength[k]!);
	const group = new Int32Array(n).fill(-1);
	const isStrong = (i: number, k: number): boolean => strength[k]! >= STRONG * strongest[i]!;
	let groups = 0;
	for (let i = 0; i < n; i++) {
		if (group[i] !== -1) continue;
		let free = true;
		for (let k = start[i]!; k < start[i + 1]! && free; k++) free = group[column[k]!] === -1 || !isStrong(i, k);
		if (!free) continue;
		group[i] = groups;
		for (let k = start[i]!; k < start[i + 1]!; k++) if (isStrong(i, k)) group[column[k]!] = groups;
		groups++;
	}
	const joined = group.slice();
	for (let i = 0; i < n; i++) {
		if (group[i] !== -1) continue;
		let best = 0;
		for (let k = start[i]!; k < start[i + 1]!; k++)
			if (group[column[k]!] !== -1 && strength[k]! > best) {
				best = strength[k]!;
				joined[i] = group[column[k]!]!;
			}
		if (joined[i] === -1) joined[i] = groups++;
	}
	return [joined, groups];
}

function middles(group: Int32Array, groups: number, centre: Float64Array): Float64Array {
	const middle = new Float64Array(3 * groups);
	const count = new Float64Array(groups);
	for (const [i, a] of group.entries()) {
		count[a]!++;
		for (let d = 0; d < 3; d++) middle[3 * a + d]! += centre[3 * i + d]!;
	}
	for (let k = 0; k < middle.length; k++) middle[k]! /= count[Math.floor(k / 3)]!;
	return middle;
}

/** P = (I − ω D⁻¹ A) P₀, P₀ the rigid movement of groups at their nodes, ω = 4 / 3 λ. */
function prolongation(
	m: BlockMatrix,
	inverse: Float64Array,
	omega: number,
	group: Int32Array,
	groups: number,
	centre: Float64Array,
	middle: Float64Array,
): Prolongation {
	const { n, start, column } = m;
	const arms = new Float64Array(3 * n);
	for (let i = 0; i < n; i++) for (let d = 0; d < 3; d++) arms[3 * i + d] = centre[3 * i + d]! - middle[3 * group[i]! + d]!;
	const first = new Int32Array(n + 1);
	const columns: number[] = [];
	const seen = new Int32Array(groups).fill(-1);
	for (let i = 0; i < n; i++) {
		for (let k = start[i]! - 1; k < start[i + 1]!; k++) {
			const a = group[k < start[i]! ? i : column[k]!]!;
			if (seen[a] === i) continue;
			seen[a] = i;
			columns.push(a);
		}
		first[i + 1] = columns.length;
	}
	const up = { groups, start: first, column: Int32Array.from(columns), block: new Float64Array(36 * columns.length) };
	const pull = new Float64Array(36);
	const place = new Int32Array(groups);
	for (let i = 0; i < n; i++) {
		for (let k = first[i]!; k < first[i + 1]!; k++) place[columns[k]!] = 36 * k;
		// The diagonal's block times its inverse is one: what is left of it is 1 − ω.
		addRigid(up.block, place[group[i]!]!, 1 - omega, arms, i);
		for (let k = start[i]!; k < start[i + 1]!; k++) {
			const j = column[k]!;
			timesRigid(m.block, 36 * k, arms, j, pull);
			addProduct(up.block, place[group[j]!]!, -omega, inverse, 36 * i, pull, 0);
		}
	}
	return up;
}

/** Of D⁻¹ A, from above (power method). */
function largestEigenvalue(
	memory: BlockMemory,
	m: PlacedMatrix,
	inverse: number,
	{ given: x, found: y }: Pick<Level, "given" | "found">,
): number {
	const { kernel } = memory;
	const numbers = vectorAt(memory, x, m.n);
	// Any start does that is not smooth.
	for (let i = 0; i < numbers.length; i++) numbers[i] = ((i * 7919) % 101) / 101 - 0.5;
	let value = Math.sqrt(kernel.dot(m.n, x, x));
	for (let step = 0; step < POWER_STEPS; step++) {
		for (let i = 0; i < numbers.length; i++) numbers[i]! /= value;
		multiply(memory, m, x, y);
		kernel.scaleRows(m.n, inverse, y, x);
		value = Math.sqrt(kernel.dot(m.n, x, x));
	}
	return ROOM * value;
}

/** out += share × the rigid movement of a group at a node's arm from its centre. */
function addRigid(out: Float64Array, to: number, share: number, arms: Float64Array, i: number): void {
	const [x, y, z] = [arms[3 * i]!, arms[3 * i + 1]!, arms[3 * i + 2]!];
	for (let c = 0; c < 6; c++) out[to + 7 * c]! += share;
	out[to + 4]! += share * z;
	out[to + 5]! -= share * y;
	out[to + 9]! -= share * z;
	out[to + 11]! += share * x;
	out[to + 15]! += share * y;
	out[to + 16]! -= share * x;
}

/** out = B × the rigid movement of a group at a node's arm from its centre. */
function timesRigid(b: Float64Array, at: number, arms: Float64Array, i: number, out: Float64Array): void {
	const [x, y, z] = [arms[3 * i]!, arms[3 * i + 1]!, arms[3 * i + 2]!];
	for (let r = 0; r < 36; r += 6) {
		const [b0, b1, b2] = [b[at + r]!, b[at + r + 1]!, b[at + r + 2]!];
		out[r] = b0;
		out[r + 1] = b1;
		out[r + 2] = b2;
		out[r + 3] = b[at + r + 3]! + y * b2 - z * b1;
		out[r + 4] = b[at + r + 4]! + z * b0 - x * b2;
		out[r + 5] = b[at + r + 5]! + x * b1 - y * b0;
	}
}

/** out += share × A B, or Aᵀ B, blocks of 6 × 6; `row` and `step`: from one of A's numbers to the next, down and across. */
function addProduct(
	out: Float64Array,
	to: number,
	share: number,
	a: Float64Array,
	atA: number,
	b: Float64Array,
	atB: number,
	row = 6,
	step = 1,
): void {
	for (let r = 0; r < 6; r++) {
		const o = to + 6 * r;
		let o0 = out[o]!;
		let o1 = out[o + 1]!;
		let o2 = out[o + 2]!;
		let o3 = out[o + 3]!;
		let o4 = out[o + 4]!;
		let o5 = out[o + 5]!;
		for (let k = 0; k < 6; k++) {
			const factor = share * a[atA + row * r + step * k]!;
			const e = atB + 6 * k;
			o0 += factor * b[e]!;
			o1 += factor * b[e + 1]!;
			o2 += factor * b[e + 2]!;
			o3 += factor * b[e + 3]!;
			o4 += factor * b[e + 4]!;
			o5 += factor * b[e + 5]!;
		}
		out[o] = o0;
		out[o + 1] = o1;
		out[o + 2] = o2;
		out[o + 3] = o3;
		out[o + 4] = o4;
		out[o + 5] = o5;
	}
}

/** Pᵀ A P. */
function coarsen(m: BlockMatrix, up: Prolongation): BlockMatrix {
	const { n, start, column } = m;
	// Groups that a node's row of A P reaches.
	const first = new Int32Array(n + 1);
	const reach: number[] = [];
	const pairs: number[] = [];
	const seen = new Int32Array(up.groups).fill(-1);
	for (let i = 0; i < n; i++) {
		for (let k = start[i]! - 1; k < start[i + 1]!; k++) {
			const j = k < start[i]! ? i : column[k]!;
			for (let q = up.start[j]!; q < up.start[j + 1]!; q++) {
				const a = up.column[q]!;
				if (seen[a] === i) continue;
				seen[a] = i;
				reach.push(a);
			}
		}
		first[i + 1] = reach.length;
		for (let q = up.start[i]!; q < up.start[i + 1]!; q++)
			for (let k = first[i]!; k < reach.length; k++) if (up.column[q]! < reach[k]!) pairs.push(up.column[q]!, reach[k]!);
	}
	const coarse = emptyBlockMatrix(up.groups, pairs);
	const place = new Int32Array(up.groups);
	let row = new Float64Array(36 * 64);
	for (let i = 0; i < n; i++) {
		const [from, to] = [first[i]!, first[i + 1]!];
		if (36 * (to - from) > row.length) row = new Float64Array(72 * (to - from));
		row.fill(0, 0, 36 * (to - from));
		for (let k = from; k < to; k++) place[reach[k]!] = 36 * (k - from);
		for (let k = start[i]! - 1; k < start[i + 1]!; k++) {
			const j = k < start[i]! ? i : column[k]!;
			const [block, at] = k < start[i]! ? [m.diagonal, 36 * i] : [m.block, 36 * k];
			for (let q = up.start[j]!; q < up.start[j + 1]!; q++) addProduct(row, place[up.column[q]!]!, 1, block, at, up.block, 36 * q);
		}
		for (let q = up.start[i]!; q < up.start[i + 1]!; q++) {
			const a = up.column[q]!;
			for (let k = from; k < to; k++) {
				const b = reach[k]!;
				// The half above the diagonal; the other one is the same.
				if (a === b) addProduct(coarse.diagonal, 36 * a, 1, up.block, 36 * q, row, place[b]!, 1, 6);
				else if (a < b) addProduct(coarse.block, blockAt(coarse, a, b), 1, up.block, 36 * q, row, place[b]!, 1, 6);
			}
		}
	}
	mirror(coarse);
	return coarse;
}

/** Fills the half below the diagonal from that above it. */
function mirror(m: BlockMatrix): void {
	for (let i = 0; i < m.n; i++)
		for (let k = m.upper[i]!; k < m.start[i + 1]!; k++) {
			const to = blockAt(m, m.column[k]!, i);
			for (let r = 0; r < 6; r++) for (let c = 0; c < 6; c++) m.block[to + 6 * c + r] = m.block[36 * k + 6 * r + c]!;
		}
}
