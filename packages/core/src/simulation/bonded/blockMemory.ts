import type { BlockMatrix } from "./blockMatrix";
import { BLOCKS_KERNEL } from "./blocksKernel";
import { loadKernel, type WasmMemory } from "./wasm";

/**
 * Memory of the inner loops of equilibrium (`kernels/blocks.ts`), one for a run. Arrays are known by their place in it, bytes; views
 * of them hold until something else is placed, which may move all of it.
 */
export interface BlockMemory {
	readonly kernel: Kernel;
	readonly memory: WasmMemory;
}

/** The functions of `kernels/blocks.ts`; arrays by their places. */
interface Kernel {
	alloc(size: number): number;
	free(at: number): void;
	multiply(n: number, start: number, column: number, block: number, diagonal: number, x: number, out: number): void;
	scaleRows(n: number, inverse: number, r: number, z: number): void;
	sweepDown(
		n: number,
		start: number,
		upper: number,
		column: number,
		block: number,
		inverse: number,
		r: number,
		z: number,
		rest: number,
	): void;
	sweepUp(n: number, start: number, column: number, block: number, inverse: number, r: number, z: number): void;
	restrict(n: number, groups: number, start: number, column: number, block: number, r: number, y: number): void;
	prolong(n: number, start: number, column: number, block: number, y: number, z: number): void;
	solveFactored(size: number, factor: number, y: number): void;
	dot(n: number, a: number, b: number): number;
	combine(n: number, out: number, a: number, factor: number, b: number): void;
}

/** A `BlockMatrix` by the places of its arrays. */
export type PlacedMatrix = { readonly n: number } & { readonly [array in keyof Omit<BlockMatrix, "n">]: number };

export const makeBlockMemory = (): BlockMemory => loadKernel<Kernel>(BLOCKS_KERNEL, 0);

/** Copies an array into the memory. */
export function placeArray({ kernel, memory }: BlockMemory, array: Int32Array | Float64Array): number {
	const at = kernel.alloc(array.byteLength);
	if (array instanceof Int32Array) new Int32Array(memory.buffer, at, array.length).set(array);
	else new Float64Array(memory.buffer, at, array.length).set(array);
	return at;
}

/** A copy of numbers that are in the memory, and its place. */
export function placeCopy({ kernel, memory }: BlockMemory, from: number, count: number): number {
	const at = kernel.alloc(8 * count);
	new Float64Array(memory.buffer).copyWithin(at / 8, from / 8, from / 8 + count);
	return at;
}

/** Room for 6 numbers per row, all 0. */
export const placeVector = (memory: BlockMemory, rows: number): number => placeArray(memory, new Float64Array(6 * rows));

export const placeMatrix = (memory: BlockMemory, { n, start, upper, column, block, diagonal }: BlockMatrix): PlacedMatrix => ({
	n,
	start: placeArray(memory, start),
	upper: placeArray(memory, upper),
	column: placeArray(memory, column),
	block: placeArray(memory, block),
	diagonal: placeArray(memory, diagonal),
});

export const placesOf = ({ start, upper, column, block, diagonal }: PlacedMatrix): number[] => [start, upper, column, block, diagonal];

/** Gives places back. */
export function free({ kernel }: BlockMemory, places: readonly number[]): void {
	for (const at of places) kernel.free(at);
}

/** Blocks in the memory, 36 numbers each. */
export const blocksAt = ({ memory }: BlockMemory, at: number, count: number): Float64Array =>
	new Float64Array(memory.buffer, at, 36 * count);

/** The numbers of a vector of so many rows. */
export const vectorAt = ({ memory }: BlockMemory, at: number, rows: number): Float64Array => new Float64Array(memory.buffer, at, 6 * rows);

/** out = A x */
export const multiply = ({ kernel }: BlockMemory, m: PlacedMatrix, x: number, out: number): void =>
	kernel.multiply(m.n, m.start, m.column, m.block, m.diagonal, x, out);
