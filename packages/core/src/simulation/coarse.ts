/**
 * A coarse space for `equilibrium.ts`: neighbouring bodies as one rigid body each (aggregation with rigid body modes; Bulgakov
 * 1993). What conjugate gradients need hundreds of iterations for, bending of the whole, is solved directly on it. Walls
 * of 510, 2,020 and 5,025 bricks need 126, 320 and 329 iterations with it, 340, 2,300 and 2,900 without.
 */
export interface Coarse {
	/** 1 per node. */
	readonly group: Int32Array;
	/** 3 per node: from its group's centre. */
	readonly offset: Float64Array;
	/** Cholesky factor, row by row. */
	readonly factor: Float64Array;
	readonly size: number;
	readonly scratch: Float64Array;
}

/** Structures smaller than this do without. */
const WORTH_IT = 48;

/**
 * `ends`: nodes of each bond, n for what holds still; `packed`: 20 numbers per bond as in `equilibrium.ts`; `centre`: 3 per node.
 */
export function makeCoarse(n: number, ends: Int32Array, packed: Float64Array, pack: number, centre: Float64Array): Coarse | undefined {
	if (n < WORTH_IT) return undefined;
	const { group, groups } = aggregate(n, ends, Math.ceil(1.2 * Math.sqrt(n)));
	const size = 6 * groups;
	const middle = new Float64Array(3 * groups);
	const count = new Float64Array(groups);
	for (let i = 0; i < n; i++) {
		count[group[i]!]!++;
		for (let d = 0; d < 3; d++) middle[3 * group[i]! + d]! += centre[3 * i + d]!;
	}
	for (let a = 0; a < groups; a++) for (let d = 0; d < 3; d++) middle[3 * a + d]! /= count[a]!;
	const offset = new Float64Array(3 * n);
	for (let i = 0; i < n; i++) for (let d = 0; d < 3; d++) offset[3 * i + d] = centre[3 * i + d]! - middle[3 * group[i]! + d]!;
	const factor = new Float64Array(size * size);
	const rows = [new Float64Array(6), new Float64Array(6)];
	for (let z = 0; 2 * z < ends.length; z++) {
		const nodes = [ends[2 * z]!, ends[2 * z + 1]!];
		if (nodes[0] !== n && nodes[1] !== n && group[nodes[0]!] === group[nodes[1]!]) continue;
		const o = pack * z;
		for (let axis = 0; axis < 3; axis++) {
			const [gx, gy, gz] = [packed[o + 6 + 3 * axis]!, packed[o + 7 + 3 * axis]!, packed[o + 8 + 3 * axis]!];
			const force = axis === 0 ? packed[o + 15]! : packed[o + 16]!;
			const moment = packed[axis === 0 ? o + 19 : o + 16 + axis]!;
			for (let side = 0; side < 2; side++) {
				const node = nodes[side]!;
				if (node === n) continue;
				const x = packed[o + 3 * side]! + offset[3 * node]!;
				const y = packed[o + 3 * side + 1]! + offset[3 * node + 1]!;
				const w = packed[o + 3 * side + 2]! + offset[3 * node + 2]!;
				rows[side]!.set([gx, gy, gz, y * gz - w * gy, w * gx - x * gz, x * gy - y * gx]);
			}
			const g = [gx, gy, gz];
			for (let s = 0; s < 2; s++)
				for (let t = 0; t < 2; t++) {
					if (nodes[s] === n || nodes[t] === n) continue;
					const [a, b] = [6 * group[nodes[s]!]!, 6 * group[nodes[t]!]!];
					const sign = s === t ? 1 : -1;
					for (let i = 0; i < 6; i++)
						for (let j = 0; j < 6; j++) {
							let value = force * rows[s]![i]! * rows[t]![j]!;
							if (i >= 3 && j >= 3) value += moment * g[i - 3]! * g[j - 3]!;
							factor[(a + i) * size + b + j]! += sign * value;
						}
				}
		}
	}
	cholesky(factor, size);
	return { group, offset, factor, size, scratch: new Float64Array(size) };
}

