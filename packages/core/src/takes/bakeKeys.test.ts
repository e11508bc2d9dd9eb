import { worldPose } from "../animation";
import { bodyPose, buildBodies } from "../bodies";
import { posesAt } from "../cache";
import {
	addArray,
	addLayer,
	edit,
	parseShot,
	placeObject,
	removeFracture,
	removeObjects,
	type Shot,
	setBody,
	setFracture,
	setKey,
	setSettings,
	tickOfFrame,
} from "../shot";
import { frameHashes } from "../simulation";
import { makeTestWorkshop, runShot, shape, shotOf, type TestRun } from "../testing";
import { bakedThings, bakeKeys, unbake } from ".";

const REDUCED = { way: "reduced", position: 0.003, rotation: 0.01 } as const;

function keysFrom(shot: Shot, run: TestRun, picked: readonly string[], lastFrame = 48) {
	const bodies = run.scene.ids.map((id) => ({ id }));
	const made = bakeKeys(shot, bodies, run.store, picked, { firstFrame: 1, lastFrame }, REDUCED, "Take 1");
	if (!made.ok) throw new Error(made.problems[0]!.message);
	return made.value;
}

test("objects baked to keys follow them within the tolerance, push the others, and are what they were once the bake is deleted", async () => {
	const shot = shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("cap", "box", { width: 0.4, height: 0.3, depth: 0.4 }, [0, 1.2, 0]),
		shape("other", "box", { width: 0.4, height: 0.3, depth: 0.4 }, [0.15, 2.2, 0.05]),
		setBody(["cap", "other"], { kind: "active", bounce: 0.2 }),
		setBody(["cap"], { spin: [1, 0, 5] }),
	);
	const run = await runShot(shot, 48);
	expect(keysFrom(shot, run, ["cap", "ground", "nobody"]).baked).toEqual(["ground", "cap"]);
	const only = keysFrom(shot, run, ["cap"]);
	expect(only.error.keys).toBeLessThan(40);
	const baked = edit(shot, only.command).shot;
	expect(parseShot(JSON.parse(JSON.stringify(baked))).ok).toBe(true);
	expect([baked.bodies.cap!.kind, baked.bodies.other!.kind]).toEqual(["animated", "active"]);
	const i = run.scene.ids.indexOf("cap");
	for (let frame = 1; frame <= 48; frame++) {
		const { translation } = worldPose(baked, "cap", tickOfFrame(baked.settings, frame));
		const off = Math.hypot(...translation.map((v, k) => v - posesAt(run.store, frame)![7 * i + k]!));
		expect(off).toBeLessThan(0.00301);
	}
	// The other one lands on it as before, near enough.
	const again = await runShot(baked, 48);
	const j = again.scene.ids.indexOf("other");
	expect(Math.abs(posesAt(again.store, 20)![7 * j + 1]! - posesAt(run.store, 20)![7 * j + 1]!)).toBeLessThan(0.05);
	expect(edit(baked, unbake(["cap"])).shot).toEqual(shot);
});

/** A broken block and a stack of copies that fall onto the ground. */
const falling = () =>
	shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("block", "box", { width: 0.6, height: 0.6, depth: 0.6 }, [2, 1, 0]),
		setFracture("cut", { object: "block", method: "voronoi", options: { count: 6 } }),
		shape("stone", "box", { width: 0.2, height: 0.2, depth: 0.2 }, [-3, 0.1, 0]),
		addArray({
			id: "heap",
			name: "heap",
			source: { kind: "array", sources: ["stone"], layout: "grid", options: { columns: 2, layers: 1, rows: 1, stepX: 0.5 } },
		}),
		placeObject("heap", { translation: [0, 1.5, 0] }),
		setBody(["block", "heap"], { kind: "active" }),
		setSettings({ lastFrame: 30 }),
	);

