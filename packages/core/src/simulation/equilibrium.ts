import type { Bonds } from "../bonds";
import type { BondNet, BondStress } from "./bondNet";
import { addCoarse, type Coarse, makeCoarse } from "./coarse";

/**
 * What bonds bear of loads that come slowly: own weight, things that lean or lie on it. K u = f over rigid bodies and
 * springs (Kawai 1978), by conjugate gradients with the 6 × 6 blocks of the diagonal as preconditioner; a rod that hangs
 * and a beam that is held at one end come out as the textbook says. Groups that nothing holds are in balance against
 * their own acceleration (inertia relief), and CG leaves their rigid motion alone.
 *
 * Tried: without the blocks ten times the iterations; a coarse space (`coarse.ts`) takes the rest down again. The count
 * still grows with the span of the structure in pieces, so a caller can stop early and go on later from where it was.
 */
export interface Equilibrium {
	/** Bodies, and their bonds that hold. */
	readonly members: readonly number[];
	readonly list: readonly number[];
	/** 6 per member: N and N m about its centre, in the axes of the first frame. */
	readonly load: Float64Array;
	/** 6 per member: where it starts from and what it finds, for a modulus of 1 GPa. */
	readonly u: Float64Array;
}

/** For stresses the modulus does not matter; this keeps numbers in range. Pa */
const MODULUS = 1e9;
/** Of the load, that may be left. */
const TOLERANCE = 2e-3;

/** Returns the share of the load that is not yet in balance. */
export function balance(net: BondNet, bonds: Bonds, problem: Equilibrium, mostIterations: number): number {
	const { members, list, load, u } = problem;
	const n = members.length;
	const local = new Map(members.map((body, z) => [body, z]));
	const ends = new Int32Array(2 * list.length);
	const packed = new Float64Array(PACK * list.length);
	for (const [z, k] of list.entries()) {
		ends[2 * z] = local.get(bonds.a[k]!) ?? n;
		ends[2 * z + 1] = local.get(bonds.b[k]!) ?? n;
		packed.set(net.arms.subarray(6 * k, 6 * k + 6), PACK * z);
		packed.set(net.axes.subarray(9 * k, 9 * k + 9), PACK * z + 6);
		for (let c = 0; c < 5; c++) packed[PACK * z + 15 + c] = net.stiffness[5 * k + c]! * MODULUS;
	}
	const blocks = factorBlocks(n, ends, packed);
	const coarse = makeCoarse(n, ends, packed, PACK, Float64Array.from(members.flatMap((i) => [...net.centre.subarray(3 * i, 3 * i + 3)])));
	const size = 6 * n;
	const x = new Float64Array(size + 6);
	x.set(u);
	const ap = new Float64Array(size + 6);
	const r = new Float64Array(size);
	const z = new Float64Array(size);
	const p = new Float64Array(size + 6);
	let whole = 0;
	for (let i = 0; i < size; i++) whole += load[i]! * load[i]!;
	if (whole === 0) {
		u.fill(0);
		return 0;
	}
	apply(list.length, ends, packed, x, ap);
	let rest = 0;
	for (let i = 0; i < size; i++) {
		r[i] = load[i]! - ap[i]!;
		rest += r[i]! * r[i]!;
	}
	precondition(n, blocks, coarse, r, z);
	p.set(z);
	let rz = dot(r, z);
	for (let step = 0; step < mostIterations && rest > TOLERANCE * TOLERANCE * whole; step++) {
		apply(list.length, ends, packed, p, ap);
		const curvature = dot(p.subarray(0, size), ap.subarray(0, size));
		if (!(curvature > 0)) break;
		const alpha = rz / curvature;
		rest = 0;
		for (let i = 0; i < size; i++) {
			x[i]! += alpha * p[i]!;
			r[i]! -= alpha * ap[i]!;
			rest += r[i]! * r[i]!;
		}
		precondition(n, blocks, coarse, r, z);
		const next = dot(r, z);
		const beta = next / rz;
		rz = next;
		for (let i = 0; i < size; i++) p[i] = z[i]! + beta * p[i]!;
	}
	u.set(x.subarray(0, size));
	return Math.sqrt(rest / whole);
}

