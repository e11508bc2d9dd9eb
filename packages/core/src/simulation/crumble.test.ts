import { WebIO } from "@gltf-transform/core";
import { buildBodies } from "../bodies";
import { withCrumbs } from "../bonds";
import { addChunk, crumbledAt, EventKind, encodeChunk, type FrameStore, isBreak, POSE_STRIDE, posesAt } from "../cache";
import { hashBytes } from "../common";
import { exportTake, TAKE_FORMATS } from "../formats";
import { isThere } from "../formats/posed";
import type { OneFileFormat } from "../formats/types";
import { quatAt, rotate, tripleAt, vec3 } from "../maths";
import { addBondSet, setBody, setFracture, setSettings } from "../shot";
import { makeTestWorkshop, shape, shotOf } from "../testing";
import {
	absentAt,
	type Checkpoint,
	decodeCheckpoint,
	encodeCheckpoint,
	findStartOverlaps,
	Kind,
	makeScene,
	overlapsAt,
	rapierEngine,
	simulate,
} from ".";

const SMALL = 0.42;
const shot = (dust: number, leaves: Leaves = "nothing") =>
	shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("wall", "box", { width: 2, height: 1.5, depth: 0.3 }, [0, 0.75, 0]),
		setFracture("f", { object: "wall", method: "voronoi", options: { count: 80, seed: 3, spread: "random" } }),
		setBody(["wall"], { kind: "active" }),
		addBondSet("b", {
			name: "Bonds",
			options: { on: "wall/*", foot: "touching", factor: 0.3, dust, dustAfter: 0.25, leaves, stones: 3 },
			changes: [],
			hidden: false,
		}),
		shape("ball", "ball", { radius: 0.2, detail: 3 }, [0, 0.8, 1.5]),
		setBody(["ball"], { kind: "active", mass: 200, velocity: [0, 0, -14] }),
		setSettings({ lastFrame: 72 }),
	);

type Leaves = "nothing" | "stones";
/** The whole run, made once for all tests. */
const runs = new Map<string, ReturnType<typeof run>>();
function wholeRun(dust: number, leaves: Leaves = "nothing"): ReturnType<typeof run> {
	const key = `${dust} ${leaves}`;
	const made = runs.get(key) ?? run(dust, undefined, leaves);
	runs.set(key, made);
	return made;
}

async function run(dust: number, from?: Checkpoint, leaves: Leaves = "nothing") {
	const workshop = await makeTestWorkshop();
	const made = shot(dust, leaves);
	const { bodies } = await buildBodies(workshop, made);
	const scene = await makeScene(workshop, made, bodies);
	let store: FrameStore = { bodies: scene.shown, chunks: [] };
	const checkpoints: Checkpoint[] = [];
	await simulate(scene, rapierEngine, {
		...(from && { from }),
		onChunk: (chunk, checkpoint) => {
			store = addChunk(store, chunk);
			if (checkpoint) checkpoints.push(decodeCheckpoint(encodeCheckpoint(checkpoint)));
		},
	});
	return { workshop, made, scene, bodies, store, checkpoints };
}

test("small pieces that have come off turn to dust a quarter of a second later; others never do", async () => {
	const { scene, store } = await wholeRun(SMALL);
	const dust = crumbledAt(store);
	expect(dust.size).toBeGreaterThan(2);
	const broke = new Map<number, number>();
	for (const { events } of store.chunks)
		events.kind.forEach((kind, e) => {
			if (isBreak(kind)) for (const i of [events.a[e]!, events.b[e]!]) broke.set(i, Math.max(broke.get(i) ?? 0, events.frame[e]!));
		});
	for (const [i, frame] of dust) {
		expect(scene.ids[i]!.startsWith("f:")).toBe(true);
		expect(scene.size[i]!).toBeLessThanOrEqual(SMALL);
		// Six frames after its last bond went, or a frame later where that was within a frame.
		expect(frame - broke.get(i)!).toBeGreaterThanOrEqual(6);
		expect(frame - broke.get(i)!).toBeLessThanOrEqual(7);
	}
	const all = store.chunks.flatMap(({ events }) => [...events.kind].map((kind, e) => ({ kind, a: events.a[e]!, value: events.value[e]! })));
	for (const { a, value } of all.filter(({ kind }) => kind === EventKind.Dust)) expect(value).toBeCloseTo(scene.mass[a]!, 3);
	expect(crumbledAt((await wholeRun(0)).store).size).toBe(0);
});

