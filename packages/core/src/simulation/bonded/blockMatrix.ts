/**
 * A symmetric matrix of 6 × 6 blocks, of which few are not zero: what joins bodies, six numbers of movement each. Rows hold
 * both halves, so that a row can be worked on by itself. What is done often with one is in `kernels/blocks.ts`.
 */
export interface BlockMatrix {
	/** Rows of blocks. */
	readonly n: number;
	/** n + 1: where the blocks of each row begin in `column` and, 36 apart, in `block`; the diagonal's are not among them. */
	readonly start: Int32Array;
	/** n: in each row, the first block to the right of the diagonal. */
	readonly upper: Int32Array;
	/** Ascending in each row. */
	readonly column: Int32Array;
	/** 36 per block, row by row. */
	readonly block: Float64Array;
	/** 36 per row. */
	readonly diagonal: Float64Array;
}

/** A matrix of zeros with room for `pairs`, two rows each; pairs of a row with itself, or with n, need none. */
export function emptyBlockMatrix(n: number, pairs: ArrayLike<number>): BlockMatrix {
	const degree = new Int32Array(n + 1);
	const isPair = (k: number): boolean => pairs[k]! < n && pairs[k + 1]! < n && pairs[k] !== pairs[k + 1];
	for (let k = 0; k < pairs.length; k += 2)
		if (isPair(k)) {
			degree[pairs[k]!]!++;
			degree[pairs[k + 1]!]!++;
		}
	const first = new Int32Array(n + 1);
	for (let i = 0; i < n; i++) first[i + 1] = first[i]! + degree[i]!;
	const all = new Int32Array(first[n]!);
	const filled = first.slice();
	for (let k = 0; k < pairs.length; k += 2)
		if (isPair(k)) {
			all[filled[pairs[k]!]!++] = pairs[k + 1]!;
			all[filled[pairs[k + 1]!]!++] = pairs[k]!;
		}
	const start = new Int32Array(n + 1);
	const upper = new Int32Array(n);
	const column = new Int32Array(all.length);
	let used = 0;
	for (let i = 0; i < n; i++) {
		const row = all.subarray(first[i]!, first[i + 1]!).sort();
		for (const [k, j] of row.entries()) if (k === 0 || j !== row[k - 1]) column[used++] = j;
		start[i + 1] = used;
		upper[i] = used;
		while (upper[i]! > start[i]! && column[upper[i]! - 1]! > i) upper[i]!--;
	}
	return { n, start, upper, column: column.slice(0, used), block: new Float64Array(36 * used), diagonal: new Float64Array(36 * n) };
}

/** Where the block of row i and column j begins in `block`. */
export function blockAt({ start, column }: Pick<BlockMatrix, "start" | "column">, i: number, j: number): number {
	let k = start[i]!;
	while (column[k] !== j) k++;
	return 36 * k;
}

/** Inverses of the diagonal's blocks, 36 per row (Gauss and Jordan without pivots: they are positive definite). */
export function invertDiagonal({ n, diagonal }: BlockMatrix): Float64Array {
	const inverse = diagonal.slice();
	for (let i = 0; i < n; i++) {
		const at = 36 * i;
		let largest = 0;
		for (let c = 0; c < 6; c++) largest = Math.max(largest, inverse[at + 7 * c]!);
		for (let c = 0; c < 6; c++) {
			const pivot = 1 / Math.max(inverse[at + 7 * c]!, 1e-12 * largest, 1e-30);
			inverse[at + 7 * c] = 1;
			for (let b = 0; b < 6; b++) inverse[at + 6 * c + b]! *= pivot;
			for (let row = 0; row < 6; row++) {
				if (row === c) continue;
				const factor = inverse[at + 6 * row + c]!;
				inverse[at + 6 * row + c] = 0;
				for (let b = 0; b < 6; b++) inverse[at + 6 * row + b]! -= factor * inverse[at + 6 * c + b]!;
			}
		}
	}
	return inverse;
}

/** The lower half of A's Cholesky factor, row by row (Golub & Van Loan, §4.2); what nothing holds is stiffened a little. */
export function factorWhole(m: BlockMatrix): Float64Array {
	const size = 6 * m.n;
	const a = new Float64Array(size * size);
	let largest = 0;
	for (let i = 0; i < m.n; i++) {
		for (let r = 0; r < 6; r++) for (let c = 0; c < 6; c++) a[(6 * i + r) * size + 6 * i + c] = m.diagonal[36 * i + 6 * r + c]!;
		for (let k = m.start[i]!; k < m.start[i + 1]!; k++)
			for (let r = 0; r < 6; r++) for (let c = 0; c < 6; c++) a[(6 * i + r) * size + 6 * m.column[k]! + c] = m.block[36 * k + 6 * r + c]!;
		for (let r = 0; r < 6; r++) largest = Math.max(largest, m.diagonal[36 * i + 7 * r]!);
	}
	for (let i = 0; i < size; i++) a[i * size + i]! *= 1 + 1e-9;
	for (let row = 0; row < size; row++) {
		const at = row * size;
		for (let c = 0; c <= row; c++) {
			let sum = a[at + c]!;
			const other = c * size;
			for (let k = 0; k < c; k++) sum -= a[at + k]! * a[other + k]!;
			a[at + c] = c === row ? Math.sqrt(Math.max(sum, 1e-14 * largest, 1e-300)) : sum / a[other + c]!;
		}
	}
	return a;
}
