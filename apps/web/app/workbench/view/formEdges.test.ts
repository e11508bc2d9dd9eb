import { expect, test } from "@jest/globals";
import { BoxGeometry, ConeGeometry, IcosahedronGeometry, SphereGeometry } from "three";
import { formEdges } from "./formEdges";

/** Lengths of lines together, and how far their ends are from the middle at least and at most. */
function told(lines: Float32Array) {
	let length = 0;
	const away: number[] = [];
	for (let n = 0; n < lines.length; n += 6) {
		const [a, b] = [lines.slice(n, n + 3), lines.slice(n + 3, n + 6)];
		length += Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!);
		away.push(Math.hypot(...a), Math.hypot(...b));
	}
	return { length, least: Math.min(...away), most: Math.max(...away) };
}

test("a box is told by its twelve edges", () => {
	expect(told(formEdges(new BoxGeometry(1, 2, 3))).length).toBeCloseTo(4 * (1 + 2 + 3), 5);
});

test.each([
	["indexed", new SphereGeometry(2, 48, 32)],
	["a triangle at a time", new IcosahedronGeometry(2, 12)],
])("a ball has no edges: three great circles tell it (%s)", (_, ball) => {
	const { length, least, most } = told(formEdges(ball));
	expect(length / (3 * 2 * Math.PI * 2)).toBeCloseTo(1, 2);
	expect(least).toBeGreaterThan(1.97);
	expect(most).toBeLessThan(2.0001);
});

test("among many a ball goes without", () => {
	expect(formEdges(new SphereGeometry(2, 48, 32), "none")).toHaveLength(0);
});

test("what is seen by its lines alone has contours beside its edges", () => {
	const cone = new ConeGeometry(1, 2, 64);
	const rim = told(formEdges(cone)).length;
	expect(rim / (2 * Math.PI)).toBeCloseTo(1, 1);
	// Half way up it is half as wide; the two upright planes cut triangles out of it.
	expect(told(formEdges(cone, "all")).length / (rim + Math.PI + 2 * (2 + 2 * Math.sqrt(5)))).toBeCloseTo(1, 1);
});
