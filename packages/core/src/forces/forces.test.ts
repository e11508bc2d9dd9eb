import { curlNoise } from "../maths";
import {
	addObject,
	type Command,
	type OptionValue,
	placeObject,
	type Shot,
	setBody,
	setKey,
	setNumberKey,
	setSettings,
	tickOfFrame,
} from "../shot";
import { runShot, shape, shotOf } from "../testing";
import { FORCES, forceById } from ".";

const force = (id: string, kind: string, options: Record<string, OptionValue> = {}, at: [number, number, number] = [0, 0, 0]): Command =>
	addObject({ id, name: id, source: { kind: "force", force: kind, options }, translation: at });
/** Weightless, 24 frames a second. */
const nowhere = setSettings({ gravity: [0, 0, 0], lastFrame: 25 });
const ball = (id: string, at: [number, number, number] = [0, 0, 0], radius = 0.1): Command => shape(id, "ball", { radius, detail: 3 }, at);
const active = (...ids: string[]): Command => setBody(ids, { kind: "active" });
const SECOND = 25;

test("a push moves light and heavy things alike as m/s², and by their mass as newtons", async () => {
	const scene = [
		nowhere,
		ball("light"),
		ball("heavy", [3, 0, 0]),
		setBody(["light"], { kind: "active", mass: 2 }),
		setBody(["heavy"], { kind: "active", mass: 8 }),
	];
	const alike = await runShot(shotOf(...scene, force("f", "push", { strength: 3, along: "z" })));
	for (const id of ["light", "heavy"]) expect(alike.at(id, SECOND)[2]).toBeCloseTo(1.5, 1);
	const newtons = await runShot(shotOf(...scene, force("f", "push", { strength: 4, along: "up", by: "force" })));
	expect(newtons.at("light", SECOND)[1]).toBeCloseTo(1, 1);
	expect(newtons.at("heavy", SECOND)[1]).toBeCloseTo(0.25, 2);
});

test("a turned force pushes along its own axes, a hidden one not at all, and shares by axis hold", async () => {
	const scene = [nowhere, ball("a"), active("a"), force("f", "push", { strength: 2, along: "up", axes: "own", shareY: 0.5 })];
	// Its upright axis laid along −z.
	const turned = await runShot(shotOf(...scene, placeObject("f", { rotation: [-Math.SQRT1_2, 0, 0, Math.SQRT1_2] })));
	expect(turned.at("a", SECOND)[1]).toBeCloseTo(0, 5);
	expect(turned.at("a", SECOND)[2]).toBeCloseTo(-0.5, 2);
	const hidden = shotOf(...scene);
	const off: Shot = { ...hidden, objects: { ...hidden.objects, f: { ...hidden.objects.f!, hidden: true } } };
	expect((await runShot(off)).at("a", SECOND)).toEqual([0, 0, 0]);
});

test("in still air a falling ball comes to the speed at which drag bears its weight", async () => {
	const radius = 0.1;
	const mass = 0.02;
	const run = await runShot(
		shotOf(
			ball("a", [0, 0, 0], radius),
			setBody(["a"], { kind: "active", mass }),
			setSettings({ lastFrame: 73 }),
			force("air", "wind", { strength: 0, drag: 0.5 }),
		),
	);
	// ½ ρ c A v² = m g, with the ball's cross-section: a quarter of its surface.
	const terminal = Math.sqrt((2 * mass * 9.81) / (1.204 * 0.5 * Math.PI * radius * radius));
	expect(-run.speed("a", 73)[1] / terminal).toBeCloseTo(1, 1);
});

test("wind never blows a feather past its own speed", async () => {
	const run = await runShot(
		shotOf(nowhere, ball("a", [0, 0, 0], 0.2), setBody(["a"], { kind: "active", mass: 1e-4 }), force("air", "wind", { strength: 5 })),
	);
	const speed = run.speed("a", SECOND)[0];
	expect(speed).toBeGreaterThan(4.9);
	expect(speed).toBeLessThanOrEqual(5.001);
});

