import type { Bonds } from "../../bonds";
import { type BlockMatrix, blockAt, emptyBlockMatrix } from "./blockMatrix";
import { type BlockMemory, multiply, type PlacedMatrix, vectorAt } from "./blockMemory";
import type { BondedPart, BondNet, BondStress } from "./bondNet";
import { gather, spread } from "./sixes";

/**
 * What bonds bear of loads that come slowly: own weight, things that lean or lie on it. K u = f over rigid bodies and
 * springs (Kawai 1978), by preconditioned conjugate gradients (Golub & Van Loan, §11.5); a rod that hangs and a beam that
 * is held at one end come out as the textbook says. Groups that nothing holds are in balance against their own
 * acceleration (inertia relief), and CG leaves their rigid motion alone. A caller can stop early and go on later.
 */
export interface Structure extends BondedPart {
	readonly memory: BlockMemory;
	/** K, 6 per row. */
	readonly matrix: PlacedMatrix;
	/** 1 per member: its row; absent where they are the members' own. */
	readonly rows?: Int32Array | undefined;
	/** z = about K⁻¹ r; vectors by their places. */
	readonly precondition: (r: number, z: number) => void;
	/** Places of the vectors that `balance` works with. */
	readonly work: { readonly [vector in "x" | "r" | "z" | "p" | "image"]: number };
}

/** For stresses the modulus does not matter; this keeps numbers in range. Pa */
const MODULUS = 1e9;
/** Of the load, that may be left. */
const TOLERANCE = 2e-3;

/**
 * Returns the share of the load that is not yet in balance. `load`: 6 per member, N and N m about its centre, in the axes
 * of the first frame; `u`: 6 per member, where it starts from and what it finds, for a modulus of 1 GPa; `search`: 6 per member, the
 * last direction of a search that goes on, zeros for a new one.
 */
export function balance(
	{ memory, matrix, rows, precondition, work }: Structure,
	load: Float64Array,
	u: Float64Array,
	search: Float64Array,
	mostIterations: number,
): number {
	const { kernel } = memory;
	const { n } = matrix;
	const { x, r, z, p, image } = work;
	/** Into the rows and out of them; rows of nobody stay as they are: nothing acts on them. */
	const put = (values: Float64Array, into: Float64Array): void => {
		if (rows) spread(values, rows, into.fill(0));
		else into.set(values);
	};
	const take = (from: Float64Array, values: Float64Array): void => {
		if (rows) gather(from, rows, values);
		else values.set(from);
	};
	put(load, vectorAt(memory, r, n));
	const whole = kernel.dot(n, r, r);
	if (whole === 0) {
		u.fill(0);
		search.fill(0);
		return 0;
	}
	put(u, vectorAt(memory, x, n));
	multiply(memory, matrix, x, image);
	kernel.combine(n, r, r, -1, image);
	let rest = kernel.dot(n, r, r);
	// A start that is worse than none is none: what stood on its last bond was bent by metres, which no fragment of it is.
	if (rest > whole) {
		search.fill(0);
		vectorAt(memory, x, n).fill(0);
		put(load, vectorAt(memory, r, n));
		rest = whole;
	}
	put(search, vectorAt(memory, p, n));
	multiply(memory, matrix, p, image);
	const last = kernel.dot(n, p, image);
	let rz = 0;
	for (let step = 0; step < mostIterations && rest > TOLERANCE * TOLERANCE * whole; step++) {
		precondition(r, z);
		const next = kernel.dot(n, r, z);
		// Conjugate to the last direction; what a search goes on from is asked itself, as load and structure may have changed since.
		const along = step > 0 ? next / rz : last > 0 ? -kernel.dot(n, z, image) / last : 0;
		kernel.combine(n, p, z, along, p);
		rz = next;
		multiply(memory, matrix, p, image);
		const curvature = kernel.dot(n, p, image);
		if (!(curvature > 0)) break;
		kernel.combine(n, x, x, rz / curvature, p);
		kernel.combine(n, r, r, -rz / curvature, image);
		rest = kernel.dot(n, r, r);
	}
	take(vectorAt(memory, x, n), u);
	take(vectorAt(memory, p, n), search);
	return Math.sqrt(rest / whole);
}

