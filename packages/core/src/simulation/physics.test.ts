import { buildBodies } from "../bodies";
import { POSE_STRIDE } from "../cache";
import { edit, setBody, setFracture, setGravity, setKey, setSettings } from "../shot";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { frameHashes, makeScene, overlapsAt, rapierEngine, simulate } from ".";

const ball = (id: string, y: number, radius = 0.5) => shape(id, "ball", { radius, detail: 3 }, [0, y, 0]);
const ground = [shape("ground", "ground", {}), setBody(["ground"], { kind: "passive" })];

test("a body in free fall follows ½ g t²", async () => {
	const run = await runShot(shotOf(ball("ball", 100), setBody(["ball"], { kind: "active" }), setSettings({ lastFrame: 49 })));
	for (const frame of [13, 25, 49]) {
		const t = (frame - 1) / 24;
		// Steps of a quarter of 1/120 s, speed first: late by g t dt / 2.
		expect(run.at("ball", frame)[1]).toBeCloseTo(100 - (9.81 * t * t) / 2 - (9.81 * t) / 120 / 4 / 2, 3);
	}
});

test("frames of 24, 25, 30 and 60 a second show the same motion", async () => {
	const heights = [];
	for (const fps of [24, 25, 30, 60]) {
		const run = await runShot(shotOf(ball("ball", 10), setBody(["ball"], { kind: "active" }), setSettings({ fps, lastFrame: fps + 1 })));
		heights.push(run.at("ball", fps + 1)[1]);
	}
	for (const height of heights) expect(height).toBeCloseTo(heights[0]!, 4);
});

test("time scale slows the motion and nothing else: half the time scale, the same place in twice the time", async () => {
	const shot = (timeScale: number) =>
		shotOf(ball("ball", 10), setBody(["ball"], { kind: "active", velocity: [2, 0, 0] }), setSettings({ timeScale, lastFrame: 49 }));
	const life = await runShot(shot(1));
	const slow = await runShot(shot(0.5));
	const [a, b] = [life.at("ball", 25), slow.at("ball", 49)];
	expect(b[0]).toBeCloseTo(a[0], 4);
	expect(b[1]).toBeCloseTo(a[1], 1);
});

test.each([0.2, 0.4, 0.8])("a block that slides with friction %d stops after v² / 2 μ g", async (friction) => {
	const run = await runShot(
		shotOf(
			...ground,
			shape("block", "box", { width: 1, height: 0.3, depth: 1 }, [0, 0.15, 0]),
			setBody(["ground", "block"], { friction, bounce: 0 }),
			setBody(["block"], { kind: "active", velocity: [4, 0, 0] }),
		),
	);
	const way = run.at("block", 120)[0];
	expect(way / (16 / (2 * friction * 9.81))).toBeCloseTo(1, 1);
	expect(Math.abs(run.speed("block", 120)[0])).toBeLessThan(0.01);
});

test("momentum is kept when two bodies meet in weightlessness, and energy where they bounce fully", async () => {
	const run = await runShot(
		shotOf(
			shape("one", "ball", { radius: 0.5, detail: 3 }, [-2, 0, 0]),
			shape("two", "ball", { radius: 0.5, detail: 3 }, [2, 0, 0]),
			setBody(["one"], { kind: "active", mass: 3, velocity: [4, 0, 0], bounce: 1, friction: 0 }),
			setBody(["two"], { kind: "active", mass: 1, velocity: [0, 0, 0], bounce: 1, friction: 0 }),
			setSettings({ gravity: [0, 0, 0], lastFrame: 60 }),
		),
	);
	const [v1, v2] = [run.speed("one", 60)[0], run.speed("two", 60)[0]];
	expect(3 * v1 + v2).toBeCloseTo(12, 2);
	// Elastic: (m1 − m2) / (m1 + m2) v and 2 m1 / (m1 + m2) v
	expect(v1).toBeCloseTo(2, 1);
	expect(v2).toBeCloseTo(6, 1);
});