/** What a bond bears in a solution; `end`: place of its ends in `u`, −1 for what holds still. */
export function stressOf(net: BondNet, bonds: Bonds, k: number, u: Float64Array, endA: number, endB: number): BondStress {
	const g = net.axes.subarray(9 * k, 9 * k + 9);
	const arm = net.arms.subarray(6 * k, 6 * k + 6);
	const at = (end: number, d: number) => (end < 0 ? 0 : u[6 * end + d]!);
	const moved = (end: number, from: number, d: number): number => {
		const [e, f] = [(d + 1) % 3, (d + 2) % 3];
		return at(end, d) + at(end, 3 + e) * arm[from + f]! - at(end, 3 + f) * arm[from + e]!;
	};
	const apart = [0, 1, 2].map((d) => moved(endB, 3, d) - moved(endA, 0, d));
	const turn = [0, 1, 2].map((d) => at(endB, 3 + d) - at(endA, 3 + d));
	const along = (v: readonly number[], axis: number) => v[0]! * g[3 * axis]! + v[1]! * g[3 * axis + 1]! + v[2]! * g[3 * axis + 2]!;
	const s = net.stiffness.subarray(5 * k, 5 * k + 5);
	const area = bonds.area[k]!;
	const pull = (MODULUS * s[0]! * along(apart, 0)) / area;
	const slide = Math.sqrt(along(apart, 1) ** 2 + along(apart, 2) ** 2);
	const bend =
		MODULUS * (Math.abs(s[2]! * along(turn, 1)) / net.modulus[3 * k]! + Math.abs(s[3]! * along(turn, 2)) / net.modulus[3 * k + 1]!);
	const twist = (MODULUS * Math.abs(s[4]! * along(turn, 0))) / net.modulus[3 * k + 2]!;
	return { tension: pull + bend, compression: bend - pull, shear: (MODULUS * s[1]! * slide) / area + twist, pressure: -pull };
}

/** arms 6, axes 9, stiffness 5 */
const PACK = 20;

/** out = K x; the last 6 numbers stand for what holds still, and stay 0. */
function apply(count: number, ends: Int32Array, p: Float64Array, x: Float64Array, out: Float64Array): void {
	out.fill(0);
	const still = x.length - 6;
	for (let z = 0; z < count; z++) {
		const i = 6 * ends[2 * z]!;
		const j = 6 * ends[2 * z + 1]!;
		const o = PACK * z;
		const ax = p[o]!;
		const ay = p[o + 1]!;
		const az = p[o + 2]!;
		const bx = p[o + 3]!;
		const by = p[o + 4]!;
		const bz = p[o + 5]!;
		const rx = x[j + 3]! - x[i + 3]!;
		const ry = x[j + 4]! - x[i + 4]!;
		const rz = x[j + 5]! - x[i + 5]!;
		const dx = x[j]! + x[j + 4]! * bz - x[j + 5]! * by - x[i]! - x[i + 4]! * az + x[i + 5]! * ay;
		const dy = x[j + 1]! + x[j + 5]! * bx - x[j + 3]! * bz - x[i + 1]! - x[i + 5]! * ax + x[i + 3]! * az;
		const dz = x[j + 2]! + x[j + 3]! * by - x[j + 4]! * bx - x[i + 2]! - x[i + 3]! * ay + x[i + 4]! * ax;
		let fx = 0;
		let fy = 0;
		let fz = 0;
		let mx = 0;
		let my = 0;
		let mz = 0;
		for (let axis = 0; axis < 3; axis++) {
			const gx = p[o + 6 + 3 * axis]!;
			const gy = p[o + 7 + 3 * axis]!;
			const gz = p[o + 8 + 3 * axis]!;
			const force = (axis === 0 ? p[o + 15]! : p[o + 16]!) * (dx * gx + dy * gy + dz * gz);
			const moment = p[axis === 0 ? o + 19 : o + 16 + axis]! * (rx * gx + ry * gy + rz * gz);
			fx += force * gx;
			fy += force * gy;
			fz += force * gz;
			mx += moment * gx;
			my += moment * gy;
			mz += moment * gz;
		}
		out[j]! += fx;
		out[j + 1]! += fy;
		out[j + 2]! += fz;
		out[j + 3]! += by * fz - bz * fy + mx;
		out[j + 4]! += bz * fx - bx * fz + my;
		out[j + 5]! += bx * fy - by * fx + mz;
		out[i]! -= fx;
		out[i + 1]! -= fy;
		out[i + 2]! -= fz;
		out[i + 3]! -= ay * fz - az * fy + mx;
		out[i + 4]! -= az * fx - ax * fz + my;
		out[i + 5]! -= ax * fy - ay * fx + mz;
	}
	out.fill(0, still);
}

