import { EventKind } from "../../cache";
import { hashBytes } from "../../common";
import { type Vec3, vec3 } from "../../maths";
import {
	addBondSet,
	addConnector,
	type Command,
	connectorOf,
	type OptionValue,
	setBody,
	setFracture,
	setKey,
	setSettings,
	tickOfFrame,
} from "../../shot";
import { breaksOf, fastest, ropeOf, runInTwo, runShot, shape, shotOf } from "../../testing";
import { encodeCheckpoint } from "..";

const tick = (frame: number) => tickOfFrame({ fps: 24, firstFrame: 1 }, frame);
const connector = (kind: string, more: Parameters<typeof connectorOf>[1]): Command => addConnector(`c-${kind}`, connectorOf(kind, more));
/** Strength in tension, MPa; nothing gives way otherwise. */
const bonds = (tension: number): Command =>
	addBondSet("bonds", {
		name: "Bonds",
		options: { strength: "given", tension, shear: 1000, compression: 1000, energy: 20, foot: "touching" } as Record<string, OptionValue>,
		changes: [],
		hidden: false,
	});
/** A rod of 10 × 10 cm and 1 m, sawn into slices and held by a passive block at its upper or its left end. */
const [G, DENSITY, EDGE, LENGTH] = [9.81, 2400, 0.1, 1];
const [AREA, MODULUS] = [EDGE ** 2, EDGE ** 3 / 6];
const OWN = DENSITY * AREA * LENGTH * G;
const sawn = (axis: "x" | "y", at: [number, number, number]): Command[] => [
	shape("rod", "box", { width: axis === "x" ? LENGTH : EDGE, height: axis === "x" ? EDGE : LENGTH, depth: EDGE }, at),
	setFracture("cut", { object: "rod", method: "slices", options: { axis, count: 8 } }),
	setBody(["rod"], { kind: "active", density: DENSITY }),
];
const hanging = [
	shape("ceiling", "box", { width: 1, height: 0.2, depth: 1 }, [0, 3.1, 0]),
	setBody(["ceiling"], { kind: "passive" }),
	...sawn("y", [0, 2.5, 0]),
];
const cantilever = [
	shape("wall", "box", { width: 0.4, height: 1, depth: 1 }, [-0.7, 3, 0]),
	setBody(["wall"], { kind: "passive" }),
	...sawn("x", [0, 3, 0]),
];
const weight = (mass: number, at: [number, number, number]): Command[] => [
	shape("weight", "box", { width: 0.1, height: 0.1, depth: 0.1 }, at),
	setBody(["weight"], { kind: "active", mass }),
];

describe.each([
	{
		what: "a weight that is pinned to the lower end of a hanging rod: its root bears both weights",
		stress: (OWN + 60 * G) / AREA,
		at: "ceiling",
		commands: [...hanging, ...weight(60, [0, 1.7, 0]), connector("pin", { a: "weight", b: "rod", from: [0, 2, 0], to: [0, 2, 0] })],
	},
	{
		what: "one on a rope from the end of a beam: its root bears M / W of both",
		stress: (OWN * 0.5 + 12 * G * 0.95) / MODULUS,
		at: "wall",
		commands: [
			...cantilever,
			...weight(12, [0.45, 2, 0]),
			connector("rope", { a: "weight", b: "rod", from: [0.45, 2.05, 0], to: [0.45, 2.95, 0] }),
		],
	},
	{
		what: "one that is fixed to a hanging rod and stands out from it: its root is bent, too",
		stress: (OWN + 20 * G) / AREA + (20 * G * 0.3) / MODULUS,
		at: "ceiling",
		commands: [
			...hanging,
			...weight(20, [0.3, 2.1, 0]),
			connector("fixed", { a: "weight", b: "rod", from: [0.05, 2.1, 0], to: [0.05, 2.1, 0] }),
		],
	},
])("$what", ({ stress, at, commands }) => {
	const load = (share: number) => runShot(shotOf(...commands, bonds((stress * share) / 1e6), setSettings({ lastFrame: 24 })));
	test("5 % more strength holds", async () => expect(breaksOf(await load(1.05))).toEqual([]));
	// What is nearly as bad goes with the worst.
	test("5 % less breaks, there", async () => expect(breaksOf(await load(0.95)).map(({ b }) => b)).toContain(at));
});