test("a plate that spins freely keeps its energy and its momentum about the centre of mass", async () => {
	const run = await runShot(
		shotOf(
			shape("plate", "box", { width: 1, height: 0.1, depth: 0.6 }, [0, 0, 0]),
			setBody(["plate"], { kind: "active", spin: [0, 6, 0.02] }),
			setSettings({ gravity: [0, 0, 0], lastFrame: 72 }),
		),
	);
	const energies = run.chunks.flatMap((chunk) => [...chunk.energy]);
	expect(energies[71]! / energies[1]!).toBeCloseTo(1, 2);
	expect(run.at("plate", 72).every((v) => Math.abs(v) < 1e-4)).toBe(true);
});

/** 100 blocks of 10 kg that wait to be touched, and a 500 kg ball at 20 m/s. */
const wall = (...more: ReturnType<typeof setBody>[]) => {
	const commands = [...ground];
	for (let y = 0; y < 10; y++)
		for (let x = 0; x < 10; x++)
			commands.push(shape(`b${x}-${y}`, "box", { width: 0.498, height: 0.249, depth: 0.248 }, [(x - 4.5) * 0.5, y * 0.25 + 0.1245, 0]));
	const blocks = commands.slice(2).map((_, i) => `b${i % 10}-${Math.floor(i / 10)}`);
	return shotOf(
		...commands,
		setBody(blocks, { kind: "active", mass: 10, wake: { when: "touched", leastSpeed: 0.5 } }),
		shape("ball", "ball", { radius: 0.5, detail: 3 }, [0, 1.2, -3]),
		...more,
	);
};

test("a wall that gives way lets a heavy ball through instead of throwing it back", async () => {
	const run = await runShot(wall(setBody(["ball"], { kind: "active", mass: 500, velocity: [0, 1, 20] })), 8);
	const speed = run.speed("ball", 8)[2];
	expect(speed).toBeGreaterThan(14);
	expect(speed).toBeLessThan(20);
	// What the ball lost, the blocks have: nothing has touched the ground for long yet.
	const blocks = run.scene.ids.filter((id) => id.startsWith("b") && id !== "ball");
	const momentum = 500 * speed + blocks.reduce((sum, id) => sum + 10 * run.speed(id, 8)[2], 0);
	expect(momentum / 10_000).toBeCloseTo(1, 1);
	expect(Math.abs(momentum / 10_000 - 1)).toBeLessThan(0.02);
});

test("a body that has come to rest takes the whole of a blow", async () => {
	const run = await runShot(
		shotOf(
			shape("one", "ball", { radius: 0.5, detail: 3 }, [-4, 0, 0]),
			shape("two", "ball", { radius: 0.5, detail: 3 }, [2, 0, 0]),
			setBody(["one", "two"], { kind: "active", mass: 2, bounce: 0, friction: 0 }),
			setBody(["one"], { velocity: [2, 0, 0] }),
			setSettings({ gravity: [0, 0, 0], lastFrame: 96 }),
		),
	);
	// Met after 2.5 s; both go on together at half the speed.
	expect(run.speed("one", 90)[0]).toBeCloseTo(1, 2);
	expect(run.speed("two", 90)[0]).toBeCloseTo(1, 2);
});

test("a slow touch below the least speed wakes nothing", async () => {
	const run = await runShot(wall(setBody(["ball"], { kind: "active", mass: 5, velocity: [0, 0, 0] })), 30);
	expect(run.chunks.flatMap((chunk) => [...chunk.events.kind]).filter((kind) => kind === 1)).toHaveLength(0);
	expect(run.at("b5-9", 30)).toEqual([expect.closeTo(0.25, 5), expect.closeTo(2.3745, 5), 0]);
});

