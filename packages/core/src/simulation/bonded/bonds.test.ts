import { buildBodies } from "../../bodies";
import { type Chunk, EventKind, encodeChunk } from "../../cache";
import { hashBytes } from "../../common";
import {
	addBondSet,
	addObject,
	type BondSet,
	type Command,
	edit,
	type OptionValue,
	type ShotSettings,
	setBody,
	setFracture,
	setSettings,
} from "../../shot";
import { breaksOf, makeTestWorkshop, runShot, shape, shotOf } from "../../testing";
import { type Checkpoint, decodeCheckpoint, encodeCheckpoint, makeScene, overlapsAt, rapierEngine, simulate } from "..";

const bonds = (options: Record<string, OptionValue>): Command =>
	addBondSet("bonds", { name: "Bonds", options, changes: [], hidden: false } satisfies BondSet);
const given = (tension: number, shear: number, compression = 1000) => ({ strength: "given", tension, shear, compression, energy: 20 });
const ground = [shape("ground", "ground", {}), setBody(["ground"], { kind: "passive" })];

/** A block sawn across its length into slices, held at one end by another block. */
const sawn = (size: { width: number; height: number; depth: number }, at: [number, number, number], along: number[], count: number) => [
	shape("rod", "box", size, at),
	setFracture("rod-cut", { object: "rod", method: "slices", options: { axis: along[0] === 1 ? "x" : "y", count } }),
	setBody(["rod"], { kind: "active", density: 2400 }),
];

describe("a rod of 2 m that hangs: the stress at its root is ρ g L", () => {
	const root = (2400 * 9.81 * 2) / 1e6;
	const hang = (share: number) =>
		runShot(
			shotOf(
				shape("beam", "box", { width: 1, height: 0.2, depth: 1 }, [0, 3.1, 0]),
				setBody(["beam"], { kind: "passive" }),
				...sawn({ width: 0.1, height: 2, depth: 0.1 }, [0, 2, 0], [0], 10),
				bonds({ ...given(root * share, 1000), foot: "touching" }),
				setSettings({ lastFrame: 12 }),
			),
		);
	test("it holds with 2 % more strength than that", async () => {
		const run = await hang(1.02);
		expect(run.scene.bonds.count).toBe(10);
		expect(breaksOf(run)).toEqual([]);
		expect(run.at(run.scene.ids.at(-1)!, 12)).toEqual(run.at(run.scene.ids.at(-1)!, 1));
	});
	test("with 2 % less it comes off at the root, all in one piece", async () => {
		const run = await hang(0.98);
		const broke = breaksOf(run);
		expect(broke).toMatchObject([{ frame: 1, kind: EventKind.Pulled, b: "beam" }]);
		const fallen = run.scene.ids.filter((id) => id !== "beam").map((id) => run.at(id, 12)[1] - run.at(id, 1)[1]);
		expect(Math.max(...fallen) - Math.min(...fallen)).toBeLessThan(1e-5);
		expect(Math.max(...fallen)).toBeLessThan(-0.5);
	});
});

describe("a beam of 1 m held at one end: the stress at the wall is M / W", () => {
	// M = ρ g h² L² / 2, W = h³ / 6
	const edge = (3 * 2400 * 9.81 * 1) / 0.1 / 1e6;
	const beam = (share: number) =>
		runShot(
			shotOf(
				shape("wall", "box", { width: 0.4, height: 1, depth: 1 }, [-0.7, 2, 0]),
				setBody(["wall"], { kind: "passive" }),
				...sawn({ width: 1, height: 0.1, depth: 0.1 }, [0, 2, 0], [1], 8),
				bonds({ ...given(edge * share, 1000), foot: "touching" }),
				setSettings({ lastFrame: 3 }),
			),
		);
	test("5 % more holds", async () => expect(breaksOf(await beam(1.05))).toEqual([]));
	test("5 % less breaks, at the wall", async () => {
		expect(breaksOf(await beam(0.95))).toMatchObject([{ kind: EventKind.Pulled, b: "wall" }]);
	});
});

