import { random } from "../../maths";
import { blockWall } from "../../testing/blockWall";
import { type BlockMatrix, factorWhole } from "./blockMatrix";
import { makeBlockMemory, multiply, placeArray, placeMatrix, placeVector, vectorAt } from "./blockMemory";
import { cycle, makeMultigrid } from "./multigrid";

const noise = (size: number, seed: number): Float64Array => Float64Array.from({ length: size }, (_, i) => random(seed, i, 0) - 0.5);

/** Iterations of conjugate gradients for a push from the side at the top, and what they find. */
function solve({ matrix, centre }: ReturnType<typeof blockWall>, node: number): { iterations: number; x: Float64Array } {
	const memory = makeBlockMemory();
	const { kernel } = memory;
	const { n } = matrix;
	const placed = placeMatrix(memory, matrix);
	const levels = makeMultigrid(memory, matrix, centre, placed);
	const [r, x, z, p, image] = Array.from({ length: 5 }, () => placeVector(memory, n)) as [number, number, number, number, number];
	vectorAt(memory, r, n)[6 * node + 2] = 1;
	let rz = 0;
	for (let iterations = 0; iterations < 200; iterations++) {
		if (Math.sqrt(kernel.dot(n, r, r)) < 1e-9) return { iterations, x: vectorAt(memory, x, n) };
		cycle(levels, r, z);
		const next = kernel.dot(n, r, z);
		kernel.combine(n, p, z, iterations === 0 ? 0 : next / rz, p);
		rz = next;
		multiply(memory, placed, p, image);
		const alpha = rz / kernel.dot(n, p, image);
		kernel.combine(n, x, x, alpha, p);
		kernel.combine(n, r, r, -alpha, image);
	}
	throw new Error("Not solved in 200 iterations");
}

/** A x in plain numbers, to hold the kernel against. */
function product({ n, start, column, block, diagonal }: BlockMatrix, x: Float64Array): Float64Array {
	const out = new Float64Array(6 * n);
	for (let i = 0; i < n; i++)
		for (let k = start[i]! - 1; k < start[i + 1]!; k++) {
			const [j, b, at] = k < start[i]! ? [i, diagonal, 36 * i] : [column[k]!, block, 36 * k];
			for (let r = 0; r < 6; r++) for (let c = 0; c < 6; c++) out[6 * i + r]! += b[at + 6 * r + c]! * x[6 * j + c]!;
		}
	return out;
}

test("the kernel multiplies as plain numbers do, and solves what the factor is of", () => {
	const { matrix } = blockWall(7, 5);
	const memory = makeBlockMemory();
	const x = noise(6 * matrix.n, 3);
	const [at, out, factor] = [placeArray(memory, x), placeVector(memory, matrix.n), placeArray(memory, factorWhole(matrix))];
	multiply(memory, placeMatrix(memory, matrix), at, out);
	const expected = product(matrix, x);
	const found = vectorAt(memory, out, matrix.n);
	for (const [k, value] of expected.entries()) expect(found[k]).toBeCloseTo(value, 12);
	memory.kernel.solveFactored(6 * matrix.n, factor, out);
	for (const [k, value] of x.entries()) expect(found[k]).toBeCloseTo(value, 4);
});

test("it finds what the whole matrix's factor finds", () => {
	const made = blockWall(9, 11);
	const { x } = solve(made, 96);
	const memory = makeBlockMemory();
	const [factor, at] = [placeArray(memory, factorWhole(made.matrix)), placeVector(memory, made.matrix.n)];
	vectorAt(memory, at, made.matrix.n)[6 * 96 + 2] = 1;
	memory.kernel.solveFactored(6 * made.matrix.n, factor, at);
	const direct = vectorAt(memory, at, made.matrix.n);
	// The factor is of a matrix that is stiffer by 1e-9 of its diagonal, which a wall that bends feels.
	const largest = Math.max(...direct.map(Math.abs));
	expect(Math.max(...x.map((value, i) => Math.abs(value - direct[i]!))) / largest).toBeLessThan(1e-3);
});

test("it is symmetric, as conjugate gradients need it", () => {
	const { matrix, centre } = blockWall(14, 12);
	const memory = makeBlockMemory();
	const { dot } = memory.kernel;
	const levels = makeMultigrid(memory, matrix, centre);
	const [a, b] = [placeArray(memory, noise(6 * matrix.n, 1)), placeArray(memory, noise(6 * matrix.n, 2))];
	const [ma, mb] = [placeVector(memory, matrix.n), placeVector(memory, matrix.n)];
	cycle(levels, a, ma);
	cycle(levels, b, mb);
	expect(dot(matrix.n, b, ma) / dot(matrix.n, a, mb)).toBeCloseTo(1, 9);
	expect(dot(matrix.n, a, ma)).toBeGreaterThan(0);
});

test("nine times the blocks take hardly more iterations", () => {
	const small = solve(blockWall(14, 14), 190).iterations;
	const large = solve(blockWall(42, 42), 1750).iterations;
	expect(small).toBeLessThan(60);
	expect(large).toBeLessThan(1.7 * small);
});
