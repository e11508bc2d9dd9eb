import fc from "fast-check";
import { rotate } from "../maths";
import { hullDepth, hullDistance } from ".";

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

test("boxes in each other are as deep as the formula says, however they are turned together", () => {
	const turned = (points: readonly number[], [x, y, z, w]: readonly number[]): number[] =>
		Array.from({ length: points.length / 3 }, (_, i) =>
			rotate([x!, y!, z!, w!], [points[3 * i]!, points[3 * i + 1]!, points[3 * i + 2]!]),
		).flat();
	const turn = fc
		.tuple(...[0, 1, 2, 3].map(() => fc.double({ min: -1, max: 1, noNaN: true })))
		.filter((q) => Math.hypot(...q) > 0.1)
		.map((q) => q.map((v) => v / Math.hypot(...q)));
	const wide = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.2, max: 1, noNaN: true })));
	fc.assert(
		fc.property(place, wide, wide, turn, (c, h1, h2, q) => {
			const ways = [0, 1, 2].map((k) => h1[k]! + h2[k]! - Math.abs(c[k]!));
			const [one, other] = [turned(box([0, 0, 0], h1), q), turned(box(c, h2), q)];
			const { depth, way } = hullDepth(one, other);
			const wanted = Math.max(0, Math.min(...ways));
			expect(depth).toBeGreaterThanOrEqual(wanted - 1e-9);
			expect(depth).toBeLessThanOrEqual(wanted * 1.02 + 1e-3);
			// Moved that way and that far, the other is out.
			const out = other.map((v, i) => v + way[i % 3]! * (depth + 1e-4));
			expect(hullDistance(one, out)).toBeGreaterThan(5e-5);
		}),
		{ numRuns: 200 },
	);
});

test("pieces that share a face and are 8 mm in each other are 8 mm deep", () => {
	const wedge = [0, 0, 0, 1, 0, 0.1, 0.3, 1, 0.05, 0.2, 0.3, 0.9];
	const face = [0, 0, 0, 1, 0, 0.1, 0.3, 1, 0.05, 0.4, 0.2, -0.8];
	expect(hullDepth(wedge, face).depth).toBeLessThan(1e-3);
	const up = face.map((v, i) => (i % 3 === 2 ? v + 0.008 : v));
	expect(hullDepth(wedge, up).depth).toBeGreaterThan(0.0075);
	expect(hullDepth(wedge, up).depth).toBeLessThan(0.0085);
});

test("thin plates that lie in each other, tilted against everything, are as deep as their thickness tells", () => {
	const tilt = [0.3, 0.5, -0.2, 0.787] as const;
	const plate = (lift: number): number[] =>
		Array.from({ length: 8 }, (_, k) => rotate(tilt, [k & 1 ? 0.05 : -0.05, (k & 2 ? 0.002 : -0.002) + lift, k & 4 ? 0.03 : -0.03])).flat();
	for (const lift of [0, 0.001, 0.003]) expect(hullDepth(plate(0), plate(lift)).depth).toBeCloseTo(0.004 - lift, 4);
	expect(hullDepth(plate(0), plate(0.0041)).depth).toBe(0);
});
