import { worldPose } from "../animation";
import { volume } from "../mesh";
import { shapeById, shapeDefaults } from "../shapes";
import {
	addArray,
	addObject,
	edit,
	groupObjects,
	makeSizeReal,
	parseShot,
	placeObject,
	removeObjects,
	type Shot,
	setArrayOptions,
	setBody,
	setFracture,
	setKey,
	setPivot,
	setShapeParameter,
} from "../shot";
import { makeScene, startHash } from "../simulation";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { bodyCollider, bodyPose, buildBodies, measuresOf, mergeObjects, splitObject } from ".";

const row = (options: Record<string, number | string | string[]>, sources = ["stone"], layout = "line") =>
	addArray({
		id: "row",
		name: "Row",
		source: { kind: "array", sources, layout, options: { seed: 1, ...options } },
		translation: [0, 1, 0],
	});
const stone = shape("stone", "box", { width: 0.2, height: 0.2, depth: 0.2 });
const letters = shapeById("letters")!;
const build = async (shot: Shot) => buildBodies(await makeTestWorkshop(), shot);

test("copies are bodies of their own, with names, that share the source's mesh and hide the source", async () => {
	const shot = shotOf(stone, row({ count: 3, stepX: 0.5 }), setBody(["row"], { kind: "active" }), setBody(["row:1"], { density: 1000 }));
	const { bodies, problems } = await build(shot);
	expect(problems).toEqual([]);
	expect(bodies.map(({ id, path, origin }) => [id, path, origin])).toEqual([
		["stone", "stone", "object"],
		["row:0", "Row/00001", "copy"],
		["row:1", "Row/00002", "copy"],
		["row:2", "Row/00003", "copy"],
	]);
	expect(new Set(bodies.slice(1).map(({ mesh }) => mesh)).size).toBe(1);
	expect(shot.objects.stone!.hidden).toBe(true);
	expect(bodies[1]!.mass).toBeCloseTo(0.008 * 2400, 4);
	expect(bodies[2]!.mass).toBeCloseTo(8, 4);
	expect(bodyPose(shot, bodies[3]!, 0).translation).toEqual([1, 1, 0]);
	expect(parseShot(JSON.parse(JSON.stringify(shot))).ok).toBe(true);
});

test("copies of an active object are active as it was, and it would hang among them unseen: it takes no part", async () => {
	const shot = shotOf(stone, setBody(["stone"], { kind: "active", density: 1000, bounce: 0.7 }), row({ count: 2, stepX: 0.5 }));
	const { bodies } = await build(shot);
	expect(bodies.map(({ path, settings: { kind, bounce } }) => [path, kind, bounce])).toEqual([
		["stone", "none", 0.7],
		["Row/00001", "active", 0.7],
		["Row/00002", "active", 0.7],
	]);
	expect(bodies[1]!.mass).toBeCloseTo(8, 4);
	// What was never set stays so: rules and materials go on to hold.
	expect(shotOf(stone, row({ count: 2 })).bodies).toEqual({});
});

test("the size of a copy changes its mass by the cube, its moments by the fifth power and its collider with it", async () => {
	const workshop = await makeTestWorkshop();
	const shot = shotOf(stone, row({ count: 1, smallest: 2, largest: 2 }), setBody(["row", "stone"], { kind: "active" }));
	const { bodies } = await buildBodies(workshop, shot);
	const scene = await makeScene(workshop, shot, bodies);
	expect(scene.mass[1]! / scene.mass[0]!).toBeCloseTo(8, 9);
	expect(scene.inertia[3]! / scene.inertia[0]!).toBeCloseTo(32, 6);
	expect(scene.thickness[1]! / scene.thickness[0]!).toBeCloseTo(2, 6);
	const collider = await bodyCollider(workshop, bodies[1]!);
	expect(collider.shape).toMatchObject({ kind: "box", half: [expect.closeTo(0.2, 6), expect.closeTo(0.2, 6), expect.closeTo(0.2, 6)] });
});

test("copies fall, and land on the ground at half their own size", async () => {
	const shot = shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		stone,
		row({ count: 4, stepX: 1, smallest: 0.5, largest: 1.5 }),
		setBody(["row"], { kind: "active", bounce: 0 }),
	);
	const run = await runShot(shot, 40);
	const { bodies } = await build(shot);
	for (const { id, scale } of bodies.filter(({ origin }) => origin === "copy")) expect(run.at(id, 40)[1]).toBeCloseTo(0.1 * scale, 2);
});

test("a broken array breaks every copy its own way, with names that nest", async () => {
	const shot = shotOf(
		stone,
		row({ count: 2, stepX: 0.5, smallest: 0.5, largest: 1 }),
		setFracture("f", { object: "row", method: "voronoi", options: { count: 5, seed: 3 } }),
	);
	const { bodies, pieces } = await build(shot);
	const own = bodies.filter(({ origin }) => origin === "piece");
	expect(own.map(({ path }) => path)).toContain("Row/00002/00003");
	expect(pieces.row!.count).toBe(own.length);
	for (const copy of ["00001", "00002"]) {
		const parts = own.filter(({ path }) => path.startsWith(`Row/${copy}/`));
		expect(parts.reduce((sum, part) => sum + part.volume, 0) / (0.008 * parts[0]!.scale ** 3)).toBeCloseTo(1, 6);
	}
	expect(own[0]!.volume / own[0]!.scale ** 3).not.toBeCloseTo(own[5]!.volume / own[5]!.scale ** 3, 9);
});