test("ropes between pieces of one solid hold them when its bonds have broken", async () => {
	const run = await runShot(
		shotOf(
			...hanging,
			bonds((0.3 * OWN) / AREA / 1e6),
			connector("rope", { a: "ceiling", b: "rod", from: [0, 3, 0], to: [0, 2.95, 0] }),
			addConnector("bars", connectorOf("rope", { options: { between: "chain", on: "rod/*", collide: "yes" } })),
			setSettings({ lastFrame: 72 }),
		),
	);
	expect(breaksOf(run).length).toBeGreaterThan(1);
	const pieces = run.scene.ids.filter((id) => id.startsWith("cut:"));
	for (const [k, id] of pieces.entries()) {
		// It hangs where it was, but for swinging.
		expect(Math.abs(run.at(id, 72)[1] - run.at(id, 1)[1])).toBeLessThan(0.1);
		const next = pieces[k + 1];
		if (next) expect(vec3.length(vec3.subtract(run.at(id, 72), run.at(next, 72)))).toBeLessThan(1.03 * (LENGTH / 8));
	}
});

const column = [
	shape("ground", "ground", {}),
	setBody(["ground"], { kind: "passive" }),
	shape("column", "tube", { radius: 0.3, height: 3 }, [0, 1.5, 0]),
	setFracture("cut", { object: "column", method: "voronoi", options: { count: 24, seed: 3 } }),
	setBody(["column"], { kind: "active" }),
	addBondSet("bonds", { name: "Bonds", options: { factor: 0.5, foot: "touching" }, changes: [], hidden: false }),
	shape("tractor", "box", { width: 1, height: 0.8, depth: 1 }, [5, 0.41, 0]),
	setBody(["tractor"], { kind: "animated" }),
	setKey("tractor", tick(12), { translation: [5, 0.41, 0] }),
	setKey("tractor", tick(72), { translation: [8, 0.41, 0] }),
	setSettings({ lastFrame: 84 }),
];
const [HIGH, HOOK]: [Vec3, Vec3] = [
	[0.32, 2.8, 0],
	[4.5, 0.6, 0],
];

test.each([
	["rope of one piece", [connector("rope", { a: "column", b: "tractor", from: HIGH, to: HOOK })]],
	["rope of 24 parts", ropeOf(24, HIGH, HOOK, "column", "tractor")],
] as const)("a tractor on a %s breaks a column off at its foot and pulls it over", async (_, rope) => {
	const run = await runShot(shotOf(...column, ...rope));
	const broke = breaksOf(run);
	expect(broke.slice(0, 3).map(({ b }) => b)).toContain("ground");
	// Soon after it starts; and no piece of the upper half breaks off before it falls.
	expect(broke[0]!.frame).toBeLessThan(20);
	const top = run.scene.ids.find((id) => id.startsWith("cut:") && run.at(id, 1)[1] > 2.8)!;
	expect(run.at(top, 84)[1]).toBeLessThan(1);
	for (let frame = 2; frame <= 84; frame++) expect(fastest(run, frame)).toBeLessThan(12);
});

test("a rope whose ends go farther apart than it is long stretches evenly, and is as long as before when they are back", async () => {
	const to: [number, number, number] = [2, 2, 0];
	const pull = shotOf(
		shape("hook", "box", { width: 0.2, height: 0.2, depth: 0.2 }, to),
		setBody(["hook"], { kind: "animated" }),
		...[1, 12, 36, 60].map((frame, k) => setKey("hook", tick(frame), { translation: [k === 2 ? 4 : 2, 2, 0] })),
		...ropeOf(16, [0, 2, 0], to, "world", "hook"),
		setSettings({ lastFrame: 96 }),
	);
	const run = await runShot(pull);
	const links = run.scene.ids.filter((id) => id.startsWith("rope:"));
	const gaps = (frame: number) => links.slice(1).map((id, k) => vec3.length(vec3.subtract(run.at(id, frame), run.at(links[k]!, frame))));
	// Twice as long.
	for (const gap of gaps(36)) expect(gap / 0.25).toBeCloseTo(1, 1);
	for (const gap of gaps(96)) expect(gap / 0.125).toBeCloseTo(1, 1);
	for (let frame = 2; frame <= 96; frame++) expect(fastest(run, frame)).toBeLessThan(8);
});