test.each([
	[1.02, 0],
	[0.98, 1],
])(
	"two equal halves that are pulled apart in the air part at strength × area: with %f of that strength %i bonds break",
	async (share, broken) => {
		const [edge, force] = [0.2, 5000];
		const pull = (half: number, newtons: number): Command =>
			addObject({
				id: `pull${half}`,
				name: `pull${half}`,
				source: { kind: "force", force: "push", options: { strength: newtons, along: "x", by: "force", on: `rod/0000${half}` } },
			});
		const run = await runShot(
			shotOf(
				...sawn({ width: 1, height: edge, depth: edge }, [0, 2, 0], [1], 2),
				bonds(given((share * force) / edge ** 2 / 1e6, 1000)),
				pull(1, -force),
				pull(2, force),
				setBody(["rod"], { velocity: [3, 1, 0] }),
				setSettings({ gravity: [0, 0, 0], lastFrame: 12 }),
			),
		);
		expect(run.scene.bonds.count).toBe(1);
		expect(breaksOf(run)).toHaveLength(broken);
		// Where: in the middle of their face, which goes on as it did while they part.
		for (const { frame, place } of breaksOf(run))
			[3, 1, 0].forEach((v, k) => {
				expect(place[k]).toBeCloseTo([0, 2, 0][k]! + (v * (frame - 1)) / 24, 3);
			});
	},
);

test("a bonded block in free fall bears no load: bonds of next to no strength hold, and it falls as one", async () => {
	const run = await runShot(
		shotOf(
			shape("block", "box", { width: 1, height: 1, depth: 1 }, [0, 60, 0]),
			setFracture("cut", { object: "block", method: "voronoi", options: { count: 40, seed: 3 } }),
			setBody(["block"], { kind: "active", spin: [0.4, 0.2, 0.1] }),
			bonds(given(1e-4, 1e-4)),
			setSettings({ lastFrame: 25 }),
		),
	);
	expect(breaksOf(run)).toEqual([]);
	const [first, last] = [run.scene.ids[0]!, run.scene.ids.at(-1)!];
	const apart = (frame: number) =>
		Math.sqrt([0, 1, 2].reduce((sum, k) => sum + (run.at(first, frame)[k]! - run.at(last, frame)[k]!) ** 2, 0));
	expect(apart(25)).toBeCloseTo(apart(1), 4);
	expect(run.chunks[0]!.energy[23]).toBeGreaterThan(0);
});

/** 20 × 20 bricks on the ground, held at the foot by mortar of 0.5 MPa, and something that strikes it. */
const wall = (mass: number, speed: number, lastFrame: number, radius = 0.4, away = 0.2) =>
	shotOf(
		...ground,
		shape("wall", "box", { width: 5, height: 2.5, depth: 0.125 }, [0, 1.25, 0]),
		setFracture("wall-break", { object: "wall", method: "masonry", options: { length: 0.25, height: 0.125, joint: 0.001, mortar: "gap" } }),
		setBody(["wall"], { kind: "active", density: 1800 }),
		bonds({ ...given(0.5, 1, 20), foot: "touching", by: "near", reach: 0.002 }),
		shape("ball", "ball", { radius, detail: 4 }, [0.06, 1.25, -radius - away]),
		setBody(["ball"], { kind: "active", mass, velocity: [0, 0, speed] }),
		setSettings({ lastFrame }),
	);

test("300 kg at 15 m/s make a hole in a wall of bricks, keep about half of their speed, and the foot holds", async () => {
	const run = await runShot(wall(300, 15, 12));
	const broke = breaksOf(run);
	const speed = run.speed("ball", 6)[2];
	expect(speed).toBeGreaterThan(5.5);
	expect(speed).toBeLessThan(9.5);
	expect(broke.length).toBeGreaterThan(60);
	const loose = run.scene.ids.filter(
		(id) => id.startsWith("wall") && run.at(id, 12).some((v, k) => Math.abs(v - run.at(id, 1)[k]!) > 0.02),
	);
	expect(loose.length).toBeGreaterThan(10);
	expect(loose.length).toBeLessThan(80);
	expect(broke.filter(({ b }) => b === "ground")).toEqual([]);
});

test.each([0.26, 0.3, 0.34, 0.38, 0.42])("it makes that hole wherever a step ends before the wall: from %s m away", async (away) => {
	// 0.125 m a step: at some of these distances the engine sees the wall coming, and the blow falls in the next step only.
	const run = await runShot(wall(300, 15, 6, 0.4, away));
	expect(breaksOf(run).length).toBeGreaterThan(40);
	expect(run.speed("ball", 6)[2]).toBeGreaterThan(5.5);
});

