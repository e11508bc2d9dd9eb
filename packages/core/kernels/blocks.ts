/*
 * The inner loops of equilibrium (`src/simulation/bonded/equilibrium.ts`, `multigrid.ts`), in AssemblyScript (`npm run kernels` compiles
 * them): symmetric matrices of 6 × 6 blocks, row by row, in vectors of two doubles. Vector instructions of WebAssembly give the same
 * bits on every machine. Every array is a place in memory, bytes; `src/simulation/bonded/blockMemory.ts` lays them out.
 */

/** Room for so many bytes, to be given back by `free`. */
export function alloc(size: usize): usize {
	return heap.alloc(size);
}

export function free(at: usize): void {
	heap.free(at);
}

/** Bytes of a block, of one row of it, of six numbers of movement. */
const BLOCK: usize = 288;
const ROW: usize = 48;

/** What the last sum came to: six numbers, two by two. */
let s01: v128 = i64x2.splat(0);
let s23: v128 = i64x2.splat(0);
let s45: v128 = i64x2.splat(0);

/** s = blocks × x, for the blocks `from` … `to` of one row. */
function sum(block: usize, column: usize, from: i32, to: i32, x: usize): void {
	let a0 = f64x2.splat(0);
	let a1 = a0;
	let a2 = a0;
	let a3 = a0;
	let a4 = a0;
	let a5 = a0;
	for (let k = from; k < to; k++) {
		const o = x + ROW * load<i32>(column + ((<usize>k) << 2));
		const e = block + BLOCK * k;
		const x01 = v128.load(o);
		const x23 = v128.load(o, 16);
		const x45 = v128.load(o, 32);
		a0 = f64x2.add(a0, row(e, x01, x23, x45));
		a1 = f64x2.add(a1, row(e + ROW, x01, x23, x45));
		a2 = f64x2.add(a2, row(e + 2 * ROW, x01, x23, x45));
		a3 = f64x2.add(a3, row(e + 3 * ROW, x01, x23, x45));
		a4 = f64x2.add(a4, row(e + 4 * ROW, x01, x23, x45));
		a5 = f64x2.add(a5, row(e + 5 * ROW, x01, x23, x45));
	}
	s01 = across(a0, a1);
	s23 = across(a2, a3);
	s45 = across(a4, a5);
}

/** Two partial sums of one row of a block times x. */
function row(e: usize, x01: v128, x23: v128, x45: v128): v128 {
	return f64x2.add(f64x2.add(f64x2.mul(v128.load(e), x01), f64x2.mul(v128.load(e, 16), x23)), f64x2.mul(v128.load(e, 32), x45));
}

/** Both sums of two pairs. */
function across(a: v128, b: v128): v128 {
	return f64x2.add(i64x2.shuffle(a, b, 0, 2), i64x2.shuffle(a, b, 1, 3));
}

/** out = A x */
export function multiply(n: i32, start: usize, column: usize, block: usize, diagonal: usize, x: usize, out: usize): void {
	for (let i = 0; i < n; i++) {
		sum(block, column, startOf(start, i), startOf(start, i + 1), x);
		const o = x + ROW * i;
		const to = out + ROW * i;
		const x01 = v128.load(o);
		const x23 = v128.load(o, 16);
		const x45 = v128.load(o, 32);
		const e = diagonal + BLOCK * i;
		v128.store(to, f64x2.add(s01, across(row(e, x01, x23, x45), row(e + ROW, x01, x23, x45))));
		v128.store(to, f64x2.add(s23, across(row(e + 2 * ROW, x01, x23, x45), row(e + 3 * ROW, x01, x23, x45))), 16);
		v128.store(to, f64x2.add(s45, across(row(e + 4 * ROW, x01, x23, x45), row(e + 5 * ROW, x01, x23, x45))), 32);
	}
}

function startOf(start: usize, i: i32): i32 {
	return load<i32>(start + ((<usize>i) << 2));
}

/** Row i in balance with its neighbours' pull s: z = D⁻¹ (r − s). */
function relax(inverse: usize, i: i32, r: usize, z: usize): void {
	const from = r + ROW * i;
	const to = z + ROW * i;
	const e = inverse + BLOCK * i;
	const r01 = f64x2.sub(v128.load(from), s01);
	const r23 = f64x2.sub(v128.load(from, 16), s23);
	const r45 = f64x2.sub(v128.load(from, 32), s45);
	v128.store(to, across(row(e, r01, r23, r45), row(e + ROW, r01, r23, r45)));
	v128.store(to, across(row(e + 2 * ROW, r01, r23, r45), row(e + 3 * ROW, r01, r23, r45)), 16);
	v128.store(to, across(row(e + 4 * ROW, r01, r23, r45), row(e + 5 * ROW, r01, r23, r45)), 32);
}