test("a run that goes on while a rope is drawn apart at a bonded column gives the same bytes", async () => {
	const { whole, first, rest } = await runInTwo(shotOf(...column, ...ropeOf(24, HIGH, HOOK, "column", "tractor")), 13, 30);
	expect(first.end.joints.stretch.some((way) => way !== 0)).toBe(true);
	expect(first.end.bonds.pull.some((force) => force !== 0)).toBe(true);
	expect(hashBytes(encodeCheckpoint(rest.end))).toBe(hashBytes(encodeCheckpoint(whole.end)));
});

test("a slack rope to a bonded block on the ground bears nothing of it, and does not part", async () => {
	const run = await runShot(
		shotOf(
			shape("ground", "ground", {}),
			setBody(["ground"], { kind: "passive" }),
			...sawn("x", [0, 0.05, 0]),
			addBondSet("bonds", {
				name: "Bonds",
				options: { strength: "given", tension: 0.3, shear: 1, compression: 10, energy: 20, foot: "none" },
				changes: [],
				hidden: false,
			}),
			connector("rope", {
				a: "rod",
				from: [0.45, 0.1, 0],
				to: [0.45, 1, 0],
				options: { rest: "given", length: 1, breaks: "load", force: 20 },
			}),
			setSettings({ lastFrame: 24 }),
		),
	);
	expect(breaksOf(run)).toEqual([]);
	expect(run.chunks.flatMap(({ events }) => [...events.kind].filter((kind) => kind === EventKind.Parted))).toEqual([]);
});

test("a rope holds a heavy ball as well from a bonded rod as from what holds still", async () => {
	const stretch = async (...rod: Command[]) => {
		const [from, to]: [Vec3, Vec3] = [
			[0.05, 2.1, 0],
			[2.05, 2.1, 0],
		];
		const run = await runShot(
			shotOf(
				...rod,
				shape("ball", "ball", { radius: 0.3, detail: 3 }, [2.35, 2.1, 0]),
				setBody(["ball"], { kind: "active", mass: 1000 }),
				...ropeOf(16, from, to, "rod", "ball"),
				setSettings({ lastFrame: 36 }),
			),
		);
		const links = run.scene.ids.filter((id) => id.startsWith("rope:"));
		let most = 0;
		for (let frame = 1; frame <= 36; frame++)
			for (const [k, id] of links.slice(1).entries())
				most = Math.max(most, vec3.length(vec3.subtract(run.at(id, frame), run.at(links[k]!, frame))) / (2 / 16) - 1);
		return most;
	};
	const passive = [shape("rod", "box", { width: EDGE, height: LENGTH, depth: EDGE }, [0, 2.5, 0]), setBody(["rod"], { kind: "passive" })];
	const [still, bonded] = [await stretch(...passive), await stretch(...hanging, bonds(1000))];
	expect(still).toBeLessThan(0.08);
	expect(bonded).toBeLessThan(1.5 * still);
});

test("one that can break does, and both halves fall", async () => {
	const to: [number, number, number] = [2, 2, 0];
	const [last, ...others] = ropeOf(16, [0, 2, 0], to, "world", "hook").reverse();
	expect(last).toBeDefined();
	const run = await runShot(
		shotOf(
			shape("hook", "box", { width: 0.2, height: 0.2, depth: 0.2 }, to),
			setBody(["hook"], { kind: "animated" }),
			setKey("hook", tick(12), { translation: to }),
			setKey("hook", tick(36), { translation: [4, 2, 0] }),
			...others.reverse(),
			connector("pin", {
				a: "world",
				b: "hook",
				from: to,
				to,
				options: { between: "chain", on: "rope/*", collide: "no", breaks: "load", force: 5000 },
			}),
			setSettings({ lastFrame: 36 }),
		),
	);
	const parted = run.chunks.flatMap(({ events }) => [...events.kind].filter((kind) => kind === EventKind.Parted));
	// Once, for then nothing is drawn apart any more.
	expect(parted).toHaveLength(1);
	for (let frame = 2; frame <= 36; frame++) expect(fastest(run, frame)).toBeLessThan(12);
});
