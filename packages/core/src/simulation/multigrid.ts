import {
	addBlocks,
	type BlockMatrix,
	blockAt,
	dot,
	emptyBlockMatrix,
	factorWhole,
	invertDiagonal,
	multiply,
	solveFactored,
} from "./blockMatrix";

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
	readonly matrix: BlockMatrix;
	/** 36 per node: of the diagonal's blocks; empty at the coarsest. */
	readonly inverse: Float64Array;
	readonly up: Prolongation | undefined;
	/** Of the coarsest level. */
	readonly factor: Float64Array | undefined;
	/** What comes down to this level, what goes back up, what is left. */
	readonly given: Float64Array;
	readonly found: Float64Array;
	readonly rest: Float64Array;
}

/** How nodes move with the groups of the coarser level: blocks of 6 × 6 in rows as in `BlockMatrix`. */
interface Prolongation {
	readonly groups: number;
	readonly start: Int32Array;
	readonly column: Int32Array;
	readonly block: Float64Array;
}

export type Multigrid = readonly Level[];

/** So few are solved directly. */
const DIRECT = 40;
/** A neighbour is taken along where the coupling is at least this share of the strongest that the first one has. */
const STRONG = 0.08;
/** Levels that hardly get smaller are the last. */
const LEAST_SHRINK = 0.9;
/** Steps of the power method for the largest eigenvalue, and room above what they find. */
const POWER_STEPS = 8;
const ROOM = 1.1;

/** `centre`: 3 per row. */
export function makeMultigrid(matrix: BlockMatrix, centre: Float64Array): Multigrid {
	const levels: Level[] = [];
	for (let m = matrix, c = centre; ; ) {
		const [group, groups] = m.n > DIRECT ? aggregate(m) : [new Int32Array(0), m.n];
		const last = m.n <= DIRECT || groups > LEAST_SHRINK * m.n;
		const inverse = last ? new Float64Array(0) : invertDiagonal(m);
		const middle = last ? c : middles(group, groups, c);
		const up = last ? undefined : prolongation(m, inverse, group, groups, c, middle);
		levels.push({
			matrix: m,
			inverse,
			up,
			factor: last ? factorWhole(m) : undefined,
			given: new Float64Array(6 * m.n),
			found: new Float64Array(6 * m.n),
			rest: new Float64Array(6 * m.n),
		});
		if (!up) return levels;
		m = coarsen(m, up);
		c = middle;
	}
}

/** z = about A⁻¹ r, linear and symmetric. */
export function cycle(levels: Multigrid, depth: number, r: Float64Array, z: Float64Array): void {
	const level = levels[depth]!;
	if (level.factor) {
		z.set(r);
		solveFactored(level.factor, z);
		return;
	}
	const below = levels[depth + 1]!;
	sweepDown(level, r, z);
	restrict(level.up!, level.rest, below.given);
	cycle(levels, depth + 1, below.given, below.found);
	prolong(level.up!, below.found, z);
	sweepUp(level, r, z);
}

/** One sweep of Gauss and Seidel from nothing, rows ascending; what is left of r goes to `rest`. */
function sweepDown({ matrix, inverse, rest }: Level, r: Float64Array, z: Float64Array): void {
	const { n, start, upper } = matrix;
	const s = new Float64Array(6);
	for (let i = 0; i < n; i++) {
		s.fill(0);
		addBlocks(matrix, start[i]!, upper[i]!, z, s);
		relax(inverse, i, r, s, z);
	}
	// Each row was in balance when its turn came: what came later is all that is left.
	for (let i = 0; i < n; i++) {
		s.fill(0);
		addBlocks(matrix, upper[i]!, start[i + 1]!, z, s);
		for (let d = 0; d < 6; d++) rest[6 * i + d] = -s[d]!;
	}
}

/** One sweep on from z, rows descending. */
function sweepUp({ matrix, inverse }: Level, r: Float64Array, z: Float64Array): void {
	const { n, start } = matrix;
	const s = new Float64Array(6);
	for (let i = n - 1; i >= 0; i--) {
		s.fill(0);
		addBlocks(matrix, start[i]!, start[i + 1]!, z, s);
		relax(inverse, i, r, s, z);
	}
}

/** Row i in balance with its neighbours' pull s. */
function relax(inverse: Float64Array, i: number, r: Float64Array, s: Float64Array, z: Float64Array): void {
	const [at, o] = [36 * i, 6 * i];
	const r0 = r[o]! - s[0]!;
	const r1 = r[o + 1]! - s[1]!;
	const r2 = r[o + 2]! - s[2]!;
	const r3 = r[o + 3]! - s[3]!;
	const r4 = r[o + 4]! - s[4]!;
	const r5 = r[o + 5]! - s[5]!;
	for (let a = 0; a < 6; a++) {
		const e = at + 6 * a;
		z[o + a] =
			inverse[e]! * r0 + inverse[e + 1]! * r1 + inverse[e + 2]! * r2 + inverse[e + 3]! * r3 + inverse[e + 4]! * r4 + inverse[e + 5]! * r5;
	}
}

/** y = Pᵀ r. */
function restrict({ start, column, block }: Prolongation, r: Float64Array, y: Float64Array): void {
	y.fill(0);
	for (let i = 0; i + 1 < start.length; i++)
		for (let k = start[i]!; k < start[i + 1]!; k++) {
			const [a, e, o] = [6 * column[k]!, 36 * k, 6 * i];
			for (let c = 0; c < 6; c++)
				y[a + c]! +=
					block[e + c]! * r[o]! +
					block[e + 6 + c]! * r[o + 1]! +
					block[e + 12 + c]! * r[o + 2]! +
					block[e + 18 + c]! * r[o + 3]! +
					block[e + 24 + c]! * r[o + 4]! +
					block[e + 30 + c]! * r[o + 5]!;
		}
}

/** z += P y. */
function prolong(up: Prolongation, y: Float64Array, z: Float64Array): void {
	const s = new Float64Array(6);
	for (let i = 0; i + 1 < up.start.length; i++) {
		s.fill(0);
		addBlocks(up, up.start[i]!, up.start[i + 1]!, y, s);
		for (let d = 0; d < 6; d++) z[6 * i + d]! += s[d]!;
	}
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
	group: Int32Array,
	groups: number,
	centre: Float64Array,
	middle: Float64Array,
): Prolongation {
	const { n, start, column } = m;
	const omega = 4 / (3 * largestEigenvalue(m, inverse));
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
function largestEigenvalue(m: BlockMatrix, inverse: Float64Array): number {
	const x = new Float64Array(6 * m.n);
	const y = new Float64Array(6 * m.n);
	const none = new Float64Array(6);
	// Any start does that is not smooth.
	for (let i = 0; i < x.length; i++) x[i] = ((i * 7919) % 101) / 101 - 0.5;
	let value = 0;
	for (let step = 0; step < POWER_STEPS; step++) {
		const size = Math.sqrt(dot(x, x));
		for (let i = 0; i < x.length; i++) x[i]! /= size;
		multiply(m, x, y);
		for (let i = 0; i < m.n; i++) relax(inverse, i, y, none, x);
		value = Math.sqrt(dot(x, x));
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
