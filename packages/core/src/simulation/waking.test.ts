import { buildBodies } from "../bodies";
import { addChunk, type FrameStore, posesAt } from "../cache";
import { hashBytes } from "../common";
import { addObject, type Command, edit, placeObject, setBody, setKey, setSettings, setWorld, tickOfFrame } from "../shot";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { type Checkpoint, decodeCheckpoint, encodeCheckpoint, frameHashes, makeScene, rapierEngine, simulate } from ".";

const RATE = { fps: 24, firstFrame: 1 };
const ball = (id: string, at: [number, number, number], radius = 0.1): Command => shape(id, "ball", { radius, detail: 3 }, at);
const region = (id: string, at: [number, number, number], size: number): Command[] => [
	addObject({ id, name: id, source: { kind: "region", form: "box" }, translation: at }),
	placeObject(id, { scale: [size, size, size] }),
];
const along = (id: string, from: [number, number, number], to: [number, number, number], frames: number): Command[] => [
	setKey(id, 0, { translation: from }),
	setKey(id, tickOfFrame(RATE, 1 + frames), { translation: to }),
];

test("a region that moves wakes only what it meets fast enough", async () => {
	const field = [0, 1, 2, 3].map((x) => ball(`b${x}`, [x, 5, 0]));
	const wake = (leastSpeed: number) =>
		setBody(["b0", "b1", "b2", "b3"], { kind: "active", wake: { when: "region", region: "hook", leastSpeed } });
	// 3 m in a second, as far as the third ball.
	const hook = [...region("hook", [-1, 5, 0], 0.5), ...along("hook", [-1, 5, 0], [2, 5, 0], 24)];
	const quick = await runShot(shotOf(setSettings({ lastFrame: 49 }), ...field, ...hook, wake(2)));
	expect([0, 1, 2, 3].map((x) => quick.at(`b${x}`, 49)[1] < 4.9)).toEqual([true, true, true, false]);
	const slow = await runShot(shotOf(setSettings({ lastFrame: 49 }), ...field, ...hook, wake(4)));
	expect([0, 1, 2, 3].map((x) => slow.at(`b${x}`, 49)[1])).toEqual([5, 5, 5, 5]);
});

test("a keyed barrel is let go at frame 47 with the speed and the spin that its keys had", async () => {
	const turns = (frame: number) => {
		const angle = (frame - 1) * 0.1;
		return [0, 0, Math.sin(angle / 2), Math.cos(angle / 2)] as [number, number, number, number];
	};
	const at = (frame: number) => tickOfFrame(RATE, frame);
	const shot = shotOf(
		setSettings({ gravity: [0, 0, 0], lastFrame: 72 }),
		ball("barrel", [0, 0, 0]),
		...[1, 16, 31, 46, 61].flatMap((frame) => [
			setKey("barrel", at(frame), { translation: [(frame - 1) * 0.05, 0, 0], rotation: turns(frame) }),
		]),
		setBody(["barrel"], { kind: "active", wake: { when: "frame", frame: 47 } }),
	);
	const run = await runShot(shot);
	// While it follows its keys it stands exactly on them; then it goes on, 0.05 m a frame.
	expect(run.at("barrel", 31)[0]).toBeCloseTo(1.5, 6);
	expect(run.at("barrel", 47)[0]).toBeCloseTo(2.3, 5);
	expect(run.speed("barrel", 60)[0]).toBeCloseTo(0.05 * 24, 3);
	expect(run.speed("barrel", 72)[0]).toBeCloseTo(0.05 * 24, 3);
	const spin = run.scene.poseAt(0, 0).rotation;
	expect(spin[3]).toBeCloseTo(1, 6);
});

test("an active thing with keys that is free from the start takes the speed of its keys along", async () => {
	const run = await runShot(
		shotOf(
			setSettings({ gravity: [0, 0, 0], lastFrame: 25 }),
			ball("a", [0, 0, 0]),
			...along("a", [0, 0, 0], [0, 0, 4], 24),
			setBody(["a"], { kind: "active" }),
		),
	);
	expect(run.speed("a", 20)[2]).toBeCloseTo(4, 2);
});

test("a thing that was let go goes back to its keys: half a second's smooth way, then exactly on them, and no wake takes it away again", async () => {
	const at = (frame: number) => tickOfFrame(RATE, frame);
	const run = await runShot(
		shotOf(
			setSettings({ lastFrame: 72 }),
			ball("a", [0, 3, 0]),
			setKey("a", 0, { translation: [0, 3, 0] }),
			setKey("a", at(72), { translation: [7.1, 3, 0] }),
			setBody(["a"], { kind: "active", wake: { when: "frame", frame: 10 }, backAt: 30 }),
		),
	);
	expect(run.at("a", 9)[1]).toBeCloseTo(3, 6);
	// Twenty frames of fall: ½ g (20/24)².
	expect(run.at("a", 30)[1]).toBeCloseTo(3 - 0.5 * 9.81 * (20 / 24) ** 2, 1);
	const way = [31, 36, 41].map((frame) => run.at("a", frame)[1]);
	expect(way[1]).toBeGreaterThan(way[0]!);
	expect(way[2]).toBeGreaterThan(way[1]!);
	for (const frame of [43, 60, 72]) {
		expect(run.at("a", frame)[1]).toBeCloseTo(3, 5);
		expect(run.at("a", frame)[0]).toBeCloseTo((7.1 * (frame - 1)) / 71, 4);
	}
});

