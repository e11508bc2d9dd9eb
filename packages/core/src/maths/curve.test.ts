import fc from "fast-check";
import { curveAt, curveProblem, makeCurve } from ".";

test("a curve goes through its points, is level outside of them, and never leaves the span of its neighbours", () => {
	const points = fc
		.uniqueArray(fc.integer({ min: 0, max: 200 }), { minLength: 2, maxLength: 8 })
		.chain((across) =>
			fc.tuple(
				fc.constant([...across].sort((a, b) => a - b)),
				fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: across.length, maxLength: across.length }),
			),
		);
	fc.assert(
		fc.property(points, fc.double({ min: 0, max: 1, noNaN: true }), ([across, heights], t) => {
			const curve = across.flatMap((x, i) => [x, heights[i]!]);
			const height = makeCurve(curve);
			across.forEach((x, i) => {
				expect(height(x)).toBeCloseTo(heights[i]!, 9);
			});
			expect(height(across[0]! - 5)).toBe(heights[0]);
			expect(height(across[across.length - 1]! + 5)).toBe(heights[heights.length - 1]);
			for (let i = 1; i < across.length; i++) {
				const y = height(across[i - 1]! + t * (across[i]! - across[i - 1]!));
				expect(y).toBeGreaterThanOrEqual(Math.min(heights[i - 1]!, heights[i]!) - 1e-9);
				expect(y).toBeLessThanOrEqual(Math.max(heights[i - 1]!, heights[i]!) + 1e-9);
			}
		}),
	);
	expect(curveAt([0, 0, 2, 4], 1)).toBeCloseTo(2, 9);
});

test.each([
	[[0, 1], /at least two points/],
	[[0, 1, 0, 2], /from left to right/],
	[[0, 1, 1, Number.NaN], /finite numbers/],
	[[0, 0, 1, 3], /between 0 and 1/],
	["0,1", /at least two points/],
])("what is no curve is said: %j", (curve, message) => {
	expect(curveProblem(curve, 0, 1)).toMatch(message);
	expect(curveProblem([0, 0, 1, 1], 0, 1)).toBeUndefined();
});