test("a whirl's inward pull keeps a ball on its circle", async () => {
	const [radius, speed] = [2, 3];
	const run = await runShot(
		shotOf(
			setSettings({ gravity: [0, 0, 0], lastFrame: 73, stepsPerSecond: 480 }),
			ball("a", [radius, 0, 0]),
			setBody(["a"], { kind: "active", velocity: [0, 0, -speed] }),
			force("w", "whirl", { strength: 0, lift: 0, inward: (speed * speed) / radius }),
		),
	);
	for (const frame of [20, 45, 73]) {
		const [x, y, z] = run.at("a", frame);
		expect(Math.hypot(x, z) / radius).toBeCloseTo(1, 2);
		expect(y).toBeCloseTo(0, 5);
	}
	// Three seconds at 3 m/s on a circle of 2 m: 4.5 radians, counter-clockwise from above.
	const [x, , z] = run.at("a", 73);
	expect(Math.atan2(-z, x)).toBeCloseTo(4.5 - 2 * Math.PI, 1);
});

test("a burst pushes outwards and falls off to nothing where its curve ends", async () => {
	const run = await runShot(
		shotOf(
			nowhere,
			ball("near", [0.5, 0, 0]),
			ball("far", [0, 0, 2]),
			active("near", "far"),
			force("b", "radial", { strength: 4, reach: "falloff", falloff: [0, 1, 1, 1, 1.5, 0] }),
		),
	);
	expect(run.at("near", SECOND)[0]).toBeGreaterThan(1.4);
	expect(run.at("far", SECOND)).toEqual([0, 0, 2]);
});

test("a stream carries along its beacons and pulls back to their line", async () => {
	const beacon = (id: string, x: number): Command => addObject({ id, name: id, source: { kind: "beacon" }, translation: [x, 0, 0] });
	const run = await runShot(
		shotOf(
			setSettings({ gravity: [0, 0, 0], lastFrame: 49 }),
			beacon("p", -1),
			beacon("q", 20),
			ball("a", [0, 0.3, 0]),
			setBody(["a"], { kind: "active", linearDamping: 2 }),
			force("s", "stream", { strength: 4, inward: 60, through: ["p", "q"] }),
		),
	);
	expect(run.at("a", 49)[0]).toBeGreaterThan(1.5);
	expect(Math.abs(run.at("a", 49)[1])).toBeLessThan(0.1);
});

test("swirls have no sources: the divergence of curl noise is nothing against its slopes", () => {
	const at = (x: number, y: number, z: number, k: number): number => {
		const out = new Float64Array(3);
		curlNoise(out, x, y, z, 0.4, 7);
		return out[k]!;
	};
	const h = 1e-4;
	let [slope, divergence, size] = [0, 0, 0];
	for (let i = 0; i < 300; i++) {
		const [x, y, z] = [0.37 * i, 0.53 * i - 40, 0.29 * i + 3];
		const d = [
			at(x + h, y, z, 0) - at(x - h, y, z, 0),
			at(x, y + h, z, 1) - at(x, y - h, z, 1),
			at(x, y, z + h, 2) - at(x, y, z - h, 2),
		].map((v) => v / (2 * h));
		divergence += Math.abs(d[0]! + d[1]! + d[2]!);
		slope += Math.abs(d[0]!) + Math.abs(d[1]!) + Math.abs(d[2]!);
		size += Math.hypot(at(x, y, z, 0), at(x, y, z, 1), at(x, y, z, 2)) / 300;
	}
	expect(divergence / slope).toBeLessThan(1e-5);
	expect(size).toBeGreaterThan(0.6);
	expect(size).toBeLessThan(1.6);
});

