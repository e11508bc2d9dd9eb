/** A curve through points: x and y of each in turn, x ascending. */
export type Curve = readonly number[];

/**
 * The height of a curve at any x: smooth between its points, never beyond the two that it lies between, level outside of
 * them. Cubic pieces with slopes limited so that they stay monotone (Fritsch and Carlson 1980, "Monotone Piecewise Cubic
 * Interpolation").
 */
export function makeCurve(curve: Curve): (x: number) => number {
	const count = curve.length / 2;
	const slopes = Float64Array.from({ length: count }, (_, i) => slopeAt(curve, 2 * i));
	const last = curve.length - 2;
	return (x) => {
		if (last < 0) return 0;
		if (x <= curve[0]!) return curve[1]!;
		if (x >= curve[last]!) return curve[last + 1]!;
		let i = 0;
		while (curve[i + 2]! <= x) i += 2;
		const h = curve[i + 2]! - curve[i]!;
		const t = (x - curve[i]!) / h;
		const t2 = t * t;
		const t3 = t2 * t;
		return (
			(2 * t3 - 3 * t2 + 1) * curve[i + 1]! +
			(t3 - 2 * t2 + t) * h * slopes[i / 2]! +
			(3 * t2 - 2 * t3) * curve[i + 3]! +
			(t3 - t2) * h * slopes[i / 2 + 1]!
		);
	};
}

/** The same once, for those that ask only now and then. */
export const curveAt = (curve: Curve, x: number): number => makeCurve(curve)(x);

/** The slope at a point: the harmonic mean of those beside it where both run the same way, else level. */
function slopeAt(curve: Curve, i: number): number {
	const slope = (k: number): number | undefined =>
		k < 0 || k + 2 >= curve.length ? undefined : (curve[k + 3]! - curve[k + 1]!) / (curve[k + 2]! - curve[k]!);
	const [before, after] = [slope(i - 2), slope(i)];
	if (before === undefined || after === undefined) return before ?? after ?? 0;
	return before * after <= 0 ? 0 : (2 * before * after) / (before + after);
}

/** What is wrong with a curve, as the end of a sentence; else undefined. */
export function curveProblem(curve: unknown, least: number, most: number): string | undefined {
	if (!Array.isArray(curve) || curve.length < 4 || curve.length % 2 !== 0 || curve.some((value) => !Number.isFinite(value)))
		return "needs at least two points of two finite numbers";
	for (let i = 0; i < curve.length; i += 2) {
		if (i > 0 && curve[i] <= curve[i - 2]) return "needs points from left to right";
		if (curve[i + 1] < least || curve[i + 1] > most) return `must stay between ${least} and ${most}`;
	}
	return undefined;
}
