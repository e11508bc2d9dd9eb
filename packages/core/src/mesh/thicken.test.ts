import { buildShape, shapeById } from "../shapes";
import { inspectMesh, loadSolids } from "../solid";
import { makeMesh, orient, solid, thicken, topology } from ".";

const sheet = (n: number, height: (x: number, z: number) => number) => {
	const positions: number[] = [];
	const triangles: number[] = [];
	for (let k = 0; k <= n; k++) for (let i = 0; i <= n; i++) positions.push(i / n, height(i / n, k / n), k / n);
	for (let k = 0; k < n; k++)
		for (let i = 0; i < n; i++) {
			const a = i + (n + 1) * k;
			triangles.push(a, a + n + 1, a + 1, a + 1, a + n + 1, a + n + 2);
		}
	return makeMesh(positions, triangles);
};

test("a flat open sheet becomes a plate of just that thickness, closed and outward", () => {
	const plate = thicken(
		sheet(4, () => 0),
		0.004,
	);
	expect(topology(plate).closed).toBe(true);
	expect(solid(plate).volume).toBeCloseTo(0.004, 8);
});

test("a bent sheet keeps its thickness on its flat parts", () => {
	const roof = thicken(
		sheet(8, (x) => Math.abs(x - 0.5)),
		0.01,
	);
	expect(topology(roof).closed).toBe(true);
	// Area √2 of the roof, less nothing at the ridge: both slopes meet mitred.
	expect(Math.abs(solid(roof).volume / (0.01 * Math.SQRT2) - 1)).toBeLessThan(0.02);
});

test("an open ball gets a wall, and the report of an open mesh offers it", async () => {
	const ball = buildShape(shapeById("ball")!, { radius: 1, detail: 4 });
	// A bowl: the upper half of the triangles is left out.
	const kept: number[] = [];
	for (let f = 0; f < ball.triangles.length; f += 3)
		if ([0, 1, 2].every((k) => ball.positions[3 * ball.triangles[f + k]! + 1]! < 0.01)) kept.push(...ball.triangles.subarray(f, f + 3));
	const bowl = orient(makeMesh(ball.positions, kept));
	const report = inspectMesh(await loadSolids(), bowl);
	expect(report.closed).toBe(false);
	expect(report.faults[0]!.repairs.map(({ label }) => label)).toContainEqual(expect.stringMatching(/^Thickness of /));
	const wall = thicken(bowl, 0.02);
	expect(topology(wall).closed).toBe(true);
	expect(solid(wall).volume / (2 * Math.PI * 0.02)).toBeCloseTo(1, 1);
});