/** What a bond bears in a solution; `end`: place of its ends in `u`, −1 for what holds still. */
export function stressOf(net: BondNet, bonds: Bonds, k: number, u: Float64Array, endA: number, endB: number): BondStress {
	const { arms, axes: g, stiffness: s, modulus } = net;
	// How the two sides of the face have moved apart and turned against each other.
	let [dx, dy, dz, rx, ry, rz] = [0, 0, 0, 0, 0, 0];
	for (let side = 0; side < 2; side++) {
		const [o, arm, sign] = side === 0 ? [6 * endA, 6 * k, -1] : [6 * endB, 6 * k + 3, 1];
		if (o < 0) continue;
		const [x, y, z] = [arms[arm]!, arms[arm + 1]!, arms[arm + 2]!];
		const [tx, ty, tz] = [u[o + 3]!, u[o + 4]!, u[o + 5]!];
		dx += sign * (u[o]! + ty * z - tz * y);
		dy += sign * (u[o + 1]! + tz * x - tx * z);
		dz += sign * (u[o + 2]! + tx * y - ty * x);
		rx += sign * tx;
		ry += sign * ty;
		rz += sign * tz;
	}
	const [n, t, w] = [9 * k, 9 * k + 3, 9 * k + 6];
	const area = bonds.area[k]!;
	const pull = (MODULUS * s[5 * k]! * (dx * g[n]! + dy * g[n + 1]! + dz * g[n + 2]!)) / area;
	const across = dx * g[t]! + dy * g[t + 1]! + dz * g[t + 2]!;
	const third = dx * g[w]! + dy * g[w + 1]! + dz * g[w + 2]!;
	const bend =
		MODULUS *
		(Math.abs(s[5 * k + 2]! * (rx * g[t]! + ry * g[t + 1]! + rz * g[t + 2]!)) / modulus[3 * k]! +
			Math.abs(s[5 * k + 3]! * (rx * g[w]! + ry * g[w + 1]! + rz * g[w + 2]!)) / modulus[3 * k + 1]!);
	const twist = (MODULUS * Math.abs(s[5 * k + 4]! * (rx * g[n]! + ry * g[n + 1]! + rz * g[n + 2]!))) / modulus[3 * k + 2]!;
	return {
		tension: pull + bend,
		compression: bend - pull,
		shear: (MODULUS * s[5 * k + 1]! * Math.sqrt(across * across + third * third)) / area + twist,
		pressure: -pull,
	};
}

/** K, 6 per member: bonds as springs at their faces. */
export function stiffnessOf(net: BondNet, bonds: Bonds, { members, list }: BondedPart): BlockMatrix {
	const n = members.length;
	const local = new Map(members.map((body, z) => [body, z]));
	const ends = new Int32Array(2 * list.length);
	for (const [z, k] of list.entries()) {
		ends[2 * z] = local.get(bonds.a[k]!) ?? n;
		ends[2 * z + 1] = local.get(bonds.b[k]!) ?? n;
	}
	const matrix = emptyBlockMatrix(n, ends);
	const spring = makeSpring();
	for (const [z, k] of list.entries()) {
		const [a, b] = [ends[2 * z]!, ends[2 * z + 1]!];
		setSpring(spring, net, k);
		if (a < n) addAtEnd(spring, matrix.diagonal, 36 * a, "a");
		if (b < n) addAtEnd(spring, matrix.diagonal, 36 * b, "b");
		if (a < n && b < n) addBetween(spring, matrix.block, blockAt(matrix, a, b), blockAt(matrix, b, a));
	}
	return matrix;
}

/**
 * Takes bonds that have broken out of K, given by its blocks; to the last bit as if it had been made without them. `matrix` says where
 * blocks are, `rows` (1 per body of the scene) which rows are whose, −1 for what holds still.
 */
export function takeOut(
	net: BondNet,
	bonds: Bonds,
	broken: readonly number[],
	rows: Int32Array,
	matrix: Pick<BlockMatrix, "start" | "column">,
	block: Float64Array,
	diagonal: Float64Array,
): void {
	const gone = new Set(broken);
	const spring = makeSpring();
	const ends = new Set(broken.flatMap((k) => [bonds.a[k]!, bonds.b[k]!]).filter((body) => rows[body]! >= 0));
	for (const body of ends) {
		const at = 36 * rows[body]!;
		diagonal.fill(0, at, at + 36);
		for (const k of net.of[body]!) {
			if (gone.has(k)) continue;
			setSpring(spring, net, k);
			addAtEnd(spring, diagonal, at, bonds.a[k] === body ? "a" : "b");
		}
	}
	for (const k of broken) {
		const [a, b] = [bonds.a[k]!, bonds.b[k]!];
		if (rows[a]! < 0 || rows[b]! < 0) continue;
		const [ab, ba] = [blockAt(matrix, rows[a]!, rows[b]!), blockAt(matrix, rows[b]!, rows[a]!)];
		block.fill(0, ab, ab + 36).fill(0, ba, ba + 36);
		// Others may hold the same two.
		for (const other of net.of[a]!) {
			if (gone.has(other) || (bonds.a[other] !== b && bonds.b[other] !== b)) continue;
			setSpring(spring, net, other);
			if (bonds.a[other] === a) addBetween(spring, block, ab, ba);
			else addBetween(spring, block, ba, ab);
		}
	}
}