test.each(["nothing", "stones"] as const)("a run that goes on from a checkpoint crumbles to %s the same, to the byte", async (leaves) => {
	const whole = await wholeRun(SMALL, leaves);
	const rest = await run(SMALL, whole.checkpoints[0]!, leaves);
	const hashes = (store: FrameStore) => store.chunks.map((chunk) => hashBytes(encodeChunk(chunk)));
	expect(hashes(rest.store)).toEqual(hashes(whole.store).slice(1));
	// What is yet to come, too: all that the engine keeps.
	expect(rest.checkpoints.map((one) => hashBytes(one.engine))).toEqual(whole.checkpoints.slice(1).map((one) => hashBytes(one.engine)));
});

test("dust leaves the files: sized to nothing in GLB, invisible in USD, a point in sequences", async () => {
	const { scene, bodies, store } = await wholeRun(SMALL);
	const [first] = [...crumbledAt(store)];
	const [i, frame] = first!;
	const take = scene.ids.map((id, n) => ({ id, path: scene.paths[n]! }));
	const made = exportTake(
		{ shot: shot(SMALL), bodies, takeBodies: take, store },
		{ range: { firstFrame: 1, lastFrame: 72 }, keys: { way: "every", frames: 1 } },
	);
	const format = (id: string) => TAKE_FORMATS.find((one) => one.id === id) as OneFileFormat;
	const glb = await new WebIO().readBinary(await format("glb").write(made, {}));
	const channels = glb.getRoot().listAnimations()[0]!.listChannels();
	const own = channels.find((channel) => channel.getTargetNode()!.getName() === scene.paths[i] && channel.getTargetPath() === "scale")!;
	expect(Array.from(own.getSampler()!.getInput()!.getArray()!)).toEqual([0, Math.fround((frame - 1) / 24)]);
	expect(Array.from(own.getSampler()!.getOutput()!.getArray()!)).toEqual([1, 1, 1, 0, 0, 0]);
	expect(channels.filter((channel) => channel.getTargetPath() === "scale").length).toBe(crumbledAt(store).size);
	const usd = Buffer.from(await format("usda").write(made, {})).toString();
	expect(usd.match(/"invisible"/g)!.length).toBe(crumbledAt(store).size);
	const ply = TAKE_FORMATS.find(({ id }) => id === "obj-sequence") as never as {
		frame: (scene: typeof made, frame: number) => { bytes: Uint8Array };
	};
	const places = (at: number) => {
		const text = Buffer.from(ply.frame(made, at).bytes).toString();
		const block = text.slice(text.indexOf(`o ${scene.paths[i]!}\n`)).split("\n");
		return new Set(
			block.slice(
				1,
				block.findIndex((line, n) => n > 1 && !line.startsWith("v ")),
			),
		);
	};
	expect(places(frame - 1).size).toBeGreaterThan(3);
	expect(places(frame).size).toBe(1);
});

test("stones fill the room of their piece, weigh what it did, and take over its momentum and its spin", async () => {
	const { scene, bodies, store } = await wholeRun(SMALL, "stones");
	const gone = crumbledAt(store);
	expect(gone.size).toBeGreaterThan(2);
	expect(scene.shown).toBe(bodies.length + scene.crumbOf.filter((piece) => piece >= 0).length);
	const stonesOf = (piece: number) => [...scene.crumbOf.keys()].filter((i) => scene.crumbOf[i] === piece);
	const sum = (list: readonly number[], of: (i: number) => number) => list.reduce((total, i) => total + of(i), 0);
	const place = (i: number, frame: number) => {
		const at = posesAt(store, frame)!.subarray(POSE_STRIDE * i, POSE_STRIDE * (i + 1));
		return vec3.add([at[0]!, at[1]!, at[2]!], rotate([at[3]!, at[4]!, at[5]!, at[6]!], tripleAt(scene.centre, i)));
	};
	let free = 0;
	for (const [piece, frame] of gone) {
		const stones = stonesOf(piece);
		expect(stones.length).toBeGreaterThan(1);
		expect(sum(stones, (i) => scene.mass[i]!)).toBeCloseTo(scene.mass[piece]!, 9);
		const middle = (at: number) => [0, 1, 2].map((k) => sum(stones, (i) => scene.mass[i]! * place(i, at)[k]!) / scene.mass[piece]!);
		// While they are its parts they go with it, and where it crumbles they are where it was.
		for (const at of [1, frame - 1, frame])
			for (const [k, value] of middle(at).entries()) expect(value).toBeCloseTo(place(piece, at)[k]!, 4);
		// In free fall its middle goes on as before; what lies on others is slowed by them.
		if (frame + 2 > 72) continue;
		const [before, now, after] = [frame - 1, frame, frame + 1].map(middle) as [number[], number[], number[]];
		const turn = [0, 1, 2].map((k) => after[k]! - 2 * now[k]! + before[k]!);
		if (Math.hypot(turn[0]!, turn[1]! + 9.81 / 24 ** 2, turn[2]!) < 0.003) free++;
	}
	expect(free).toBeGreaterThan(0);
	// Whatever has not crumbled has left no stones: they go with their pieces to the end.
	for (const [i, piece] of scene.crumbOf.entries())
		if (piece >= 0 && !gone.has(piece)) expect(vec3.length(vec3.subtract(place(i, 72), place(piece, 72)))).toBeLessThan(scene.size[piece]!);
});

