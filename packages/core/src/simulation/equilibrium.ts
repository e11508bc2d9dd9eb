import type { Bonds } from "../bonds";
import { type BlockMatrix, blockAt, dot, emptyBlockMatrix, multiply } from "./blockMatrix";
import type { BondedPart, BondNet, BondStress } from "./bondNet";

/**
 * What bonds bear of loads that come slowly: own weight, things that lean or lie on it. K u = f over rigid bodies and
 * springs (Kawai 1978), by preconditioned conjugate gradients (Golub & Van Loan, §11.5); a rod that hangs and a beam that
 * is held at one end come out as the textbook says. Groups that nothing holds are in balance against their own
 * acceleration (inertia relief), and CG leaves their rigid motion alone. A caller can stop early and go on later.
 */
export interface Structure extends BondedPart {
	/** 6 per member: K. */
	readonly matrix: BlockMatrix;
	/** z = about K⁻¹ r. */
	readonly precondition: (r: Float64Array, z: Float64Array) => void;
}

/** For stresses the modulus does not matter; this keeps numbers in range. Pa */
const MODULUS = 1e9;
/** Of the load, that may be left. */
const TOLERANCE = 2e-3;

/**
 * Returns the share of the load that is not yet in balance. `load`: 6 per member, N and N m about its centre, in the axes
 * of the first frame; `u`: 6 per member, where it starts from and what it finds, for a modulus of 1 GPa.
 */
export function balance({ matrix, precondition }: Structure, load: Float64Array, u: Float64Array, mostIterations: number): number {
	const whole = dot(load, load);
	if (whole === 0) {
		u.fill(0);
		return 0;
	}
	const size = u.length;
	const image = new Float64Array(size);
	const r = new Float64Array(size);
	const z = new Float64Array(size);
	const p = new Float64Array(size);
	multiply(matrix, u, image);
	for (let i = 0; i < size; i++) r[i] = load[i]! - image[i]!;
	let rest = dot(r, r);
	let rz = 0;
	for (let step = 0; step < mostIterations && rest > TOLERANCE * TOLERANCE * whole; step++) {
		precondition(r, z);
		const next = dot(r, z);
		const beta = step === 0 ? 0 : next / rz;
		rz = next;
		for (let i = 0; i < size; i++) p[i] = z[i]! + beta * p[i]!;
		multiply(matrix, p, image);
		const curvature = dot(p, image);
		if (!(curvature > 0)) break;
		const alpha = rz / curvature;
		for (let i = 0; i < size; i++) {
			u[i]! += alpha * p[i]!;
			r[i]! -= alpha * image[i]!;
		}
		rest = dot(r, r);
	}
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
	const { arms, axes: g, stiffness } = net;
	// Movement at the face along one axis, by the six of either end.
	const byA = new Float64Array(6);
	const byB = new Float64Array(6);
	for (const [z, k] of list.entries()) {
		const [a, b] = [ends[2 * z]!, ends[2 * z + 1]!];
		const ab = a < n && b < n ? blockAt(matrix, a, b) : -1;
		const ba = ab < 0 ? -1 : blockAt(matrix, b, a);
		for (let axis = 0; axis < 3; axis++) {
			const at = 9 * k + 3 * axis;
			const force = MODULUS * stiffness[5 * k + (axis === 0 ? 0 : 1)]!;
			const moment = MODULUS * stiffness[5 * k + (axis === 0 ? 4 : 1 + axis)]!;
			atFace(byA, arms, 6 * k, g, at);
			atFace(byB, arms, 6 * k + 3, g, at);
			if (a < n) addSpring(matrix.diagonal, 36 * a, force, byA, byA, moment, g, at);
			if (b < n) addSpring(matrix.diagonal, 36 * b, force, byB, byB, moment, g, at);
			if (ab < 0) continue;
			addSpring(matrix.block, ab, -force, byA, byB, -moment, g, at);
			addSpring(matrix.block, ba, -force, byB, byA, -moment, g, at);
		}
	}
	return matrix;
}

function atFace(out: Float64Array, arms: Float64Array, arm: number, g: Float64Array, at: number): void {
	const [x, y, z] = [arms[arm]!, arms[arm + 1]!, arms[arm + 2]!];
	const [gx, gy, gz] = [g[at]!, g[at + 1]!, g[at + 2]!];
	out[0] = gx;
	out[1] = gy;
	out[2] = gz;
	out[3] = y * gz - z * gy;
	out[4] = z * gx - x * gz;
	out[5] = x * gy - y * gx;
}

function addSpring(
	out: Float64Array,
	to: number,
	force: number,
	rows: Float64Array,
	columns: Float64Array,
	moment: number,
	g: Float64Array,
	at: number,
): void {
	for (let r = 0; r < 6; r++) {
		const share = force * rows[r]!;
		for (let c = 0; c < 6; c++) out[to + 6 * r + c]! += share * columns[c]!;
	}
	for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) out[to + 6 * (3 + r) + 3 + c]! += moment * g[at + r]! * g[at + c]!;
}