test("a keyed striker wakes what it meets at the frame it meets it, and only from the least speed on", async () => {
	const keyed = (frames: number) =>
		shotOf(
			...ground,
			shape("block", "box", { width: 1, height: 1, depth: 0.2 }, [0, 0.5, 0]),
			setBody(["block"], { kind: "active", wake: { when: "touched", leastSpeed: 1 } }),
			shape("ram", "box", { width: 0.5, height: 0.5, depth: 0.5 }, [0, 0.5, -3]),
			setBody(["ram"], { kind: "animated" }),
			setKey("ram", 0, { translation: [0, 0.5, -3] }),
			setKey("ram", frames * 50, { translation: [0, 0.5, 1] }),
		);
	const fast = await runShot(keyed(24), 24); // 4 m/s: the 2.65 m to the block take 15.9 frames
	const wakes = fast.chunks.flatMap((chunk) =>
		[...chunk.events.kind.keys()].filter((k) => chunk.events.kind[k] === 1).map((k) => chunk.events.frame[k]),
	);
	expect(wakes).toEqual([17]);
	expect(fast.at("block", 16)[2]).toBe(0);
	expect(fast.at("block", 24)[2]).toBeGreaterThan(0.8);
	const slow = await runShot(keyed(120), 96); // 0.8 m/s
	expect(slow.at("block", 96)[2]).toBe(0);
});

test("a body wakes at its frame and not before", async () => {
	const run = await runShot(shotOf(ball("ball", 5), setBody(["ball"], { kind: "active", wake: { when: "frame", frame: 10 } })), 30);
	expect(run.at("ball", 10)[1]).toBe(5);
	expect(run.at("ball", 11)[1]).toBeLessThan(5);
	const t = 20 / 24;
	expect(run.at("ball", 30)[1]).toBeCloseTo(5 - (9.81 * t * t) / 2, 1);
});

test.each([1, 5, 7])("a broken block lands, comes to rest, and nothing flies off or falls through (seed %i)", async (seed) => {
	const run = await runShot(
		shotOf(
			...ground,
			shape("block", "box", { width: 2, height: 1, depth: 1 }, [0, 1, 0]),
			setBody(["block"], { kind: "active" }),
			setFracture("f", { object: "block", method: "voronoi", options: { count: 120, seed } }),
			setSettings({ lastFrame: 192 }),
		),
	);
	const pieces = run.scene.ids.filter((id) => id.startsWith("f:"));
	const fall = Math.sqrt(2 * 9.81 * 1.5); // the fastest that anything can fall
	for (let frame = 2; frame <= 192; frame += 5) for (const id of pieces) expect(Math.hypot(...run.speed(id, frame))).toBeLessThan(fall);
	for (const id of pieces) {
		expect(run.at(id, 192)[1]).toBeGreaterThan(0);
		expect(Math.hypot(...run.speed(id, 192))).toBeLessThan(0.02);
	}
	const energy = run.chunks.flatMap((chunk) => [...chunk.energy]);
	expect(energy[191]).toBeLessThan(0.5); // of 4.8 t that fell half a metre
	// With the four corners of a face that the engine takes by itself some of these rocked on and on, and pieces lay 25 mm in each other.
	const awake = run.chunks.flatMap((chunk) => [...chunk.awake]);
	expect(awake[191]).toBe(0);
	const deep = await overlapsAt(run.scene, rapierEngine, run.store, 192);
	expect(Math.max(0, ...deep.map(({ depth }) => depth))).toBeLessThan(0.006);
});

test("bodies that stand in each other at the start do not explode, and the ground still carries what lies deep in it", async () => {
	const run = await runShot(
		shotOf(
			...ground,
			shape("one", "box", { width: 1, height: 1, depth: 1 }, [0, 0.48, 0]),
			shape("two", "box", { width: 1, height: 1, depth: 1 }, [0.4, 0.5, 0.3]),
			setBody(["one", "two"], { kind: "active" }),
		),
		72,
	);
	for (let frame = 2; frame <= 72; frame++) for (const id of ["one", "two"]) expect(Math.hypot(...run.speed(id, frame))).toBeLessThan(0.6);
	expect(run.at("one", 72)[1]).toBeGreaterThan(0.45);
});

test("a thin pane stops a small fast ball that no single step would see it cross", async () => {
	const run = await runShot(
		shotOf(
			shape("pane", "panel", { width: 2, height: 2, thickness: 0.01 }, [0, 0, 0]),
			setBody(["pane"], { kind: "passive" }),
			shape("shot", "ball", { radius: 0.02, detail: 2 }, [0, 0, -2]),
			setBody(["shot"], { kind: "active", velocity: [0, 0, 60] }),
			setSettings({ gravity: [0, 0, 0] }),
		),
		24,
	);
	for (let frame = 1; frame <= 24; frame++) expect(run.at("shot", frame)[2]).toBeLessThan(0);
});