test("pieces and copies get keys of their own: they follow them in their object, can be corrected, and go back", async () => {
	const shot = falling();
	const run = await runShot(shot);
	const copy = run.scene.ids.find((id) => id.startsWith("heap:"))!;
	const piece = run.scene.ids.find((id) => id.startsWith("cut:"))!;
	const made = keysFrom(shot, run, [copy, piece], 30);
	expect(made.baked).toEqual(run.scene.ids.filter((id) => id === copy || id === piece));
	const baked = edit(shot, made.command).shot;
	expect(parseShot(JSON.parse(JSON.stringify(baked)))).toMatchObject({ ok: true, value: baked });
	expect(
		bakedThings(baked)
			.map(({ id }) => id)
			.sort(),
	).toEqual([piece, copy].sort());
	const { bodies } = await buildBodies(await makeTestWorkshop(), baked);
	const at = (of: Shot, id: string, frame: number) =>
		bodyPose(of, bodies.find((body) => body.id === id)!, tickOfFrame(of.settings, frame)).translation;
	const kinds = new Map(bodies.map(({ id, settings }) => [id, settings.kind]));
	expect([kinds.get(copy), kinds.get(piece), kinds.get("heap:1")]).toEqual(["animated", "animated", "active"]);
	for (const id of [copy, piece])
		for (const frame of [1, 12, 30])
			expect(Math.hypot(...at(baked, id, frame).map((v, k) => v - run.at(id, frame)[k]!))).toBeLessThan(0.00301);
	// The others fall as they did; what follows keys is where its keys have it.
	const again = await runShot(baked);
	expect(Math.hypot(...again.at(copy, 20).map((v, k) => v - run.at(copy, 20)[k]!))).toBeLessThan(0.0031);
	expect(again.at("heap:1", 20)[1]).toBeCloseTo(run.at("heap:1", 20)[1], 2);
	// Keys are counted in the object: where it goes, they go along.
	const moved = edit(baked, placeObject("heap", { translation: [5, 1.5, 0] })).shot;
	expect(at(moved, copy, 12)[0] - at(baked, copy, 12)[0]).toBeCloseTo(5, 9);
	// A correction moves it at its frame alone, and makes stale what comes after.
	const tick = (frame: number) => tickOfFrame(shot.settings, frame);
	const layered = [
		addLayer(copy, "Higher", [tick(10), tick(20)]),
		setKey(copy, tick(15), { translation: [0, 0.25, 0] }, undefined, 0),
	].reduce((now, command) => edit(now, command).shot, baked);
	expect(at(layered, copy, 15)[1] - at(baked, copy, 15)[1]).toBeCloseTo(0.25, 9);
	expect(at(layered, copy, 8)).toEqual(at(baked, copy, 8));
	const [before, after] = [frameHashes(baked), frameHashes(layered)];
	expect([before[8] === after[8], before[14] === after[14]]).toEqual([true, false]);
	expect(edit(layered, unbake([copy, piece])).shot).toEqual(shot);
	expect(edit(baked, removeFracture("cut")).shot.motions).toEqual({ [copy]: baked.motions![copy] });
	expect(edit(baked, removeObjects(["heap"])).shot.motions).toEqual({ [piece]: baked.motions![piece] });
});

test("a picked object means all of its pieces; more keys than a shot should hold are refused", async () => {
	const shot = falling();
	const run = await runShot(shot, 12);
	expect(keysFrom(shot, run, ["block"], 12).baked).toEqual(run.scene.ids.filter((id) => id.startsWith("cut:")));
	expect(keysFrom(shot, run, ["stone", "heap"], 12)).toMatchObject({
		baked: run.scene.ids.filter((id) => id.startsWith("heap:")),
		left: ["stone"],
	});
	const many = bakeKeys(
		shot,
		Array.from({ length: 30_000 }, () => ({ id: "heap:0" })),
		{ bodies: 30_000, chunks: [{ ...run.store.chunks[0]!, poses: new Float32Array(30_000 * 7 * run.store.chunks[0]!.frames) }] },
		["heap:0"],
		{ firstFrame: 1, lastFrame: 12 },
		{ way: "every", frames: 1 },
		"Take 1",
	);
	expect(many.ok ? "" : many.problems[0]!.message).toMatch(/at most 100,000/);
});

test("what hangs in a parent of another size is baked to where it was", async () => {
	const shot = shotOf(
		shape("frame", "box", { width: 0.1, height: 0.1, depth: 0.1 }, [1, 3, 0]),
		shape("weight", "box", { width: 0.2, height: 0.2, depth: 0.2 }, [0.5, 0, 0]),
		setBody(["weight"], { kind: "active" }),
		setSettings({ lastFrame: 10 }),
	);
	const nested = {
		...shot,
		objects: {
			...shot.objects,
			frame: { ...shot.objects.frame!, scale: [2, 2, 2] as const },
			weight: { ...shot.objects.weight!, parent: "frame" },
		},
	};
	const run = await runShot(nested);
	const baked = edit(nested, keysFrom(nested, run, ["weight"], 10).command).shot;
	expect(worldPose(baked, "weight", tickOfFrame(baked.settings, 10)).translation[0]).toBeCloseTo(run.at("weight", 10)[0], 6);
});