test("a change of the source, of a layout's target or of the layout makes a run stale; one of the source's place does not", () => {
	const base = shotOf(
		stone,
		shape("slab", "box", { width: 3, height: 0.1, depth: 3 }),
		row({ count: 3, on: ["slab"] }, ["stone"], "surface"),
		setBody(["row"], { kind: "active" }),
	);
	const after = (command: Parameters<typeof edit>[1]) => startHash(edit(base, command).shot);
	expect(after(setShapeParameter("stone", "width", 0.3))).not.toBe(startHash(base));
	expect(after(placeObject("slab", { translation: [0, 1, 0] }))).not.toBe(startHash(base));
	expect(after(setArrayOptions("row", { count: 4 }))).not.toBe(startHash(base));
	expect(after(placeObject("stone", { translation: [5, 0, 0] }))).toBe(startHash(base));
});

test("problems of an array are told with its name, and nothing else is lost", async () => {
	const { bodies, problems } = await build(shotOf(stone, row({ count: 3 }, ["stone"], "surface")));
	expect(problems).toEqual([{ object: "row", message: "“Row”: Choose the objects that carry the copies under “On”." }]);
	expect(bodies.map(({ id }) => id)).toEqual(["stone"]);
});

test("an array loses a source that is deleted, and goes with the last one", () => {
	const shot = shotOf(stone, shape("other", "ball", {}), row({ count: 4 }, ["stone", "other"]));
	const fewer = edit(shot, removeObjects(["stone"])).shot;
	expect(fewer.objects.row!.source).toMatchObject({ sources: ["other"] });
	expect(edit(fewer, removeObjects(["other"])).shot.objects).toEqual({});
	const nested = addObject({ id: "twice", name: "Twice", source: { kind: "array", sources: ["row"], layout: "line", options: {} } });
	expect(parseShot(JSON.parse(JSON.stringify(edit(shot, nested).shot)))).toMatchObject({ ok: false });
});

test("a group moves and sizes what it holds; grouping changes nobody's place", async () => {
	const before = shotOf(stone, placeObject("stone", { translation: [1, 2, 3] }));
	const grouped = edit(before, groupObjects(["stone"], "g", "Group")).shot;
	expect((await build(grouped)).bodies.map(({ path }) => path)).toEqual(["Group/stone"]);
	expect(bodyPose(grouped, (await build(grouped)).bodies[0]!, 0).translation).toEqual([1, 2, 3]);
	const keyed = edit(
		edit(before, setKey("stone", 0, { translation: [1, 2, 3] })).shot,
		setKey("stone", 600, { translation: [4, 0, 0] }),
	).shot;
	const held = edit(keyed, groupObjects(["stone"], "g", "Group", [5, 1, 0])).shot;
	expect(held.objects.g!.translation).toEqual([5, 1, 0]);
	for (const tick of [0, 300, 600]) expect(worldPose(held, "stone", tick)).toEqual(worldPose(keyed, "stone", tick));
	const moved = edit(grouped, placeObject("g", { translation: [1, 0, 0], scale: [2, 2, 2] })).shot;
	const [body] = (await build(moved)).bodies;
	expect(bodyPose(moved, body!, 0).translation).toEqual([3, 4, 6]);
	expect(body!.volume).toBeCloseTo(0.064, 6);
});

test("moving the pivot and making size real leave every point where it was", async () => {
	const start = shotOf(
		shape("w", "wedge", { width: 2, height: 1, depth: 1 }),
		placeObject("w", { translation: [1, 1, 1], rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2], scale: [2, 1, 3] }),
	);
	const points = async (shot: Shot) => {
		const [body] = (await build(shot)).bodies;
		const pose = bodyPose(shot, body!, 0);
		const { rotate } = await import("../maths");
		return Array.from({ length: 4 }, (_, i) =>
			rotate(pose.rotation, [...body!.mesh.positions.subarray(3 * i, 3 * i + 3)] as never).map((x, k) => x + pose.translation[k]!),
		);
	};
	const was = await points(start);
	const pivoted = edit(start, setPivot("w", [0.3, -0.2, 0.1])).shot;
	const real = edit(pivoted, makeSizeReal("w")).shot;
	for (const shot of [pivoted, real])
		for (const [i, point] of (await points(shot)).entries()) for (const [k, x] of point.entries()) expect(x).toBeCloseTo(was[i]![k]!, 5);
	expect(real.objects.w!.scale).toEqual([1, 1, 1]);
	const [body] = (await build(start)).bodies;
	const centred = edit(start, setPivot("w", measuresOf(body!.mesh).centroid.map((x, k) => x / [2, 1, 3][k]!) as never)).shot;
	expect(Math.hypot(...measuresOf((await build(centred)).bodies[0]!.mesh).centroid)).toBeLessThan(1e-6);
});

test("merging counts overlaps once, splitting gives every connected part", async () => {
	const workshop = await makeTestWorkshop();
	const shot = shotOf(
		shape("a", "box", { width: 1, height: 1, depth: 1 }),
		shape("b", "box", { width: 1, height: 1, depth: 1 }, [0.5, 0, 0]),
		shape("c", "letters", shapeDefaults(letters)),
	);
	const merged = await mergeObjects(workshop, shot, ["a", "b"]);
	if (!merged.ok) throw new Error(merged.problems[0]!.message);
	expect(volume(merged.value.mesh)).toBeCloseTo(1.5, 6);
	expect(merged.value.translation).toEqual([0.25, 0, 0]);
	const split = await splitObject(workshop, shot, "c");
	expect(split.ok && split.value).toHaveLength("SALTMARSH".length);
	expect(await splitObject(workshop, shot, "a")).toMatchObject({ ok: false, problems: [{ message: "“a” is of one part." }] });
	expect(await mergeObjects(workshop, shot, ["a"])).toMatchObject({ ok: false });
});
