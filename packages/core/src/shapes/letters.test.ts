import { bounds, topology, volume } from "../mesh";
import { loadSolids, toSolid } from "../solid";
import { letters } from "./letters";
import { shapeDefaults, shapeProblem } from "./parameters";

const build = (text: string, change: Record<string, number> = {}) => letters.build({ ...shapeDefaults(letters), ...change }, { text });

test("characters of all kinds are closed solids that do not touch themselves", async () => {
	const solids = await loadSolids();
	for (const text of "ABCDGKMNQRSWXag&@8%ßÅÇçør¸") {
		if (shapeProblem(letters, shapeDefaults(letters), { text })) continue;
		const mesh = build(text);
		expect([text, topology(mesh).closed]).toEqual([text, true]);
		const solid = toSolid(solids, mesh);
		const united = solid.add(solid);
		// A self-touching solid would change its volume when it is united with itself.
		expect(united.volume() / volume(mesh)).toBeCloseTo(1, 3);
		for (const one of [solid, united]) one.delete();
	}
});

test("a straight letter has the volume of its area, less what the bevel takes", () => {
	const plain = volume(build("H", { bevel: 0, depth: 0.1 }));
	expect(volume(build("H", { bevel: 0, depth: 0.2 })) / plain).toBeCloseTo(2, 6);
	const bevelled = volume(build("H", { bevel: 0.004, depth: 0.1 }));
	// Along each of the two edges a triangle of bevel²/2 is cut off; H is one contour of straight sides.
	const outline = perimeter("H");
	expect((plain - bevelled) / (outline * 0.004 * 0.004)).toBeCloseTo(1, 1);
});

/** Metres around the front of a letter without a bevel. */
function perimeter(text: string): number {
	const { positions, triangles } = build(text, { bevel: 0, depth: 0.1 });
	const front = (v: number) => positions[3 * v + 2]! > 0;
	let sum = 0;
	for (let f = 0; f < triangles.length; f += 3) {
		const corners = [triangles[f]!, triangles[f + 1]!, triangles[f + 2]!];
		const [a, b] = corners.filter(front);
		if (corners.filter(front).length !== 2) continue;
		sum += Math.hypot(positions[3 * a!]! - positions[3 * b!]!, positions[3 * a! + 1]! - positions[3 * b! + 1]!);
	}
	return sum;
}

test("letters stand side by side, and their holes are holes", () => {
	const one = bounds(build("I")).max[0];
	expect(bounds(build("III")).max[0]).toBeGreaterThan(2.5 * one);
	expect(topology(build("SIGN")).shells).toBe(4);
	expect(topology(build("O")).shells).toBe(1);
	const size = bounds(build("H", { height: 0.8 }));
	expect(size.max[1] - size.min[1]).toBeCloseTo(0.8, 5);
});

test("what cannot be made is said in a sentence", () => {
	const defaults = shapeDefaults(letters);
	expect(shapeProblem(letters, defaults, { text: "港" })).toMatch(/typeface has no “港”/);
	expect(shapeProblem(letters, defaults, { text: "  " })).toMatch(/nothing to be seen/);
	expect(shapeProblem(letters, { ...defaults, bevel: 0.06 }, { text: "A" })).toMatch(/half of the depth/);
	expect(shapeProblem(letters, { ...defaults, bevel: 0.03 }, { text: "A" })).toMatch(/3.5 % of the height/);
	expect(shapeProblem(letters, defaults, { text: "A".repeat(81) })).toMatch(/80 characters/);
});
