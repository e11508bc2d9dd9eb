import { posesAt } from "../cache";
import { hashBytes } from "../common";
import { type Shot, setBody, setFracture, setMaterial, setSettings } from "../shot";
import { runInTwo, runShot, shape, shotOf, type TestRun } from "../testing";
import { encodeCheckpoint, overlapsAt, rapierEngine } from ".";

/** Stones of 120 mm on the ground, and 260 kg of steel that fall 2 m on them and arrive in frame 16. */
const anvil = (material: string, count = 15): Shot =>
	shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("slab", "box", { width: 0.6, height: 0.12, depth: 0.3 }, [0, 0.0605, 0]),
		setMaterial(["slab"], material),
		setFracture("cut", { object: "slab", method: "voronoi", options: { count, seed: 3 } }),
		setBody(["slab"], { kind: "active" }),
		shape("ball", "ball", { radius: 0.2, detail: 4 }, [0, 2.2, 0]),
		setMaterial(["ball"], "steel"),
		setBody(["ball"], { kind: "active" }),
		setSettings({ lastFrame: 48 }),
	);
const ARRIVES = 16;

/** How deep anything is in anything, m. */
const deepest = async ({ scene, store }: TestRun, frame: number): Promise<number> =>
	Math.max(0, ...(await overlapsAt(scene, rapierEngine, store, frame, 0.001)).map(({ depth }) => depth));

// 25, 100 and 400 times lighter than the ball, most of which slept when it came.
test.each(["steel", "granite", "oak"])("a heavy ball does not drive stones of %s into the ground", async (material) => {
	const run = await runShot(anvil(material));
	for (let frame = ARRIVES; frame < ARRIVES + 16; frame++) expect(await deepest(run, frame)).toBeLessThan(0.012);
	expect(await deepest(run, 48)).toBeLessThan(0.005);
});

test("nor many layers of small ones", async () => {
	const run = await runShot(anvil("concrete", 150));
	for (let frame = ARRIVES; frame < ARRIVES + 16; frame += 3) expect(await deepest(run, frame)).toBeLessThan(0.025);
	expect(await deepest(run, 48)).toBeLessThan(0.012);
});

test("a crate stands on a block that is a thousand times lighter, at its height", async () => {
	const run = await runShot(
		shotOf(
			shape("ground", "ground", {}),
			setBody(["ground"], { kind: "passive" }),
			shape("block", "box", { width: 0.2, height: 0.1, depth: 0.2 }, [0, 0.05, 0]),
			setBody(["block"], { kind: "active", mass: 0.5 }),
			shape("crate", "box", { width: 0.5, height: 0.5, depth: 0.5 }, [0, 0.35, 0]),
			setBody(["crate"], { kind: "active", mass: 500 }),
			setSettings({ lastFrame: 48 }),
		),
	);
	// M g / m ω² are 69 mm.
	for (const frame of [12, 24, 48]) expect(run.at("crate", frame)[1]).toBeGreaterThan(0.345);
});

test("what nothing holds up is as light as it is: a heavy ball, a light and a heavy one keep their momentum and meet as they would", async () => {
	const ball = (id: string, x: number, mass: number, speed: number) => [
		shape(id, "ball", { radius: 0.1, detail: 4 }, [x, 0, 0]),
		setBody([id], { kind: "active", mass, velocity: [speed, 0, 0], bounce: 0, linearDamping: 0 }),
	];
	const run = await runShot(
		shotOf(
			...ball("one", -0.5, 300, 4),
			...ball("light", 0, 0.3, 0),
			...ball("other", 0.201, 300, 0),
			setSettings({ gravity: [0, 0, 0], lastFrame: 24 }),
		),
	);
	const speeds = ["one", "light", "other"].map((id) => run.speed(id, 24)[0]);
	expect((300 * (speeds[0]! + speeds[2]!) + 0.3 * speeds[1]!) / 1200).toBeCloseTo(1, 3);
	expect(speeds[2]).toBeGreaterThan(1.9);
});

test("a run that goes on while stones are squeezed gives the same bytes", async () => {
	const { whole, first, rest } = await runInTwo(anvil("oak"), ARRIVES, 30);
	expect(first.end.heavier.load.some((doublings) => doublings > 0)).toBe(true);
	expect(posesAt(rest.store, 30)).toEqual(posesAt(whole.store, 30));
	expect(hashBytes(encodeCheckpoint(rest.end))).toBe(hashBytes(encodeCheckpoint(whole.end)));
});
