import { ball } from "../shapes/ball";
import { box } from "../shapes/box";
import { applyRepairs, inspectMesh, loadSolids } from "../solid";
import {
	bounds,
	boundsSize,
	fillHoles,
	flip,
	type Mesh,
	makeMesh,
	orient,
	selectTriangles,
	topology,
	triangleCount,
	volume,
	weld,
} from ".";

const cube = box.build({ width: 1, height: 1, depth: 1 }, {});
const inspect = async (mesh: Mesh) => inspectMesh(await loadSolids(), mesh);

/** Every triangle with corners of its own, as many files store it. */
const soup = (mesh: Mesh): Mesh =>
	makeMesh(
		Float32Array.from([...mesh.triangles].flatMap((v) => [...mesh.positions.subarray(3 * v, 3 * v + 3)])),
		Uint32Array.from(mesh.triangles.keys()),
	);

test("a triangle soup is open until it is welded", () => {
	const loose = soup(cube);
	expect(topology(loose)).toMatchObject({ closed: false, openEdges: 36, shells: 12 });
	const welded = weld(loose, 0);
	expect(topology(welded)).toMatchObject({ closed: true, shells: 1 });
	expect(volume(welded)).toBeCloseTo(1, 9);
});

test("welding with a distance joins corners that are nearly one and drops what collapses", () => {
	const loose = soup(cube);
	const shaken = { ...loose, positions: loose.positions.map((p, i) => p + (i % 7) * 1e-5) };
	expect(topology(weld(shaken, 0)).closed).toBe(false);
	expect(topology(weld(shaken, 1e-3)).closed).toBe(true);
	expect(triangleCount(weld(cube, 5))).toBe(0);
});

test("a missing side is filled and the volume is whole again", async () => {
	const open = selectTriangles(cube, [0, 1, 2, 3, 4, 5, 6, 7, 8, 9]);
	const report = await inspect(open);
	expect(report.closed).toBe(false);
	expect(report.openEdges).toBe(4);
	expect(report.faults[0]!.message).toMatch(/4 open edges/);
	const closed = fillHoles(open);
	expect(topology(closed).closed).toBe(true);
	expect(volume(closed)).toBeCloseTo(1, 6);
});

test("two holes that meet in one corner are both filled", () => {
	const sphere = ball.build({ radius: 1, detail: 2 }, {});
	// Two triangles that share one vertex and nothing else.
	const first = 0;
	const touching = [...Array(triangleCount(sphere)).keys()].find((f) => {
		const shared = [0, 1, 2].filter((c) => [...sphere.triangles.subarray(0, 3)].includes(sphere.triangles[3 * f + c]!));
		return f !== first && shared.length === 1;
	})!;
	const keep = [...Array(triangleCount(sphere)).keys()].filter((f) => f !== first && f !== touching);
	const filled = fillHoles(selectTriangles(sphere, keep));
	expect(topology(filled)).toMatchObject({ closed: true });
	expect(volume(filled)).toBeCloseTo(volume(sphere), 6);
});

test("flipped faces are turned alike and an inside-out mesh outwards", async () => {
	const one = flip(selectTriangles(cube, [3]));
	const rest = selectTriangles(cube, [0, 1, 2, 4, 5, 6, 7, 8, 9, 10, 11]);
	const mixed = weld(
		makeMesh(
			Float32Array.from([...rest.positions, ...one.positions]),
			Uint32Array.from([...rest.triangles, ...one.triangles.map((v) => v + rest.positions.length / 3)]),
		),
		0,
	);
	expect(topology(mixed).flippedEdges).toBe(3);
	expect((await inspect(mixed)).faults[0]!.repairs[0]!.repairs).toEqual([{ kind: "orient" }]);
	expect(volume(orient(mixed))).toBeCloseTo(1, 9);
	expect((await inspect(flip(cube))).insideOut).toBe(true);
	expect(volume(orient(flip(cube)))).toBeCloseTo(1, 9);
});

test("shells that overlap are named, and uniting them counts shared space once", async () => {
	const moved = cube.positions.map((p) => p + 0.5);
	const both = makeMesh(
		Float32Array.from([...cube.positions, ...moved]),
		Uint32Array.from([...cube.triangles, ...cube.triangles.map((v) => v + 8)]),
	);
	const report = await inspect(both);
	expect(report.shells).toBe(2);
	expect(report.overlap).toBeCloseTo(0.125, 5);
	const united = applyRepairs(await loadSolids(), both, [{ kind: "unite" }]);
	expect(volume(united)).toBeCloseTo(2 - 0.125, 5);
});

test("voxel re-meshing closes what is torn and stays near the old surface", async () => {
	const sphere = ball.build({ radius: 1, detail: 4 }, {});
	const torn = selectTriangles(
		sphere,
		[...Array(triangleCount(sphere)).keys()].filter((f) => f % 97 !== 0 && f > 40),
	);
	expect(topology(torn).closed).toBe(false);
	const mended = applyRepairs(await loadSolids(), torn, [{ kind: "remesh", voxel: 0.05 }]);
	expect(topology(mended)).toMatchObject({ closed: true, shells: 1 });
	expect(volume(mended) / volume(sphere)).toBeCloseTo(1, 1);
	expect(Math.abs(boundsSize(bounds(mended))[1] - 2)).toBeLessThan(0.06);
});

test("a voxel too small for the memory is refused with a sentence", async () => {
	const solids = await loadSolids();
	expect(() => applyRepairs(solids, cube, [{ kind: "remesh", voxel: 0.0005 }])).toThrow(/use a larger voxel/);
});