test("5 kg at 3 m/s break nothing and bounce", async () => {
	const run = await runShot(wall(5, 3, 8, 0.1));
	expect(breaksOf(run)).toEqual([]);
	expect(run.speed("ball", 8)[2]).toBeLessThan(0.05);
});

test("300 kg at 3 m/s push through or come to lean, without grinding on", async () => {
	const run = await runShot(wall(300, 3, 72));
	const broke = breaksOf(run);
	expect(broke.length).toBeGreaterThan(20);
	// Nothing breaks any more in the last second, and what is left of the energy is a ball that rolls away.
	expect(broke.filter(({ frame }) => frame > 48)).toEqual([]);
	expect(run.chunks.at(-1)!.energy.at(-1)!).toBeLessThan(1350);
});

test("a blow on a bonded block that floats: momentum is kept, energy never rises, and it comes apart where it was hit", async () => {
	const run = await runShot(
		shotOf(
			shape("block", "box", { width: 1.2, height: 0.8, depth: 0.8 }, [0, 0, 0]),
			setFracture("cut", { object: "block", method: "voronoi", options: { count: 60, seed: 5 } }),
			setBody(["block"], { kind: "active", density: 2000, bounce: 0 }),
			bonds({ ...given(1, 2, 20) }),
			shape("ball", "ball", { radius: 0.2, detail: 3 }, [-1.2, 0.1, 0.05]),
			setBody(["ball"], { kind: "active", mass: 200, velocity: [14, 0, 0], bounce: 0 }),
			setSettings({ gravity: [0, 0, 0], lastFrame: 12 }),
		),
	);
	const broke = breaksOf(run);
	expect(broke.length).toBeGreaterThan(10);
	const momentum = [0, 1, 2].map((k) => run.scene.ids.reduce((sum, id, i) => sum + run.scene.mass[i]! * run.speed(id, 12)[k]!, 0));
	expect(momentum[0]! / (200 * 14)).toBeCloseTo(1, 2);
	expect(Math.abs(momentum[1]!) + Math.abs(momentum[2]!)).toBeLessThan(0.02 * 200 * 14);
	const energy = run.chunks.flatMap((chunk) => [...chunk.energy]);
	for (const [k, value] of energy.entries()) if (k > 1) expect(value).toBeLessThanOrEqual(energy[k - 1]! * 1.005);
});

test("many light things thrown at bonded pieces of all sizes never gain energy", async () => {
	const pebbles = Array.from({ length: 24 }, (_, n) => `pebble${n}`);
	const run = await runShot(
		shotOf(
			...ground,
			shape("block", "box", { width: 1, height: 1, depth: 0.3 }, [0, 0.5, 0]),
			setFracture("cut", { object: "block", method: "voronoi", options: { count: 80, seed: 2, spread: "random" } }),
			setBody(["block"], { kind: "active", density: 2000 }),
			bonds({ ...given(0.3, 0.6, 6), foot: "touching" }),
			...pebbles.map((id, n) =>
				shape(id, "ball", { radius: 0.012 + 0.002 * (n % 5), detail: 2 }, [
					-0.4 + 0.16 * (n % 6),
					0.2 + 0.2 * Math.floor(n / 6),
					0.6 + 0.1 * (n % 3),
				]),
			),
			setBody(pebbles, { kind: "active", density: 3000, velocity: [0, 0, -40], bounce: 0.2 }),
			shape("ball", "ball", { radius: 0.12, detail: 3 }, [0.1, 0.6, 1.4]),
			setBody(["ball"], { kind: "active", mass: 30, velocity: [0, 0, -12] }),
			setSettings({ lastFrame: 30 }),
		),
	);
	const energy = run.chunks.flatMap((chunk) => [...chunk.energy]);
	const potential = 30 * 9.81 * 0.6 + 600 * 9.81 * 0.5;
	expect(Math.max(...energy)).toBeLessThan(energy[0]! + potential);
	for (const id of run.scene.ids) expect(Math.hypot(...run.at(id, 30))).toBeLessThan(60);
	expect(breaksOf(run).length).toBeGreaterThan(5);
});

