import { buildShape, SHAPES, shapeById, shapeDefaults } from "../shapes";
import { applyRepairs, inspectMesh, loadSolids } from "../solid";
import { joinMeshes, makeMesh, selfCrossings, solid, topology, transformMesh } from ".";

const crossingsOf = (mesh: ReturnType<typeof makeMesh>) => selfCrossings(mesh, topology(mesh).shellOf);

/** A closed tube (radius r, m) along a figure of eight: its two diagonals cross in the middle at a right angle. */
function eight(r: number, across = 64) {
	const way: [number, number][] = [
		[-1, -1],
		[1, 1],
		[1, -1],
		[-1, 1],
	];
	const left = (k: number): [number, number] => {
		const [[ax, ay], [bx, by]] = [way[k % 4]!, way[(k + 1) % 4]!];
		const length = Math.hypot(bx - ax, by - ay);
		return [(ay - by) / length, (bx - ax) / length];
	};
	const positions = way.flatMap(([x, z], k) => {
		const [before, after] = [left(k + 3), left(k)];
		const [mx, mz] = [before[0] + after[0], before[1] + after[1]];
		// Mitred: as wide across each of the two sides as everywhere.
		const share = r / (mx * after[0] + mz * after[1]);
		return Array.from({ length: across }, (_, n) => {
			const angle = (2 * Math.PI * (n + 0.27)) / across;
			return [x + share * mx * Math.cos(angle), r * Math.sin(angle), z + share * mz * Math.cos(angle)];
		}).flat();
	});
	const triangles = way.flatMap((_, k) =>
		Array.from({ length: across }, (_, n) => {
			const at = (ring: number, point: number) => (ring % 4) * across + (point % across);
			const [a, b, c, d] = [at(k, n), at(k + 1, n), at(k + 1, n + 1), at(k, n + 1)];
			return [a, c, b, a, d, c];
		}).flat(),
	);
	return makeMesh(positions, triangles);
}

test.each(SHAPES.filter((shape) => !shape.endless))("$id as it comes does not pass through itself", (shape) => {
	expect(crossingsOf(buildShape(shape, shapeDefaults(shape)))).toBe(0);
});

test("two shells that lie in each other overlap, a surface that touches itself touches: neither passes through itself", () => {
	const box = buildShape(shapeById("box")!, { width: 1, height: 1, depth: 1 });
	const beside = (x: number) => joinMeshes([box, transformMesh(box, { translation: [x, 0, 0] })]);
	expect(crossingsOf(beside(0.5))).toBe(0);
	// As one shell they do.
	const askew = joinMeshes([box, transformMesh(box, { translation: [0.5, 0.31, 0.17] })]);
	expect(selfCrossings(askew, new Int32Array(askew.triangles.length / 3))).toBeGreaterThan(3);
	expect(selfCrossings(beside(1), new Int32Array(24))).toBe(0);
});

test("what passes through itself is named, and a re-mesh takes up its room once", async () => {
	const solids = await loadSolids();
	const r = 0.3;
	const mesh = eight(r);
	const report = inspectMesh(solids, mesh);
	expect(report.closed).toBe(true);
	expect(report.crossings).toBeGreaterThan(20);
	const fault = report.faults.find(({ message }) => message.startsWith("The surface passes through itself"))!;
	expect(fault.repairs[0]!.repairs).toMatchObject([{ kind: "remesh" }]);
	const mended = applyRepairs(solids, mesh, [{ kind: "remesh", voxel: 0.03 }]);
	// What two round bars that cross at a right angle share: 16 r³ / 3.
	expect((Math.abs(report.volume) - solid(mended).volume) / ((16 / 3) * r ** 3)).toBeCloseTo(1, 1);
	expect(inspectMesh(solids, mended).faults).toEqual([]);
});