/** z = D⁻¹ r */
export function scaleRows(n: i32, inverse: usize, r: usize, z: usize): void {
	s01 = s23 = s45 = i64x2.splat(0);
	for (let i = 0; i < n; i++) relax(inverse, i, r, z);
}

/** One sweep of Gauss and Seidel from nothing, rows ascending; what is left of r goes to `rest`. */
export function sweepDown(
	n: i32,
	start: usize,
	upper: usize,
	column: usize,
	block: usize,
	inverse: usize,
	r: usize,
	z: usize,
	rest: usize,
): void {
	for (let i = 0; i < n; i++) {
		sum(block, column, startOf(start, i), startOf(upper, i), z);
		relax(inverse, i, r, z);
	}
	// Each row was in balance when its turn came: what came later is all that is left.
	for (let i = 0; i < n; i++) {
		sum(block, column, startOf(upper, i), startOf(start, i + 1), z);
		const to = rest + ROW * i;
		v128.store(to, f64x2.neg(s01));
		v128.store(to, f64x2.neg(s23), 16);
		v128.store(to, f64x2.neg(s45), 32);
	}
}

/** One sweep on from z, rows descending. */
export function sweepUp(n: i32, start: usize, column: usize, block: usize, inverse: usize, r: usize, z: usize): void {
	for (let i = n - 1; i >= 0; i--) {
		sum(block, column, startOf(start, i), startOf(start, i + 1), z);
		relax(inverse, i, r, z);
	}
}

/** y = Pᵀ r; P has n rows and `groups` columns of blocks. */
export function restrict(n: i32, groups: i32, start: usize, column: usize, block: usize, r: usize, y: usize): void {
	memory.fill(y, 0, ROW * groups);
	for (let i = 0; i < n; i++) {
		const from = r + ROW * i;
		for (let k = startOf(start, i); k < startOf(start, i + 1); k++) {
			const to = y + ROW * load<i32>(column + ((<usize>k) << 2));
			const e = block + BLOCK * k;
			let y01 = v128.load(to);
			let y23 = v128.load(to, 16);
			let y45 = v128.load(to, 32);
			for (let c: usize = 0; c < 6; c++) {
				const value = v128.load64_splat(from + 8 * c);
				y01 = f64x2.add(y01, f64x2.mul(v128.load(e + ROW * c), value));
				y23 = f64x2.add(y23, f64x2.mul(v128.load(e + ROW * c, 16), value));
				y45 = f64x2.add(y45, f64x2.mul(v128.load(e + ROW * c, 32), value));
			}
			v128.store(to, y01);
			v128.store(to, y23, 16);
			v128.store(to, y45, 32);
		}
	}
}

/** z += P y */
export function prolong(n: i32, start: usize, column: usize, block: usize, y: usize, z: usize): void {
	for (let i = 0; i < n; i++) {
		sum(block, column, startOf(start, i), startOf(start, i + 1), y);
		const to = z + ROW * i;
		v128.store(to, f64x2.add(v128.load(to), s01));
		v128.store(to, f64x2.add(v128.load(to, 16), s23), 16);
		v128.store(to, f64x2.add(v128.load(to, 32), s45), 32);
	}
}

/** y = A⁻¹ y, by the lower half of A's Cholesky factor, `size` numbers a row. */
export function solveFactored(size: i32, factor: usize, y: usize): void {
	for (let i = 0; i < size; i++) {
		const at = factor + ((<usize>i * size) << 3);
		let value = load<f64>(y + ((<usize>i) << 3));
		for (let k = 0; k < i; k++) value -= load<f64>(at + ((<usize>k) << 3)) * load<f64>(y + ((<usize>k) << 3));
		store<f64>(y + ((<usize>i) << 3), value / load<f64>(at + ((<usize>i) << 3)));
	}
	for (let i = size - 1; i >= 0; i--) {
		const at = factor + ((<usize>i * size) << 3);
		const value = load<f64>(y + ((<usize>i) << 3)) / load<f64>(at + ((<usize>i) << 3));
		store<f64>(y + ((<usize>i) << 3), value);
		for (let k = 0; k < i; k++) {
			const to = y + ((<usize>k) << 3);
			store<f64>(to, load<f64>(to) - load<f64>(at + ((<usize>k) << 3)) * value);
		}
	}
}

/** Of vectors of 6 n numbers. */
export function dot(n: i32, a: usize, b: usize): f64 {
	let s = f64x2.splat(0);
	for (let o: usize = 0; o < ROW * n; o += 16) s = f64x2.add(s, f64x2.mul(v128.load(a + o), v128.load(b + o)));
	return f64x2.extract_lane(s, 0) + f64x2.extract_lane(s, 1);
}

/** out = a + factor × b */
export function combine(n: i32, out: usize, a: usize, factor: f64, b: usize): void {
	const f = f64x2.splat(factor);
	for (let o: usize = 0; o < ROW * n; o += 16) v128.store(out + o, f64x2.add(v128.load(a + o), f64x2.mul(f, v128.load(b + o))));
}
