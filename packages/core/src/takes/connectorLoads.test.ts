import { decodeChunk, encodeChunk, type FrameStore } from "../cache";
import type { Vec3 } from "../maths";
import { addConnector, type Command, connectorOf, type Id, type OptionValues, setBody, setSettings } from "../shot";
import { makeTake } from "../simulation";
import { ropeOf, runShot, shape, shotOf, type TestRun } from "../testing";
import { connectorLoads, frameOfMost, loadShares } from ".";

const G = 9.81;
const MASS = 500;
const ball = (at: Vec3): Command[] => [
	shape("ball", "ball", { radius: 0.3, detail: 3 }, [...at]),
	setBody(["ball"], { kind: "active", mass: MASS }),
];
const hold = (kind: string, from: Vec3, to: Vec3, options: OptionValues = {}): Command =>
	addConnector("hold", connectorOf(kind, { a: "ball", from, to, options: { breaks: "load", force: 1e9, moment: 1e9, ...options } }));

const takeOf = ({ scene }: TestRun) => makeTake("Take 1", shotOf(), scene);
const loadsIn = (run: TestRun, id: Id = "hold") => connectorLoads(takeOf(run), run.store, id)!;

test("what hangs still from a pin, a rope or a spring bears its weight; a spring once it has settled", async () => {
	for (const [kind, top, options] of [
		["pin", 2.3, {}],
		["rope", 3.3, {}],
		["spring", 3.3, { stiffness: 1e5, damping: 2e4, rest: "given", length: 1 - (MASS * G) / 1e5 }],
	] as const) {
		const { firstFrame, force, moment } = loadsIn(
			await runShot(shotOf(...ball([0, 2, 0]), hold(kind, [0, 2.3, 0], [0, top, 0], options), setSettings({ lastFrame: 30 }))),
		);
		expect([kind, firstFrame, force[0]]).toEqual([kind, 1, 0]);
		for (const value of force.slice(kind === "spring" ? 12 : 1)) expect(value / (MASS * G)).toBeCloseTo(1, 2);
		expect(Math.max(...moment)).toBeLessThan(1);
	}
});

test("a pendulum let go from the side pulls with three times its weight below", async () => {
	// T = m (g + v² / r) with v² = 2 g r at the lowest point.
	const run = await runShot(shotOf(...ball([2, 4, 0]), hold("pin", [0, 4, 0], [0, 4, 0]), setSettings({ lastFrame: 40 })));
	const { force } = loadsIn(run);
	// The ball turns with it, and takes a share of the energy: v² = 2 g r / (1 + 2/5 (0.3/2)²).
	const lowest = G * (1 + 2 / (1 + 0.4 * 0.15 ** 2));
	expect(Math.max(...force) / (MASS * lowest)).toBeCloseTo(1, 2);
	expect(run.at("ball", frameOfMost(1, force))[1]).toBeCloseTo(2, 1);
});

test("what sticks out from the wall bends what holds it with its weight times the way to its middle", async () => {
	const run = await runShot(shotOf(...ball([1.5, 2, 0]), hold("fixed", [0, 2, 0], [0, 2, 0]), setSettings({ lastFrame: 12 })));
	const { force, moment } = loadsIn(run);
	for (const value of force.slice(1)) expect(value / (MASS * G)).toBeCloseTo(1, 3);
	for (const value of moment.slice(1)) expect(value / (MASS * G * 1.5)).toBeCloseTo(1, 3);
});

test("the joints of a rope bear what hangs on each; all of it the first", async () => {
	const commands = [...ball([0, 2, 0]), ...ropeOf(10, [0, 4.3, 0], [0, 2.3, 0], "world", "ball"), setSettings({ lastFrame: 60 })];
	const run = await runShot(shotOf(...commands));
	const { force, joint } = loadsIn(run, "c-pin");
	const parts = run.scene.ids.filter((id) => id.startsWith("rope")).length;
	const own = run.scene.mass[run.scene.ids.findIndex((id) => id.startsWith("rope"))]!;
	expect(parts).toBe(10);
	expect(force.at(-1)! / ((MASS + parts * own) * G)).toBeCloseTo(1, 2);
	// Of a chain the first end comes last but one: after all that joins the parts.
	const { a, b } = run.scene.joints[joint.at(-1)!]!;
	expect([a, b]).toContain(-1);
	// As it hangs down at once it never bears more than what a weight does that is let go at once: twice of it.
	expect(Math.max(...force) / (MASS * G)).toBeLessThan(2.3);
	const shares = loadShares(takeOf(run), run.store, 60).get("c-pin")!;
	expect(shares).toHaveLength(11);
	for (const share of shares) expect(share).toBeGreaterThan(0);
	expect(Math.max(...shares)).toBeLessThanOrEqual(1);
});

test("what has come to rest goes on to bear; what has parted bears nothing, and the load that it parted at is kept", async () => {
	const still = loadsIn(await runShot(shotOf(...ball([0, 2, 0]), hold("pin", [0, 2.3, 0], [0, 2.3, 0]), setSettings({ lastFrame: 120 }))));
	expect(still.force.at(-1)! / (MASS * G)).toBeCloseTo(1, 3);
	const limit = 2 * MASS * G;
	const run = await runShot(
		shotOf(...ball([2, 4, 0]), hold("pin", [0, 4, 0], [0, 4, 0], { force: limit }), setSettings({ lastFrame: 40 })),
	);
	const { force } = loadsIn(run);
	const parted = frameOfMost(1, force);
	expect(Math.max(...force) / limit).toBeCloseTo(1, 1);
	expect(Math.max(...force)).toBeGreaterThan(limit);
	expect(force.slice(parted).every((value) => value === 0)).toBe(true);
});

test("loads come back from the bytes of a take; nothing is said where they are of other connectors", async () => {
	const run = await runShot(shotOf(...ball([0, 2, 0]), hold("pin", [0, 2.3, 0], [0, 2.3, 0]), setSettings({ lastFrame: 30 })));
	const stored: FrameStore = { ...run.store, chunks: run.store.chunks.map((chunk) => decodeChunk(encodeChunk(chunk))) };
	const take = takeOf(run);
	expect(connectorLoads(take, stored, "hold")).toEqual(loadsIn(run));
	expect(connectorLoads(take, stored, "other")).toBeUndefined();
	expect(connectorLoads({ ...take, joints: undefined }, stored, "hold")).toBeUndefined();
	expect(connectorLoads({ ...take, joints: ["hold", "hold"] }, stored, "hold")).toBeUndefined();
	// Frames that were taken over from another take may be of other connectors.
	const on = connectorLoads({ ...take, wentOn: { take: "Take 0", frame: 24 } }, stored, "hold")!;
	expect([on.firstFrame, on.force.length]).toEqual([25, 6]);
	expect(loadShares({ ...take, wentOn: { take: "Take 0", frame: 24 } }, stored, 12).size).toBe(0);
});
