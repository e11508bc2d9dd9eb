import { WebIO } from "@gltf-transform/core";
import { buildBodies } from "../bodies";
import { addChunk, dustAt, EventKind, encodeChunk, type FrameStore, isBreak } from "../cache";
import { hashBytes } from "../common";
import { exportTake, TAKE_FORMATS } from "../formats";
import type { OneFileFormat } from "../formats/types";
import { addBondSet, setBody, setFracture, setSettings } from "../shot";
import { makeTestWorkshop, shape, shotOf } from "../testing";
import { type Checkpoint, decodeCheckpoint, encodeCheckpoint, makeScene, rapierEngine, simulate } from ".";

const SMALL = 0.42;
const shot = (dust: number) =>
	shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("wall", "box", { width: 2, height: 1.5, depth: 0.3 }, [0, 0.75, 0]),
		setFracture("f", { object: "wall", method: "voronoi", options: { count: 80, seed: 3, spread: "random" } }),
		setBody(["wall"], { kind: "active" }),
		addBondSet("b", {
			name: "Bonds",
			options: { on: "wall/*", foot: "touching", factor: 0.3, dust, dustAfter: 0.25 },
			changes: [],
			hidden: false,
		}),
		shape("ball", "ball", { radius: 0.2, detail: 3 }, [0, 0.8, 1.5]),
		setBody(["ball"], { kind: "active", mass: 200, velocity: [0, 0, -14] }),
		setSettings({ lastFrame: 72 }),
	);

async function run(dust: number, from?: Checkpoint) {
	const workshop = await makeTestWorkshop();
	const { bodies } = await buildBodies(workshop, shot(dust));
	const scene = await makeScene(workshop, shot(dust), bodies);
	let store: FrameStore = { bodies: scene.shown, chunks: [] };
	const checkpoints: Checkpoint[] = [];
	await simulate(scene, rapierEngine, {
		...(from && { from }),
		onChunk: (chunk, checkpoint) => {
			store = addChunk(store, chunk);
			if (checkpoint) checkpoints.push(decodeCheckpoint(encodeCheckpoint(checkpoint)));
		},
	});
	return { scene, bodies, store, checkpoints };
}

test("small pieces that have come off turn to dust a quarter of a second later; others never do", async () => {
	const { scene, store } = await run(SMALL);
	const dust = dustAt(store);
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
	expect(dustAt((await run(0)).store).size).toBe(0);
});

test("a run that goes on from a checkpoint makes the same dust, to the byte", async () => {
	const whole = await run(SMALL);
	const rest = await run(SMALL, whole.checkpoints[0]!);
	const hashes = (store: FrameStore) => store.chunks.map((chunk) => hashBytes(encodeChunk(chunk)));
	expect(hashes(rest.store)).toEqual(hashes(whole.store).slice(1));
});

test("dust leaves the files: sized to nothing in GLB, invisible in USD, a point in sequences", async () => {
	const { scene, bodies, store } = await run(SMALL);
	const [first] = [...dustAt(store)];
	const [i, frame] = first!;
	const take = scene.ids.map((id, n) => ({ id, path: scene.paths[n]! }));
	const made = exportTake(shot(SMALL), bodies, take, store, { firstFrame: 1, lastFrame: 72 }, { way: "every", frames: 1 });
	const format = (id: string) => TAKE_FORMATS.find((one) => one.id === id) as OneFileFormat;
	const glb = await new WebIO().readBinary(await format("glb").write(made, {}));
	const channels = glb.getRoot().listAnimations()[0]!.listChannels();
	const own = channels.find((channel) => channel.getTargetNode()!.getName() === scene.paths[i] && channel.getTargetPath() === "scale")!;
	expect(Array.from(own.getSampler()!.getInput()!.getArray()!)).toEqual([0, Math.fround((frame - 1) / 24)]);
	expect(Array.from(own.getSampler()!.getOutput()!.getArray()!)).toEqual([1, 1, 1, 0, 0, 0]);
	expect(channels.filter((channel) => channel.getTargetPath() === "scale").length).toBe(dustAt(store).size);
	const usd = Buffer.from(await format("usda").write(made, {})).toString();
	expect(usd.match(/"invisible"/g)!.length).toBe(dustAt(store).size);
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