test("only touches by those that a rule names wake a body", async () => {
	const scene = (by: string) =>
		shotOf(
			setSettings({ gravity: [0, 0, 0], lastFrame: 25 }),
			ball("target", [0, 0, 0]),
			ball("hammer", [-1, 0, 0]),
			setBody(["hammer"], { kind: "active", velocity: [3, 0, 0] }),
			setBody(["target"], { kind: "active", wake: { when: "touched", leastSpeed: 0.5, by } }),
		);
	expect((await runShot(scene("hammer"))).at("target", 25)[0]).toBeGreaterThan(0.3);
	expect((await runShot(scene("chisel"))).at("target", 25)[0]).toBe(0);
});

test("bodies of two worlds pass through each other and fall by their own gravity", async () => {
	const scene = [
		setSettings({ lastFrame: 25 }),
		setWorld("moon", { name: "Moon", gravity: [0, -1.62, 0] }),
		ball("here", [0, 5, 0]),
		ball("there", [0, 5.05, 0]),
		setBody(["here"], { kind: "active" }),
	];
	const run = await runShot(shotOf(...scene, setBody(["there"], { kind: "active", world: "moon" })));
	expect(run.at("here", 25)[1]).toBeCloseTo(5 - 4.905, 1);
	expect(run.at("there", 25)[1]).toBeCloseTo(5.05 - 0.81, 2);
	// In one world they would have pushed each other apart sideways or up.
	expect(run.at("here", 25)[0]).toBeCloseTo(0, 6);
});

test("a ball rolls out as rolling resistance says: 5/7 c g", async () => {
	const [c, speed] = [0.08, 3];
	const run = await runShot(
		shotOf(
			shape("ground", "ground", {}),
			setBody(["ground"], { kind: "passive" }),
			ball("a", [0, 0.2, 0], 0.2),
			setBody(["a"], { kind: "active", friction: 1, rolling: c, velocity: [speed, 0, 0], spin: [0, 0, -speed / 0.2], collider: "sphere" }),
			setBody(["ground"], { kind: "passive", friction: 1 }),
			setSettings({ lastFrame: 49 }),
		),
	);
	const slowing = (run.speed("a", 13)[0] - run.speed("a", 37)[0]) / 1;
	expect(slowing / ((5 / 7) * c * 9.81)).toBeCloseTo(1, 1);
});

test("a run with forces, regions, followers and worlds goes on from a checkpoint with the same bytes", async () => {
	const shot = shotOf(
		setSettings({ lastFrame: 48 }),
		setWorld("moon", { name: "Moon", gravity: [0, -1.62, 0] }),
		addObject({
			id: "t",
			name: "t",
			source: { kind: "force", force: "turbulence", options: { strength: 8, ages: "between", youngest: 4, oldest: 40 } },
		}),
		...[0, 1, 2, 3, 4].map((x) => ball(`b${x}`, [0.3 * x, 1, 0])),
		setBody(["b0", "b1"], { kind: "active" }),
		setBody(["b2"], { kind: "active", world: "moon" }),
		...region("hook", [-1, 1, 0], 0.5),
		...along("hook", [-1, 1, 0], [2, 1, 0], 40),
		setBody(["b3"], { kind: "active", wake: { when: "region", region: "hook", leastSpeed: 0.1 } }),
		...along("b4", [1.2, 1, 0], [1.2, 2, 0], 30),
		setBody(["b4"], { kind: "active", wake: { when: "frame", frame: 10 }, backAt: 20 }),
	);
	const workshop = await makeTestWorkshop();
	const { bodies } = await buildBodies(workshop, shot);
	const run = async (from?: Checkpoint) => {
		let store: FrameStore = { bodies: bodies.length, chunks: [] };
		const checkpoints: Checkpoint[] = [];
		await simulate(await makeScene(workshop, shot, bodies), rapierEngine, {
			...(from && { from }),
			onChunk: (chunk, checkpoint) => {
				store = addChunk(store, chunk);
				if (checkpoint) checkpoints.push(checkpoint);
			},
		});
		return { store, checkpoints };
	};
	const whole = await run();
	const rest = await run(decodeCheckpoint(encodeCheckpoint(whole.checkpoints[0]!)));
	expect(rest.store.chunks[0]!.firstFrame).toBeGreaterThan(1);
	for (const frame of [40, 48]) expect(posesAt(rest.store, frame)).toEqual(posesAt(whole.store, frame));
	expect(hashBytes(encodeCheckpoint(rest.checkpoints.at(-1)!))).toBe(hashBytes(encodeCheckpoint(whole.checkpoints.at(-1)!)));
	// What the run depends on is in the hashes of its frames.
	const moved = edit(shot, placeObject("t", { translation: [1, 0, 0] })).shot;
	expect(frameHashes(moved)[0]).not.toBe(frameHashes(shot)[0]);
	const rekeyed = edit(shot, setKey("hook", tickOfFrame(RATE, 41), { translation: [3, 1, 0] })).shot;
	expect(frameHashes(rekeyed)[30]).not.toBe(frameHashes(shot)[30]);
});