test("a body that falls out of the scene is reported once", async () => {
	const run = await runShot(shotOf(ball("ball", 0), setBody(["ball"], { kind: "active", velocity: [0, -40, 0] })), 96);
	const lost = run.chunks.flatMap((chunk) => [...chunk.events.kind].filter((kind) => kind === 2));
	expect(lost).toHaveLength(1);
});

test("a part of a collider that is too small to have a hull is no failure: its box stands in", async () => {
	const shot = shotOf(...ground, ball("ball", 3), setBody(["ball"], { kind: "active" }));
	const workshop = await makeTestWorkshop();
	const { bodies } = await buildBodies(workshop, shot);
	const scene = await makeScene(workshop, shot, bodies);
	const point = [0.1, 0.2, 0.3];
	const hulls = [Float32Array.from([...point, ...point, ...point, ...point]), Float32Array.from(bodies[1]!.mesh.positions)];
	const withCrumb = { ...scene, colliders: [scene.colliders[0]!, { ...scene.colliders[1]!, shape: { kind: "hulls" as const, hulls } }] };
	let last = 0;
	await simulate(withCrumb, rapierEngine, {
		until: 60,
		onChunk: ({ poses, frames }) => {
			last = poses[(frames - 1) * 2 * POSE_STRIDE + POSE_STRIDE + 1]!;
		},
	});
	expect(last).toBeGreaterThan(0.45);
	expect(last).toBeLessThan(1);
});

test("what may never rest stays awake; what may rest at once sleeps sooner", async () => {
	const awakeAt = async (frame: number, settings: Parameters<typeof setBody>[1]) => {
		const run = await runShot(
			shotOf(
				shape("ground", "ground", {}),
				setBody(["ground"], { kind: "passive" }),
				shape("crate", "box", { width: 0.5, height: 0.5, depth: 0.5 }, [0, 0.26, 0]),
				setBody(["crate"], { kind: "active", ...settings }),
			),
			frame,
		);
		return run.chunks.at(-1)!.awake.at(-1)!;
	};
	expect(await awakeAt(120, { restSpeed: 0 })).toBe(1);
	expect(await awakeAt(120, {})).toBe(0);
	expect(await awakeAt(24, { restAfter: 5 })).toBe(1);
});

test("gravity goes by its keys: off after a quarter of a second a fall goes on evenly, and what slept wakes when it comes back", async () => {
	const shot = shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		ball("high", 10),
		shape("crate", "box", { width: 0.5, height: 0.5, depth: 0.5 }, [3, 0.25, 0]),
		setBody(["high", "crate"], { kind: "active" }),
		setGravity([0, -9.81, 0], 0, true),
		setGravity([0, -9.81, 0], 300, true),
		setGravity([0, 0, 0], 301, true),
		setGravity([0, 0, 0], 2400, true),
		setGravity([5, 2, 0], 2401, true),
		setSettings({ lastFrame: 72 }),
	);
	const run = await runShot(shot);
	// The step that begins at the key, the 31st, still has it.
	expect(run.speed("high", 20)[1]).toBeCloseTo((-9.81 * 31) / 120, 3);
	expect(run.speed("high", 40)[1]).toBeCloseTo(run.speed("high", 20)[1], 3);
	expect(run.at("crate", 48)[0]).toBeCloseTo(3, 3);
	expect(run.at("crate", 72)[0]).toBeGreaterThan(4);
	// Its keys are part of what makes frames stale, from where they differ on.
	const other = edit(shot, setGravity([0, 1, 0], 2400, true)).shot;
	const [before, after] = [frameHashes(shot), frameHashes(other)];
	expect(before.findIndex((hash, k) => hash !== after[k])).toBeGreaterThan(5);
	expect(before.findIndex((hash, k) => hash !== after[k])).toBeLessThan(50);
});
