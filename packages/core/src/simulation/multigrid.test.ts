import { random } from "../maths";
import { type BlockMatrix, blockAt, dot, emptyBlockMatrix, factorWhole, multiply, solveFactored } from "./blockMatrix";
import { cycle, makeMultigrid } from "./multigrid";

/** A wall of blocks, each joined to its neighbours by a spring along every axis and about it, held at its foot. */
function wall(columns: number, rows: number): { matrix: BlockMatrix; centre: Float64Array } {
	const n = columns * rows;
	const at = (i: number): [number, number, number] => [i % columns, Math.floor(i / columns), 0];
	const springs: { a: number; b: number; face: [number, number, number] }[] = [];
	for (let i = 0; i < n; i++) {
		const [x, y] = at(i);
		if (x + 1 < columns) springs.push({ a: i, b: i + 1, face: [x + 0.5, y, 0] });
		springs.push({ a: i, b: y + 1 < rows ? i + columns : n, face: [x, y + 0.5, 0] });
	}
	const matrix = emptyBlockMatrix(
		n,
		springs.flatMap(({ a, b }) => [a, b]),
	);
	for (const { a, b, face } of springs)
		for (let d = 0; d < 6; d++) {
			// How either end's six numbers move the face along or about one axis.
			const by = (i: number): number[] => {
				const row = [0, 0, 0, 0, 0, 0];
				row[d] = 1;
				if (d < 3) {
					const [x, y, z] = face.map((value, k) => value - at(i)[k]!) as [number, number, number];
					row.splice(
						3,
						3,
						...([
							[0, z, -y],
							[-z, 0, x],
							[y, -x, 0],
						][d] as number[]),
					);
				}
				return row;
			};
			const stiff = d < 3 ? 1 : 0.02;
			const add = (block: Float64Array, to: number, one: number[], other: number[], sign: number) => {
				for (let r = 0; r < 6; r++) for (let c = 0; c < 6; c++) block[to + 6 * r + c]! += sign * stiff * one[r]! * other[c]!;
			};
			add(matrix.diagonal, 36 * a, by(a), by(a), 1);
			if (b === n) continue;
			add(matrix.diagonal, 36 * b, by(b), by(b), 1);
			add(matrix.block, blockAt(matrix, a, b), by(a), by(b), -1);
			add(matrix.block, blockAt(matrix, b, a), by(b), by(a), -1);
		}
	return { matrix, centre: Float64Array.from(Array.from({ length: n }, (_, i) => at(i)).flat()) };
}

const noise = (size: number, seed: number): Float64Array => Float64Array.from({ length: size }, (_, i) => random(seed, i, 0) - 0.5);

/** Iterations of conjugate gradients for a push from the side at the top, and what they find. */
function solve({ matrix, centre }: ReturnType<typeof wall>, node: number): { iterations: number; x: Float64Array } {
	const levels = makeMultigrid(matrix, centre);
	const r = new Float64Array(6 * matrix.n);
	r[6 * node + 2] = 1;
	const [x, z, p, image] = [r, r, r, r].map((like) => new Float64Array(like.length)) as [
		Float64Array,
		Float64Array,
		Float64Array,
		Float64Array,
	];
	let rz = 0;
	for (let iterations = 0; iterations < 200; iterations++) {
		if (Math.sqrt(dot(r, r)) < 1e-9) return { iterations, x };
		cycle(levels, 0, r, z);
		const next = dot(r, z);
		const beta = iterations === 0 ? 0 : next / rz;
		rz = next;
		for (let i = 0; i < p.length; i++) p[i] = z[i]! + beta * p[i]!;
		multiply(matrix, p, image);
		const alpha = rz / dot(p, image);
		for (let i = 0; i < p.length; i++) {
			x[i]! += alpha * p[i]!;
			r[i]! -= alpha * image[i]!;
		}
	}
	throw new Error("Not solved in 200 iterations");
}

test("it finds what the whole matrix's factor finds", () => {
	const made = wall(9, 11);
	const { x } = solve(made, 96);
	const direct = new Float64Array(6 * made.matrix.n);
	direct[6 * 96 + 2] = 1;
	solveFactored(factorWhole(made.matrix), direct);
	// The factor is of a matrix that is stiffer by 1e-9 of its diagonal, which a wall that bends feels.
	const largest = Math.max(...direct.map(Math.abs));
	expect(Math.max(...x.map((value, i) => Math.abs(value - direct[i]!))) / largest).toBeLessThan(1e-3);
});

test("it is symmetric, as conjugate gradients need it", () => {
	const { matrix, centre } = wall(14, 12);
	const levels = makeMultigrid(matrix, centre);
	const [a, b] = [noise(6 * matrix.n, 1), noise(6 * matrix.n, 2)];
	const [ma, mb] = [new Float64Array(a.length), new Float64Array(a.length)];
	cycle(levels, 0, a, ma);
	cycle(levels, 0, b, mb);
	expect(dot(b, ma) / dot(a, mb)).toBeCloseTo(1, 9);
	expect(dot(a, ma)).toBeGreaterThan(0);
});

test("nine times the blocks take hardly more iterations", () => {
	const small = solve(wall(14, 14), 190).iterations;
	const large = solve(wall(42, 42), 1750).iterations;
	expect(small).toBeLessThan(60);
	expect(large).toBeLessThan(1.7 * small);
});