test("frames, keys of the strength and a rule say when and on whom a force acts", async () => {
	const scene = [setSettings({ gravity: [0, 0, 0], lastFrame: 49 }), ball("one"), ball("two", [0, 0, 3]), active("one", "two")];
	const late = await runShot(shotOf(...scene, force("f", "push", { strength: 10, frames: "between", from: 13, until: 24, on: "one" })));
	expect(late.at("one", 12)).toEqual([0, 0, 0]);
	expect(late.at("two", 49)).toEqual([0, 0, 3]);
	// Half a second of 10 m/s², then on at 5 m/s; the step in which it wakes from sleep is lost.
	expect(late.speed("one", 40)[1]).toBeGreaterThan(4.9);
	expect(late.speed("one", 40)[1]).toBeLessThan(5.01);
	const shot = shotOf(...scene);
	const keyed = await runShot(
		shotOf(
			...scene,
			force("f", "push", { strength: 10 }),
			setNumberKey("f", "strength", 0, 0),
			setNumberKey("f", "strength", tickOfFrame(shot.settings, 25), 12),
		),
	);
	// A strength that grows evenly to 12 in a second: 6 m/s.
	expect(keyed.speed("one", 26)[1]).toBeCloseTo(6, 0);
});

test("stages by age: each body leaves one force for the next so many frames after it woke", async () => {
	const run = await runShot(
		shotOf(
			setSettings({ gravity: [0, 0, 0], lastFrame: 49 }),
			ball("first"),
			ball("later", [0, 0, 3]),
			active("first"),
			setBody(["later"], { kind: "active", wake: { when: "frame", frame: 13 } }),
			force("up", "push", { strength: 6, along: "up", ages: "between", youngest: 0, oldest: 12 }),
			force("side", "push", { strength: 6, along: "x", ages: "between", youngest: 12, oldest: 1000 }),
		),
	);
	expect(run.at("first", 13)[0]).toBeCloseTo(0, 4);
	expect(run.speed("first", 20)[1]).toBeCloseTo(3, 1);
	expect(run.at("first", 40)[0]).toBeGreaterThan(2);
	expect(run.at("later", 13)).toEqual([0, 0, 3]);
	expect(run.at("later", 25)[0]).toBeCloseTo(0, 4);
	expect(run.at("later", 40)[0]).toBeGreaterThan(0.8);
});

test("a force wakes what has come to rest, once it is strong enough", async () => {
	const shot = shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("a", "box", { width: 0.4, height: 0.4, depth: 0.4 }, [0, 0.2, 0]),
		active("a"),
		setSettings({ lastFrame: 97 }),
		force("lift", "push", { strength: 20, along: "up", frames: "between", from: 73, until: 97 }),
	);
	const run = await runShot(shot);
	expect(run.at("a", 72)[1]).toBeCloseTo(0.2, 2);
	expect(run.at("a", 97)[1]).toBeGreaterThan(1);
});

test("every force has a unit, a help and a default for each of its numbers, and keeps off what it has nothing to do with", () => {
	expect(FORCES.map(({ id }) => id)).toEqual([...new Set(FORCES.map(({ id }) => id))]);
	for (const { options, help } of FORCES) {
		expect(help.length).toBeGreaterThan(10);
		for (const spec of Object.values(options)) expect(spec.help.length).toBeGreaterThan(3);
	}
	expect(forceById("nothing")).toBeUndefined();
});

test("a beacon force that moves by keys pushes where it is", async () => {
	const shot = shotOf(
		setSettings({ gravity: [0, 0, 0], lastFrame: 49 }),
		ball("a", [3, 0, 0]),
		active("a"),
		force("b", "push", { strength: 30, along: "up", reach: "falloff", falloff: [0, 1, 0.8, 1, 1, 0] }),
		setKey("b", 0, { translation: [0, 0, 0] }),
		setKey("b", tickOfFrame({ fps: 24, firstFrame: 1 }, 49), { translation: [6, 0, 0] }),
	);
	const run = await runShot(shot);
	expect(run.at("a", 15)[1]).toBe(0);
	expect(run.at("a", 30)[1]).toBeGreaterThan(0.2);
});