function addAtEnd({ force, byA, byB, aa, bb }: Spring, diagonal: Float64Array, at: number, end: "a" | "b"): void {
	if (end === "a") addSpring(diagonal, at, 1, force, byA, byA, aa);
	else addSpring(diagonal, at, 1, force, byB, byB, bb);
}

/** `at`, `back`: blocks of a's row and of b's. */
function addBetween({ force, byA, byB, ab, ba }: Spring, block: Float64Array, at: number, back: number): void {
	addSpring(block, at, -1, force, byA, byB, ab);
	addSpring(block, back, -1, force, byB, byA, ba);
}

const SPRING = ["force", "moment", "byA", "byB", "aa", "bb", "ab", "ba"] as const;

/**
 * A bond's blocks, in parts of 3 × 3, row by row. With S the matrix of r × and r the arm from a body's centre to the face, a body moves
 * the face by u + θ × r = u − S θ: so K is F = Σ k g gᵀ over the three axes g, next to S F, and S F Sᵀ with the moments' own matrix.
 */
type Spring = { readonly [part in (typeof SPRING)[number]]: Float64Array };

const makeSpring = (): Spring => Object.fromEntries(SPRING.map((part) => [part, new Float64Array(9)])) as Spring;

function setSpring({ force, moment, byA, byB, aa, bb, ab, ba }: Spring, { arms, axes: g, stiffness }: BondNet, k: number): void {
	force.fill(0);
	moment.fill(0);
	for (let axis = 0; axis < 3; axis++) {
		const at = 9 * k + 3 * axis;
		addSquare(force, MODULUS * stiffness[5 * k + (axis === 0 ? 0 : 1)]!, g, at);
		addSquare(moment, MODULUS * stiffness[5 * k + (axis === 0 ? 4 : 1 + axis)]!, g, at);
	}
	armTimes(byA, arms, 6 * k, force);
	armTimes(byB, arms, 6 * k + 3, force);
	// S F Rᵀ = (R (S F)ᵀ)ᵀ, and F is its own transpose.
	timesArm(aa, byA, arms, 6 * k);
	timesArm(bb, byB, arms, 6 * k + 3);
	timesArm(ab, byA, arms, 6 * k + 3);
	for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) ba[3 * r + c] = ab[3 * c + r]! + moment[3 * r + c]!;
	for (let d = 0; d < 9; d++) {
		aa[d]! += moment[d]!;
		bb[d]! += moment[d]!;
		ab[d]! += moment[d]!;
	}
}

/** out += share × g gᵀ */
function addSquare(out: Float64Array, share: number, g: Float64Array, at: number): void {
	for (let r = 0; r < 3; r++) {
		const row = share * g[at + r]!;
		for (let c = 0; c < 3; c++) out[3 * r + c]! += row * g[at + c]!;
	}
}

/** out = S m, S the matrix of r ×. */
function armTimes(out: Float64Array, arms: Float64Array, arm: number, m: Float64Array): void {
	const [x, y, z] = [arms[arm]!, arms[arm + 1]!, arms[arm + 2]!];
	for (let c = 0; c < 3; c++) {
		out[c] = y * m[6 + c]! - z * m[3 + c]!;
		out[3 + c] = z * m[c]! - x * m[6 + c]!;
		out[6 + c] = x * m[3 + c]! - y * m[c]!;
	}
}

/** out = m Sᵀ */
function timesArm(out: Float64Array, m: Float64Array, arms: Float64Array, arm: number): void {
	const [x, y, z] = [arms[arm]!, arms[arm + 1]!, arms[arm + 2]!];
	for (let r = 0; r < 9; r += 3) {
		out[r] = y * m[r + 2]! - z * m[r + 1]!;
		out[r + 1] = z * m[r]! - x * m[r + 2]!;
		out[r + 2] = x * m[r + 1]! - y * m[r]!;
	}
}

/** out += sign × (F, columnsᵀ; rows, turns), parts of 3 × 3. */
function addSpring(
	out: Float64Array,
	to: number,
	sign: 1 | -1,
	force: Float64Array,
	rows: Float64Array,
	columns: Float64Array,
	turns: Float64Array,
): void {
	for (let r = 0; r < 3; r++)
		for (let c = 0; c < 3; c++) {
			const [upper, lower] = [to + 6 * r + c, to + 6 * r + c + 18];
			out[upper]! += sign * force[3 * r + c]!;
			out[upper + 3]! += sign * columns[3 * c + r]!;
			out[lower]! += sign * rows[3 * r + c]!;
			out[lower + 3]! += sign * turns[3 * r + c]!;
		}
}
