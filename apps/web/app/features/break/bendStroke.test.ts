import { bendStroke } from "./bendStroke";

test("a dot goes where it is put; a line bends around the grabbed point and keeps what is far from it", () => {
	expect(bendStroke([1, 2, 3], 0, [4, 5, 6])).toEqual([4, 5, 6]);
	const line = Array.from({ length: 11 }, (_, i) => [i / 10, 0, 0]).flat();
	const bent = bendStroke(line, 5, [0.5, 0.2, 0]);
	const heights = Array.from({ length: 11 }, (_, i) => bent[3 * i + 1]!);
	expect(heights[5]).toBeCloseTo(0.2, 9);
	expect([heights[0], heights[1], heights[9], heights[10]]).toEqual([0, 0, 0, 0]);
	expect(heights[4]).toBeGreaterThan(heights[3]!);
	expect(heights[4]).toBeLessThan(heights[5]!);
	expect(heights[4]).toBeCloseTo(heights[6]!, 9);
	// An end is dragged without the other.
	expect(bendStroke(line, 0, [-0.3, 0, 0]).slice(-3)).toEqual([1, 0, 0]);
});
