import { bounds, boundsSize, topology, volume } from "../mesh";
import { buildShape, shapeById } from "../shapes";
import { reduceForView } from "./reduce";
import { loadSolids } from "./solids";

test("a ball for the view gets few triangles, stays closed and nearly as large", async () => {
	const ball = buildShape(shapeById("ball")!, { radius: 0.5, detail: 4 });
	const simple = reduceForView(await loadSolids(), ball, 90, 1);
	expect(simple.triangles.length / 3).toBeLessThanOrEqual(90);
	expect(topology(simple).closed).toBe(true);
	expect(volume(simple) / volume(ball)).toBeCloseTo(1, 5);
	for (const side of boundsSize(bounds(simple))) expect(Math.abs(side - 1)).toBeLessThan(0.2);
});

test("what is small enough already comes back as it is", async () => {
	const box = buildShape(shapeById("box")!);
	expect(reduceForView(await loadSolids(), box, 12, 1)).toBe(box);
});