/** Cholesky factors of the diagonal's 6 × 6 blocks (Golub & Van Loan, §4.2). */
function factorBlocks(n: number, ends: Int32Array, p: Float64Array): Float64Array {
	const blocks = new Float64Array(36 * n);
	const column = new Float64Array(6);
	for (let z = 0; 2 * z < ends.length; z++)
		for (let side = 0; side < 2; side++) {
			const node = ends[2 * z + side]!;
			if (node === n) continue;
			const o = PACK * z;
			const [x, y, w] = [p[o + 3 * side]!, p[o + 3 * side + 1]!, p[o + 3 * side + 2]!];
			for (let axis = 0; axis < 3; axis++) {
				const [gx, gy, gz] = [p[o + 6 + 3 * axis]!, p[o + 7 + 3 * axis]!, p[o + 8 + 3 * axis]!];
				const force = axis === 0 ? p[o + 15]! : p[o + 16]!;
				const moment = p[axis === 0 ? o + 19 : o + 16 + axis]!;
				// Movement at the face along this axis, by the body's six.
				column.set([gx, gy, gz, y * gz - w * gy, w * gx - x * gz, x * gy - y * gx]);
				const g = [gx, gy, gz];
				for (let a = 0; a < 6; a++)
					for (let b = 0; b < 6; b++) {
						let value = force * column[a]! * column[b]!;
						if (a >= 3 && b >= 3) value += moment * g[a - 3]! * g[b - 3]!;
						blocks[36 * node + 6 * a + b]! += value;
					}
			}
		}
	for (let node = 0; node < n; node++) {
		const at = 36 * node;
		for (let c = 0; c < 6; c++) {
			blocks[at + 7 * c]! *= 1 + 1e-9;
			for (let row = c; row < 6; row++) {
				let sum = blocks[at + 6 * row + c]!;
				for (let k = 0; k < c; k++) sum -= blocks[at + 6 * row + k]! * blocks[at + 6 * c + k]!;
				blocks[at + 6 * row + c] = row === c ? Math.sqrt(Math.max(sum, 1e-12)) : sum / blocks[at + 7 * c]!;
			}
		}
	}
	return blocks;
}

function precondition(n: number, blocks: Float64Array, coarse: Coarse | undefined, r: Float64Array, z: Float64Array): void {
	for (let node = 0; node < n; node++) {
		const at = 36 * node;
		const o = 6 * node;
		for (let a = 0; a < 6; a++) {
			let sum = r[o + a]!;
			for (let k = 0; k < a; k++) sum -= blocks[at + 6 * a + k]! * z[o + k]!;
			z[o + a] = sum / blocks[at + 7 * a]!;
		}
		for (let a = 5; a >= 0; a--) {
			let sum = z[o + a]!;
			for (let k = a + 1; k < 6; k++) sum -= blocks[at + 6 * k + a]! * z[o + k]!;
			z[o + a] = sum / blocks[at + 7 * a]!;
		}
	}
	if (coarse) addCoarse(coarse, n, r, z);
}

function dot(a: Float64Array, b: Float64Array): number {
	let sum = 0;
	for (let i = 0; i < a.length; i++) sum += a[i]! * b[i]!;
	return sum;
}