test("damage: a second blow of the same strength finishes what the first began", async () => {
	const strikes = (count: number) =>
		runShot(
			shotOf(
				shape("post", "box", { width: 0.3, height: 0.2, depth: 0.2 }, [0, 1.1, 0]),
				setBody(["post"], { kind: "active", density: 2400 }),
				shape("base", "box", { width: 0.3, height: 1, depth: 0.2 }, [0, 0.5, 0]),
				setBody(["base"], { kind: "passive" }),
				bonds({ ...given(0.2, 1), by: "near", foot: "touching", yields: 0.2 }),
				...Array.from({ length: count }, (_, n) => shape(`ball${n}`, "ball", { radius: 0.06, detail: 3 }, [n === 0 ? -1 : 4, 1.13, 0])),
				...Array.from({ length: count }, (_, n) => setBody([`ball${n}`], { kind: "active", mass: 1, velocity: [n === 0 ? 9 : -9, 0, 0] })),
				setSettings({ gravity: [0, 0, 0], lastFrame: 40 }),
			),
		);
	expect(breaksOf(await strikes(1))).toEqual([]);
	expect(breaksOf(await strikes(2))).toHaveLength(1);
});

test("bonds that rot over frames let go by their own weight when they are weak enough", async () => {
	// A cube of 0.2 m hangs on a face of 0.04 m²: ρ g h = 4,709 Pa.
	const run = await runShot(
		shotOf(
			shape("beam", "box", { width: 1, height: 0.2, depth: 1 }, [0, 2.2, 0]),
			setBody(["beam"], { kind: "passive" }),
			shape("cube", "box", { width: 0.2, height: 0.2, depth: 0.2 }, [0, 2, 0]),
			setBody(["cube"], { kind: "active", density: 2400 }),
			bonds({ ...given(2 * 0.004709, 10), by: "near", foot: "touching", fades: "frames", fade: [1, 1, 41, 0] }),
			setSettings({ lastFrame: 40 }),
		),
	);
	// Half of its strength is left at frame 21.
	expect(breaksOf(run)).toMatchObject([{ frame: 22 }]);
});

test.each([
	["the middle of a collapse", 0.2, {}],
	["the midst of a blow", 7.6, { gravity: [0, 0, 0] }],
] as const)("a run that goes on from a checkpoint in %s gives the same bytes", async (_, away, settings) => {
	const shot = edit(wall(300, 8, 48, 0.4, away), setSettings(settings as Partial<ShotSettings>)).shot;
	const workshop = await makeTestWorkshop();
	const built = await buildBodies(workshop, shot);
	const scene = await makeScene(workshop, shot, built.bodies);
	const whole: Chunk[] = [];
	let checkpoint: Checkpoint | undefined;
	let end: Checkpoint | undefined;
	await simulate(scene, rapierEngine, {
		onChunk: (chunk, at) => {
			whole.push(chunk);
			checkpoint ??= at;
			end = at;
		},
	});
	// 24 frames of 5 steps, and the wall is struck in the last of them or long before.
	expect(checkpoint!.bonds.pressed.size > 0).toBe(away > 1);
	const again: Chunk[] = [];
	await simulate(scene, rapierEngine, {
		from: decodeCheckpoint(encodeCheckpoint(checkpoint!)),
		onChunk: (chunk, at) => {
			again.push(chunk);
			expect(hashBytes(at!.engine)).toBe(hashBytes(end!.engine));
		},
	});
	expect(encodeChunk(again[0]!)).toEqual(encodeChunk(whole[1]!));
});

test("bonded stones that fall onto a thin plate on the ground lie on it, not in it", async () => {
	const run = await runShot(
		shotOf(
			...ground,
			shape("plate", "box", { width: 0.4, height: 0.03, depth: 0.4 }, [0, 0.015, 0]),
			setBody(["plate"], { kind: "active", density: 2000 }),
			...sawn({ width: 1.2, height: 0.3, depth: 0.8 }, [0.1, 1.4, 0], [1], 6),
			bonds(given(2, 4)),
			setSettings({ lastFrame: 48 }),
		),
	);
	const { ids } = run.scene;
	const deepest = await Promise.all(
		[14, 16, 20, 48].map(async (frame) => {
			// Neighbours that break from each other part in the frames after.
			const overlaps = (await overlapsAt(run.scene, rapierEngine, run.store, frame, 0.001)).filter(
				({ a, b }) => frame > 14 || [a, b].some((i) => ["ground", "plate"].includes(ids[i]!)),
			);
			return Math.max(0, ...overlaps.map(({ depth }) => depth));
		}),
	);
	// In the frame of the blow, while it goes on, and from then on.
	expect(deepest[0]).toBeLessThan(0.015);
	expect(deepest[1]).toBeLessThan(0.008);
	expect(Math.max(...deepest.slice(2))).toBeLessThan(0.002);
});