test("what leans on it wakes it where the weight is more than the least force, and not where it is less", async () => {
	const fellWith = async (leastForce: number | undefined) => {
		// 24.5 kg of oak: 240 N, laid on gently.
		const shot = shotOf(
			shape("shelf", "box", { width: 1, height: 0.1, depth: 0.5 }, [0, 2, 0]),
			setBody(["shelf"], { kind: "active", wake: { when: "touched", leastSpeed: 5, ...(leastForce !== undefined && { leastForce }) } }),
			shape("load", "box", { width: 0.3, height: 0.34, depth: 0.1 }, [0, 2.2201, 0]),
			setBody(["load"], { kind: "active", mass: 24.5 }),
		);
		const run = await runShot(shot, 30);
		return 2 - run.at("shelf", 30)[1];
	};
	expect(await fellWith(undefined)).toBe(0);
	expect(await fellWith(400)).toBe(0);
	expect(await fellWith(150)).toBeGreaterThan(1);
});

describe("a simulation that starts later", () => {
	const START = 13;
	const field = (...more: Command[]) =>
		shotOf(
			setSettings({ lastFrame: 25, startFrame: START }),
			ball("free", [0, 5, 0]),
			ball("early", [1, 5, 0]),
			ball("late", [2, 5, 0]),
			setBody(["free", "early", "late"], { kind: "active" }),
			setBody(["early"], { wake: { when: "frame", frame: 5 } }),
			setBody(["late"], { wake: { when: "frame", frame: 20 } }),
			...more,
		);

	test("moves nothing by itself before, whatever wake rules say", async () => {
		const run = await runShot(field());
		for (const id of ["free", "early", "late"]) expect(run.at(id, START)[1]).toBe(5);
		const fallen = (frames: number) => 5 - (9.81 / 2) * (frames / 24) ** 2;
		// Half a substep more or less of a fall of 12 frames.
		for (const id of ["free", "early"]) expect(run.at(id, 25)[1]).toBeCloseTo(fallen(12), 1);
		expect(run.at("free", 25)).toEqual([0, run.at("early", 25)[1], 0]);
		expect(run.at("late", 20)[1]).toBe(5);
		expect(run.at("late", 25)[1]).toBeCloseTo(fallen(5), 1);
	});

	test("what waits for a touch or a region is not woken before", async () => {
		const run = await runShot(
			field(
				ball("touched", [0, 1, 0]),
				ball("inside", [0, 1, 2]),
				...region("zone", [0, 1, 2], 1),
				setBody(["touched"], { kind: "active", wake: { when: "touched", leastSpeed: 0.1, leastForce: 0, by: "" } }),
				setBody(["inside"], { kind: "active", wake: { when: "region", region: "zone", leastSpeed: 0 } }),
				// Through the waiting ball before the start, and back through it after.
				ball("hook", [-1, 1, 0]),
				setBody(["hook"], { kind: "animated" }),
				...[0, 8, 16, 24].map((frame, n) => setKey("hook", tickOfFrame(RATE, 1 + frame), { translation: [n % 2 === 0 ? -1 : 1, 1, 0] })),
			),
		);
		expect(run.at("touched", START)).toEqual([0, 1, 0]);
		expect(run.at("inside", START)).toEqual([0, 1, 2]);
		expect(run.at("touched", 25)[1]).toBeLessThan(0.99);
		expect(run.at("inside", 25)[1]).toBeLessThan(0.99);
	});

	test("moved to another frame, only frames from the earlier one on are stale", () => {
		const at = (startFrame: number) => frameHashes(edit(field(), setSettings({ startFrame })).shot);
		const [now, later] = [at(START), at(17)];
		expect(now.findIndex((hash, n) => hash !== later[n])).toBe(START - 1);
		// From the first frame on is as if nothing were set.
		const { startFrame: _, ...settings } = field().settings;
		expect(at(1)).toEqual(frameHashes({ ...field(), settings }));
	});
});