test("energy does not rise where pieces crumble, and their stones come to rest without sinking in", async () => {
	const { scene, store, workshop, made } = await wholeRun(SMALL, "stones");
	const moving = store.chunks.flatMap((chunk) => [...chunk.energy]);
	// Kinetic and potential energy of what is there; each mass counts once, in its piece or in its stones.
	const energy = moving.map((kinetic, n) => {
		const absent = absentAt(scene, store, n + 1);
		const poses = posesAt(store, n + 1)!;
		const height = (i: number) =>
			poses[POSE_STRIDE * i + 1]! + rotate(quatAt(poses.subarray(POSE_STRIDE * i + 3), 0), tripleAt(scene.centre, i))[1];
		return scene.ids.reduce(
			(sum, _, i) => (scene.kind[i] === Kind.Active && absent[i] === 0 ? sum + scene.mass[i]! * 9.81 * height(i) : sum),
			kinetic,
		);
	});
	for (const frame of new Set(crumbledAt(store).values()))
		expect(energy[frame - 1]! - energy[frame - 2]!).toBeLessThan(0.01 * moving[frame - 2]!);
	expect(await findStartOverlaps(scene, rapierEngine)).toEqual([]);
	const deep = await overlapsAt(scene, rapierEngine, store, 72, 0.02);
	const stones = deep.filter(({ a, b }) => scene.crumbOf[a]! >= 0 || scene.crumbOf[b]! >= 0);
	expect(stones).toEqual([]);
	expect(workshop && made.name).toBe("Test");
});

test("stones are in the files from the frame on in which they come, and no others", async () => {
	const { scene, bodies, store, workshop, made: stoned } = await wholeRun(SMALL, "stones");
	const gone = crumbledAt(store);
	const take = scene.ids.map((id, n) => ({ id, path: scene.paths[n]! }));
	const all = await withCrumbs(workshop, stoned, bodies);
	expect(all.map(({ id }) => id)).toEqual(scene.ids);
	const made = exportTake(
		{ shot: stoned, bodies: all, takeBodies: take, store },
		{ range: { firstFrame: 1, lastFrame: 72 }, keys: { way: "every", frames: 1 } },
	);
	const come = [...scene.crumbOf.keys()].filter((i) => gone.has(scene.crumbOf[i]!));
	expect(made.items.filter(({ comesAt }) => comesAt !== undefined).map(({ path }) => path)).toEqual(come.map((i) => scene.paths[i]));
	const format = (id: string) => TAKE_FORMATS.find((one) => one.id === id) as OneFileFormat;
	const glb = await new WebIO().readBinary(await format("glb").write(made, {}));
	const i = come[0]!;
	const frame = gone.get(scene.crumbOf[i]!)!;
	const scale = glb
		.getRoot()
		.listAnimations()[0]!
		.listChannels()
		.find((channel) => channel.getTargetNode()!.getName() === scene.paths[i] && channel.getTargetPath() === "scale")!
		.getSampler()!;
	expect(Array.from(scale.getInput()!.getArray()!)).toEqual([0, Math.fround((frame - 1) / 24)]);
	expect(Array.from(scale.getOutput()!.getArray()!)).toEqual([0, 0, 0, 1, 1, 1]);
	const usd = Buffer.from(await format("usda").write(made, {})).toString();
	const own = usd.slice(usd.indexOf("stone_1"));
	const seen = own.slice(own.indexOf("visibility.timeSamples"));
	expect(seen.slice(0, seen.indexOf("}"))).toMatch(/1: "invisible",\s+\d+: "inherited"/);
	const lines = Buffer.from(await format("jsonl").write(made, {})).toString();
	expect(lines.match(/"event":"crumbled"/g)!.length).toBe(gone.size);
	expect(isThere(made.items.find(({ path }) => path === scene.paths[i])!, frame - 1)).toBe(false);
});