/** z += what the coarse space makes of r; 6 per node. */
export function addCoarse({ group, offset, factor, size, scratch: y }: Coarse, n: number, r: Float64Array, z: Float64Array): void {
	y.fill(0);
	for (let i = 0; i < n; i++) {
		const a = 6 * group[i]!;
		const o = 6 * i;
		const [x, h, w] = [offset[3 * i]!, offset[3 * i + 1]!, offset[3 * i + 2]!];
		y[a]! += r[o]!;
		y[a + 1]! += r[o + 1]!;
		y[a + 2]! += r[o + 2]!;
		y[a + 3]! += r[o + 3]! + h * r[o + 2]! - w * r[o + 1]!;
		y[a + 4]! += r[o + 4]! + w * r[o]! - x * r[o + 2]!;
		y[a + 5]! += r[o + 5]! + x * r[o + 1]! - h * r[o]!;
	}
	solveFactored(factor, size, y);
	for (let i = 0; i < n; i++) {
		const a = 6 * group[i]!;
		const o = 6 * i;
		const [x, h, w] = [offset[3 * i]!, offset[3 * i + 1]!, offset[3 * i + 2]!];
		z[o]! += y[a]! + y[a + 4]! * w - y[a + 5]! * h;
		z[o + 1]! += y[a + 1]! + y[a + 5]! * x - y[a + 3]! * w;
		z[o + 2]! += y[a + 2]! + y[a + 3]! * h - y[a + 4]! * x;
		z[o + 3]! += y[a + 3]!;
		z[o + 4]! += y[a + 4]!;
		z[o + 5]! += y[a + 5]!;
	}
}

/** Groups of neighbouring nodes of about equal size, grown one after the other. */
function aggregate(n: number, ends: Int32Array, wanted: number): { group: Int32Array; groups: number } {
	const neighbours: number[][] = Array.from({ length: n }, () => []);
	for (let z = 0; 2 * z < ends.length; z++) {
		const [a, b] = [ends[2 * z]!, ends[2 * z + 1]!];
		if (a === n || b === n) continue;
		neighbours[a]!.push(b);
		neighbours[b]!.push(a);
	}
	const most = Math.ceil(n / wanted);
	const group = new Int32Array(n).fill(-1);
	let groups = 0;
	for (let seed = 0; seed < n; seed++) {
		if (group[seed] !== -1) continue;
		const queue = [seed];
		group[seed] = groups;
		for (let at = 0; at < queue.length && queue.length < most; at++)
			for (const next of neighbours[queue[at]!]!) {
				if (group[next] !== -1 || queue.length >= most) continue;
				group[next] = groups;
				queue.push(next);
			}
		groups++;
	}
	return { group, groups };
}

/** In place, lower half (Golub & Van Loan, §4.2); what is singular, as for a structure that nothing holds, is stiffened. */
function cholesky(a: Float64Array, n: number): void {
	let largest = 0;
	for (let i = 0; i < n; i++) largest = Math.max(largest, a[i * n + i]!);
	for (let i = 0; i < n; i++) a[i * n + i] = a[i * n + i]! * (1 + 1e-6) + (a[i * n + i] === 0 ? largest : 0);
	for (let row = 0; row < n; row++) {
		const at = row * n;
		for (let c = 0; c <= row; c++) {
			let sum = a[at + c]!;
			const other = c * n;
			for (let k = 0; k < c; k++) sum -= a[at + k]! * a[other + k]!;
			a[at + c] = c === row ? Math.sqrt(Math.max(sum, 1e-14 * largest)) : sum / a[other + c]!;
		}
	}
}

function solveFactored(l: Float64Array, n: number, y: Float64Array): void {
	for (let i = 0; i < n; i++) {
		let sum = y[i]!;
		const at = i * n;
		for (let k = 0; k < i; k++) sum -= l[at + k]! * y[k]!;
		y[i] = sum / l[at + i]!;
	}
	for (let i = n - 1; i >= 0; i--) {
		const value = y[i]! / l[i * n + i]!;
		y[i] = value;
		const at = i * n;
		for (let k = 0; k < i; k++) y[k]! -= l[at + k]! * value;
	}
}
