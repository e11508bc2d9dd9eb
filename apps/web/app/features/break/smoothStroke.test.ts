import type { Vec3 } from "@rubble/core/maths";
import { smoothStroke } from "./smoothStroke";

test("a stroke keeps its ends and loses the tremor of the hand", () => {
	const drawn = Array.from({ length: 200 }, (_, i): Vec3 => [i / 199, 0.01 * (i % 2), 0]);
	const smooth = smoothStroke(drawn);
	expect(smooth.length).toBeLessThanOrEqual(64);
	expect(smooth[0]).toEqual(drawn[0]);
	expect(smooth[smooth.length - 1]).toEqual(drawn[199]);
	const turns = smooth.slice(2).map((point, i) => Math.abs(point[1] - 2 * smooth[i + 1]![1] + smooth[i]![1]));
	expect(Math.max(...turns)).toBeLessThan(0.004);
});

test("a hand that did not move leaves one point", () => {
	expect(
		smoothStroke([
			[1, 2, 3],
			[1, 2, 3],
		]),
	).toEqual([[1, 2, 3]]);
});
