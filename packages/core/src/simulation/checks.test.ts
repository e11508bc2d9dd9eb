import { buildBodies, buildMesh, reportMesh } from "../bodies";
import { addArray, edit, type Shot, setBody, setFracture, setSettings } from "../shot";
import { makeTestWorkshop, shape, shotOf } from "../testing";
import { type Finding, findStartOverlaps, makeScene, rapierEngine, runChecks } from ".";

async function check(shot: Shot): Promise<Finding[]> {
	const workshop = await makeTestWorkshop();
	const built = await buildBodies(workshop, shot);
	const scene = await makeScene(workshop, shot, built.bodies);
	const reports = new Map();
	for (const id of Object.keys(shot.objects)) {
		const mesh = await buildMesh(workshop, shot, id);
		if (mesh.ok && mesh.value.triangles.length > 0) reports.set(id, reportMesh(workshop, shot, id, mesh.value));
	}
	return runChecks({ shot, built, reports, scene, overlaps: scene.count > 0 ? await findStartOverlaps(scene, rapierEngine) : [] });
}

/** Applies the first fix of a finding. */
const fix = (shot: Shot, finding: Finding): Shot => edit(shot, finding.fixes[0]!.command).shot;
const cube = { width: 1, height: 1, depth: 1 };

test("two boxes that stand in each other are named with their depth, and the fix parts them", async () => {
	const shot = shotOf(
		shape("low", "box", cube, [0, 0.5, 0]),
		shape("high", "box", cube, [0, 1.4, 0]),
		setBody(["low", "high"], { kind: "active" }),
	);
	const [finding] = await check(shot);
	expect(finding).toMatchObject({ check: "start-overlap", about: ["low", "high"] });
	expect(finding!.message).toMatch(/100 mm|10 cm/);
	expect((await check(fix(shot, finding!))).map((other) => other.check)).toEqual([]);
});

test("pieces that only share faces do not overlap", async () => {
	const shot = shotOf(
		shape("block", "box", cube),
		setBody(["block"], { kind: "active" }),
		setFracture("f", { object: "block", method: "voronoi", options: { count: 40 } }),
	);
	expect(await check(shot)).toEqual([]);
});

test("a shot in which nothing can move says so, and the fix wakes it", async () => {
	const still = shotOf(shape("block", "box", cube), setBody(["block"], { kind: "passive" }));
	expect((await check(still)).map((finding) => finding.check)).toEqual(["nothing-wakes"]);
	const waits = shotOf(shape("block", "box", cube), setBody(["block"], { kind: "active", wake: { when: "touched", leastSpeed: 1 } }));
	const [finding] = await check(waits);
	expect(finding).toMatchObject({ check: "nothing-wakes", level: "error", about: ["block"] });
	expect(await check(fix(waits, finding!))).toEqual([]);
});

test("a fast small ball against a thin pane is warned of, and more substeps are offered", async () => {
	const shot = shotOf(
		shape("pane", "panel", { width: 1, height: 1, thickness: 0.004 }),
		setBody(["pane"], { kind: "passive" }),
		shape("pellet", "ball", { radius: 0.01, detail: 2 }, [0, 0, 3]),
		setBody(["pellet"], { kind: "active", velocity: [0, 0, -30] }),
	);
	const [finding] = await check(shot);
	expect(finding).toMatchObject({ check: "tunnel", about: ["pellet", "pane"] });
	expect(finding!.message).toMatch(/25.00 cm|25 cm/);
	const mended = fix(shot, finding!);
	expect(mended.settings.stepsPerSecond).toBeGreaterThan(120);
	expect(await check(mended)).toEqual([]);
	expect(await check(edit(shot, setSettings({ stepsPerSecond: 1200 })).shot)).toEqual([]);
});

test("neighbours in a thin broken pane do not overlap, and are not said to", async () => {
	const shot = shotOf(
		shape("pane", "panel", { width: 1.2, height: 1.6, thickness: 0.004 }, [0, 0.8, 0]),
		setFracture("f", { object: "pane", method: "voronoi", options: { count: 150, seed: 7, spread: "random" } }),
		setBody(["pane"], { kind: "active" }),
	);
	expect((await check(shot)).filter((finding) => finding.check === "start-overlap")).toEqual([]);
});

test("pieces of one solid are not called overlapping, whatever their colliders; copies that stand in each other are", async () => {
	const wall = shotOf(
		shape("wall", "cup", { radius: 0.5, foot: 0.5, height: 0.6, wall: 0.05, segments: 32 }, [0, 0.3, 0]),
		setFracture("f", { object: "wall", method: "voronoi", options: { count: 6, seed: 2 } }),
		setBody(["wall"], { kind: "active", collider: "hull" }),
	);
	expect((await check(wall)).filter(({ check }) => check === "start-overlap")).toEqual([]);
	const copies = shotOf(
		shape("box", "box", { width: 0.4, height: 0.4, depth: 0.4 }),
		addArray({ id: "row", name: "Row", source: { kind: "array", sources: ["box"], layout: "line", options: { count: 3, stepX: 0.3 } } }),
		setBody(["row"], { kind: "active" }),
	);
	expect((await check(copies)).filter(({ check }) => check === "start-overlap")[0]?.message).toMatch(
		/Row\/0000\d stands .* in Row\/0000\d/,
	);
});
