import fc from "fast-check";
import { hullDistance } from ".";

const box = (centre: readonly number[], half: readonly number[]): number[] =>
	[...Array(8).keys()].flatMap((k) => [0, 1, 2].map((axis) => centre[axis]! + (k & (1 << axis) ? half[axis]! : -half[axis]!)));

const place = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -3, max: 3, noNaN: true })));
const half = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.002, max: 1, noNaN: true })));

test("boxes, thin ones too, are as far apart as the formula says", () => {
	fc.assert(
		fc.property(place, half, place, half, (c1, h1, c2, h2) => {
			const gaps = [0, 1, 2].map((k) => Math.max(0, Math.abs(c1[k]! - c2[k]!) - h1[k]! - h2[k]!));
			expect(hullDistance(box(c1, h1), box(c2, h2))).toBeCloseTo(Math.hypot(...gaps), 8);
		}),
		{ numRuns: 300 },
	);
});

test("a point inside a hull has no distance, one outside its distance to the nearest corner, edge or face", () => {
	const cube = box([0, 0, 0], [1, 1, 1]);
	expect(hullDistance([0.2, 0.3, -0.9], cube)).toBe(0);
	expect(hullDistance([2, 2, 2], cube)).toBeCloseTo(Math.sqrt(3), 12);
	expect(hullDistance([2, 2, 0.3], cube)).toBeCloseTo(Math.SQRT2, 12);
	expect(hullDistance([0.3, -4, 0.1], cube)).toBeCloseTo(3, 12);
});
