import fc from "fast-check";
import { random } from "../maths";
import { makeDomain, voronoiCells } from "./cells";

const points = (count: number, seed: number): Float64Array => Float64Array.from({ length: 3 * count }, (_, i) => random(seed, i, 0));

function cellVolume(cell: { vertices: Float64Array; loops: Int32Array; faceStart: Int32Array }): number {
	let six = 0;
	const v = cell.vertices;
	for (let f = 0; f + 1 < cell.faceStart.length; f++) {
		const a = cell.loops[cell.faceStart[f]!]! * 3;
		for (let l = cell.faceStart[f]! + 1; l + 1 < cell.faceStart[f + 1]!; l++) {
			const b = cell.loops[l]! * 3;
			const c = cell.loops[l + 1]! * 3;
			six +=
				v[a]! * (v[b + 1]! * v[c + 2]! - v[b + 2]! * v[c + 1]!) +
				v[a + 1]! * (v[b + 2]! * v[c]! - v[b]! * v[c + 2]!) +
				v[a + 2]! * (v[b]! * v[c + 1]! - v[b + 1]! * v[c]!);
		}
	}
	return six / 6;
}

test("cells fill the box exactly, whatever the points", () => {
	fc.assert(
		fc.property(fc.integer({ min: 1, max: 120 }), fc.integer(), (count, seed) => {
			const cells = [...voronoiCells(points(count, seed), makeDomain([0, 0, 0], [1, 1, 1]))];
			expect(cells).toHaveLength(count);
			expect(cells.reduce((sum, cell) => sum + cellVolume(cell), 0)).toBeCloseTo(1, 11);
		}),
		{ numRuns: 40 },
	);
});

test("every vertex of a cell is at least as near to its point as to any other", () => {
	const sites = points(200, 3);
	for (const cell of voronoiCells(sites, makeDomain([0, 0, 0], [1, 1, 1]))) {
		for (let v = 0; v < cell.vertices.length; v += 3) {
			const distance = (i: number) =>
				Math.hypot(cell.vertices[v]! - sites[3 * i]!, cell.vertices[v + 1]! - sites[3 * i + 1]!, cell.vertices[v + 2]! - sites[3 * i + 2]!);
			let nearest = Infinity;
			for (let i = 0; i < 200; i++) nearest = Math.min(nearest, distance(i));
			expect(nearest).toBeGreaterThan(distance(cell.seed) - 1e-9);
		}
	}
});

test("neighbours know each other and their shared face is one", () => {
	const cells = [...voronoiCells(points(80, 5), makeDomain([0, 0, 0], [1, 1, 1]))];
	for (const cell of cells) for (const other of cell.neighbour) if (other >= 0) expect([...cells[other]!.neighbour]).toContain(cell.seed);
});

test("a gap takes a slab of half its width off each shared face", () => {
	const two = Float64Array.of(0.25, 0.5, 0.5, 0.75, 0.5, 0.5);
	const total = [...voronoiCells(two, makeDomain([0, 0, 0], [1, 1, 1]), 0.1)].reduce((sum, cell) => sum + cellVolume(cell), 0);
	expect(total).toBeCloseTo(0.9, 12);
});

test("further half-spaces cut the domain", () => {
	const half = makeDomain([0, 0, 0], [1, 1, 1], [Math.SQRT1_2, Math.SQRT1_2, 0, Math.SQRT1_2]);
	const total = [...voronoiCells(points(30, 9), half)].reduce((sum, cell) => sum + cellVolume(cell), 0);
	expect(total).toBeCloseTo(0.5, 10);
});
