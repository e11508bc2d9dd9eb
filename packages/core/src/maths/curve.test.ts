import fc from "fast-check";
import { curveAt, curveProblem, makeCurve } from ".";

test("a curve goes through its points, is level outside of them, and never leaves the span of its neighbours", () => {
	const points = fc
		.uniqueArray(fc.integer({ min: 0, max: 200 }), { minLength: 2, maxLength: 8 })
		.chain((xs) =>
			fc.tuple(
				fc.constant([...xs].sort((a, b) => a - b)),
				fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: xs.length, maxLength: xs.length }),
			),
		);
	fc.assert(
		fc.property(points, fc.double({ min: 0, max: 1, noNaN: true }), ([xs, ys], t) => {
			const curve = xs.flatMap((x, i) => [x, ys[i]!]);
			const height = makeCurve(curve);
			xs.forEach((x, i) => {
				expect(height(x)).toBeCloseTo(ys[i]!, 9);
			});
			expect(height(xs[0]! - 5)).toBe(ys[0]);
			expect(height(xs[xs.length - 1]! + 5)).toBe(ys[ys.length - 1]);
			for (let i = 1; i < xs.length; i++) {
				const y = height(xs[i - 1]! + t * (xs[i]! - xs[i - 1]!));
				expect(y).toBeGreaterThanOrEqual(Math.min(ys[i - 1]!, ys[i]!) - 1e-9);
				expect(y).toBeLessThanOrEqual(Math.max(ys[i - 1]!, ys[i]!) + 1e-9);
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
