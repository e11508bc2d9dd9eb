import { EventKind } from "../../cache";
import { WORLD } from "../../connectors";
import { fromTo, tripleAt } from "../../maths";
import {
	addArray,
	addBondSet,
	addConnector,
	type Command,
	type Connector,
	connectorOf,
	type OptionValue,
	placeObject,
	setBody,
	setSettings,
} from "../../shot";
import { runShot, shape, shotOf, type TestRun } from "../../testing";
import { spread } from "./spread";
import { springSpeed } from "./springs";

const connector = (kind: string, more: Partial<Connector>): Command =>
	addConnector(`c-${kind}-${more.name ?? ""}`, connectorOf(kind, more));
const ball = (id: string, at: [number, number, number], radius = 0.1) => shape(id, "ball", { radius, detail: 3 }, at);
const partings = (run: TestRun) =>
	run.chunks.flatMap(({ events }) =>
		[...events.kind].flatMap((kind, k) =>
			kind === EventKind.Parted ? [{ frame: events.frame[k]!, load: events.value[k]!, place: tripleAt(events.place, k) }] : [],
		),
	);
/** Frames at which a coordinate passes upwards through a height, between frames. */
const risings = (values: readonly number[], through: number): number[] =>
	values.flatMap((v, i) => (i > 0 && values[i - 1]! < through && v >= through ? [i + 1 - (v - through) / (v - values[i - 1]!)] : []));
const track = (run: TestRun, id: string, axis: number, frames: number) =>
	Array.from({ length: frames }, (_, f) => run.at(id, f + 1)[axis]!);

describe("a weight on a spring", () => {
	const hang = (damping: number, mass = 10, stiffness = 400) =>
		runShot(
			shotOf(
				ball("weight", [0, -1, 0]),
				setBody(["weight"], { kind: "active", mass }),
				connector("spring", { a: "weight", from: [0, -1, 0], to: [0, 0, 0], options: { stiffness, damping } }),
				setSettings({ lastFrame: 240 }),
			),
		);
	test("swings about its rest with 2π √(m/k) and keeps its height", async () => {
		const heights = track(await hang(0), "weight", 1, 240);
		const rest = -1 - (10 * 9.81) / 400;
		const times = risings(heights, rest);
		const period = (times.at(-1)! - times[0]!) / (times.length - 1) / 24;
		expect(period / (2 * Math.PI * Math.sqrt(10 / 400))).toBeCloseTo(1, 2);
		// As high as it was let go, to a hundredth of its swing.
		expect(Math.max(...heights.slice(200))).toBeGreaterThan(-1 - 0.02 * 0.4905);
		expect(Math.max(...heights)).toBeLessThan(-1 + 0.01 * 0.4905);
	});
	test("with damping it dies down by exp(−c t / 2m)", async () => {
		const heights = track(await hang(8), "weight", 1, 240);
		const rest = -1 - (10 * 9.81) / 400;
		const tops = heights.flatMap((h, i) =>
			i > 0 && i < 239 && h > heights[i - 1]! && h >= heights[i + 1]! && h > rest ? [{ i, h: h - rest }] : [],
		);
		const [first, last] = [tops[0]!, tops.at(-1)!];
		const expected = Math.exp((-8 / 20) * ((last.i - first.i) / 24));
		expect(last.h / first.h / expected).toBeCloseTo(1, 1);
		expect(tops.length).toBeGreaterThan(6);
	});
	test("a spring that is far too stiff for the step holds, and does not blow up", async () => {
		const heights = track(await hang(0, 1, 1e7), "weight", 1, 240);
		expect(Math.max(...heights.map((h) => Math.abs(h + 1)))).toBeLessThan(0.01);
	});
	test("the step of the spring is the exact solution's", () => {
		// 2 Hz, no damping: 120 steps of 1/120 s come back to where they began after half a second.
		let [x, v] = [0.1, 0];
		const [k, m, h] = [(4 * Math.PI) ** 2, 1, 1 / 120];
		for (let step = 0; step < 60; step++) {
			v = springSpeed(x, v, k, 0, m, h);
			x += h * v;
		}
		expect(x).toBeCloseTo(0.1, 2);
	});
});

test("a pendulum on a pin keeps 2π √(l/g) for small swings and its height", async () => {
	const run = await runShot(
		shotOf(
			ball("bob", [0.1, -2, 0], 0.05),
			setBody(["bob"], { kind: "active", mass: 3 }),
			connector("pin", { a: "bob", from: [0, 0, 0] }),
			setSettings({ lastFrame: 240 }),
		),
	);
	const times = risings(track(run, "bob", 0, 240), 0);
	const length = Math.sqrt(4.01) + (0.4 * 0.05 ** 2) / Math.sqrt(4.01);
	const period = (times.at(-1)! - times[0]!) / (times.length - 1) / 24;
	expect(period / (2 * Math.PI * Math.sqrt(length / 9.81))).toBeCloseTo(1, 2);
	expect(Math.max(...track(run, "bob", 0, 240).slice(180))).toBeGreaterThan(0.093);
});

test("a hinge with a motor turns its first body at its speed about its x axis; with stops it goes no further", async () => {
	const door = (options: Record<string, OptionValue>) =>
		runShot(
			shotOf(
				shape("door", "box", { width: 1, height: 2, depth: 0.05 }, [0.5, 1, 0]),
				setBody(["door"], { kind: "active", mass: 20 }),
				// Its x axis upright.
				connector("hinge", { a: "door", from: [0, 1, 0], turn: [0, 0, Math.SQRT1_2, Math.SQRT1_2], options }),
				setSettings({ gravity: [0, 0, 0], lastFrame: 49 }),
			),
		);
	const angle = (run: TestRun, frame: number) => {
		const [x, , z] = run.at("door", frame);
		return (Math.atan2(-z, x) * 180) / Math.PI;
	};
	const driven = await door({ motor: "speed", speed: 30, power: 500 });
	expect(angle(driven, 49) - angle(driven, 25)).toBeCloseTo(30, 0);
	const stopped = await door({ motor: "speed", speed: 90, power: 500, limits: "between", least: -20, most: 40 });
	expect(angle(stopped, 49)).toBeCloseTo(40, 0);
	const placed = await door({ motor: "place", place: 25, power: 800 });
	expect(angle(placed, 49)).toBeCloseTo(25, 0);
});

test("a slider slides down its tilted axis at g sin α and stops at its end", async () => {
	const tilt = Math.PI / 6;
	const run = await runShot(
		shotOf(
			shape("sled", "box", { width: 0.3, height: 0.3, depth: 0.3 }, [0, 0, 0]),
			setBody(["sled"], { kind: "active", mass: 5 }),
			connector("slider", {
				a: "sled",
				turn: [0, 0, Math.sin(-tilt / 2), Math.cos(tilt / 2)],
				options: { limits: "between", least: -1, most: 3 },
			}),
			setSettings({ lastFrame: 60 }),
		),
	);
	const way = (frame: number) => Math.sqrt(run.at("sled", frame).reduce((sum, v) => sum + v * v, 0));
	// ½ g sin 30° t²
	expect(way(13) / (0.5 * 9.81 * 0.5 * 0.25)).toBeCloseTo(1, 1);
	expect(way(60)).toBeCloseTo(3, 1);
});

test("a rope keeps its length within a percent under a thousand times its upper end's mass", async () => {
	const run = await runShot(
		shotOf(
			ball("ring", [0, -0.5, 0], 0.05),
			ball("load", [0.6, -1.3, 0], 0.3),
			setBody(["ring"], { kind: "active", mass: 1 }),
			setBody(["load"], { kind: "active", mass: 1000 }),
			connector("rope", { name: "upper", a: "ring", from: [0, -0.5, 0], to: [0, 0, 0] }),
			connector("rope", { name: "lower", a: "load", b: "ring", from: [0.6, -1.3, 0], to: [0, -0.5, 0] }),
			setSettings({ lastFrame: 240 }),
		),
	);
	for (let frame = 1; frame <= 240; frame += 7) {
		const [ring, load] = [run.at("ring", frame), run.at("load", frame)];
		const length = (a: readonly number[], b: readonly number[]) => Math.sqrt(a.reduce((sum, v, k) => sum + (v - b[k]!) ** 2, 0));
		expect(length(ring, [0, 0, 0])).toBeLessThan(0.5 * 1.01);
		expect(length(ring, load)).toBeLessThan(1.01);
	}
});

test("a chain of 30 real links with 500 kg on it swings for 20 s, no link more than 3 % further from the next, and keeps its energy", async () => {
	const pitch = 0.15;
	const run = await runShot(
		shotOf(
			shape("link", "torus", { radius: 0.1, wire: 0.025, segments: 20, sides: 8 }),
			addArray({
				id: "chain",
				name: "chain",
				source: {
					kind: "array",
					sources: ["link"],
					layout: "line",
					options: { count: 30, stepX: 0, stepY: 0, stepZ: -pitch, turnX: 0, turnY: 0, turnZ: 90 },
				},
				translation: [0, 0, 0],
			}),
			placeObject("chain", { rotation: fromTo([0, 0, 1], [0, 1, 0]) }),
			setBody(["chain"], { kind: "active", mass: 2, collider: "parts" }),
			ball("buoy", [0, -30 * pitch - 0.2, 0], 0.25),
			setBody(["buoy"], { kind: "active", mass: 500, velocity: [4, 0, 0] }),
			connector("pin", { a: WORLD, b: "buoy", options: { between: "chain", on: "chain/*" } }),
			setSettings({ lastFrame: 480 }),
		),
	);
	expect(run.scene.joints).toHaveLength(31);
	for (const frame of [1, 6, 24, 120, 240, 360, 480])
		for (let link = 0; link < 29; link++) {
			const [one, other] = [run.at(`chain:${link}`, frame), run.at(`chain:${link + 1}`, frame)];
			expect(Math.sqrt(one.reduce((sum, v, k) => sum + (v - other[k]!) ** 2, 0))).toBeLessThan(pitch * 1.03);
		}
	const late = Array.from({ length: 120 }, (_, f) => run.at("buoy", 361 + f)[1]);
	// As high as v² / 2g, or nearly so, after 15 s still.
	expect(Math.max(...late) - Math.min(...late)).toBeGreaterThan(0.7 * (16 / (2 * 9.81)));
}, 120_000);

describe("a connector breaks at its load", () => {
	const weight = 100 * 9.81;
	const hang = (kind: string, force: number) =>
		runShot(
			shotOf(
				ball("hook", [0, 0, 0]),
				setBody(["hook"], { kind: "passive" }),
				ball("upper", [0, -1, 0]),
				ball("lower", [0, -2, 0]),
				setBody(["upper", "lower"], { kind: "active", mass: 50 }),
				connector(kind, {
					name: "top",
					a: "upper",
					b: "hook",
					from: [0, -0.5, 0],
					to: [0, -0.5, 0],
					options: { breaks: "load", force, moment: 1e9 },
				}),
				connector("pin", { name: "between", a: "lower", b: "upper", from: [0, -1.5, 0] }),
				setSettings({ lastFrame: 36 }),
			),
		);
	test.each(["fixed", "pin", "hinge", "slider"])("%s: its weight and that of what hangs from it, to 2 %", async (kind) => {
		// The slider's axis is level: it holds what is across.
		expect(partings(await hang(kind, weight * 1.02))).toEqual([]);
		const broke = partings(await hang(kind, weight * 0.98));
		expect(broke).toHaveLength(1);
		expect(broke[0]!.load / weight).toBeCloseTo(1, 1);
		// Where it held, but for what has been fallen since.
		[0, -0.5, 0].forEach((v, k) => {
			expect(broke[0]!.place[k]).toBeCloseTo(v, 1);
		});
	});
	test("a pendulum that is let go level bears three times its weight at the bottom, and no more", async () => {
		const swing = (share: number) =>
			runShot(
				shotOf(
					ball("bob", [2, 0, 0], 0.05),
					setBody(["bob"], { kind: "active", mass: 10 }),
					connector("pin", { a: "bob", from: [0, 0, 0], options: { breaks: "load", force: 3 * 98.1 * share } }),
					setSettings({ lastFrame: 48 }),
				),
			);
		expect(partings(await swing(1.03))).toEqual([]);
		const run = await swing(0.97);
		const [broke] = partings(run);
		expect(broke).toBeDefined();
		expect(Math.abs(run.at("bob", broke!.frame)[0])).toBeLessThan(0.8);
	});
});

test("where nothing takes anything, what does not add up is taken off those that are not sure", () => {
	const edge = [[0, 1]] as const;
	const needs = [
		[0, 10, 0],
		[0, -16, 0],
	] as const;
	expect(spread(edge, (i) => needs[i]!)).toEqual([[0, 13, 0]]);
	expect(
		spread(
			edge,
			(i) => needs[i]!,
			(i) => i === 0,
		),
	).toEqual([[0, 10, 0]]);
});

test("loads around a loop are the smallest that fit, along a tree the only ones", () => {
	const tree = spread(
		[
			[0, -1],
			[1, 0],
		] as const,
		() => [0, 10, 0],
	);
	expect(tree).toEqual([
		[0, 20, 0],
		[0, 10, 0],
	]);
	const loop = spread(
		[
			[0, -1],
			[0, -1],
		] as const,
		() => [0, 10, 0],
	);
	expect(loop.map(([, y]) => y)).toEqual([5, 5]);
});

describe("a pin with a cone", () => {
	const rod = (cone: Record<string, OptionValue>, spin: [number, number, number]) =>
		runShot(
			shotOf(
				shape("rod", "box", { width: 0.06, height: 1, depth: 0.06 }, [0, -0.5, 0]),
				setBody(["rod"], { kind: "active", spin, velocity: [-spin[2] * -0.5, 0, -spin[0] * 0.5] }),
				// Its own x axis points down, along the rod.
				connector("pin", { a: "rod", from: [0, 0, 0], to: [0, 0, 0], turn: fromTo([1, 0, 0], [0, -1, 0]), options: cone }),
				setSettings({ lastFrame: 120 }),
			),
		);
	const angles = (run: TestRun) =>
		Array.from({ length: 120 }, (_, f) => {
			const [x, y, z] = run.at("rod", f + 1);
			return (Math.atan2(Math.hypot(x, z), -y) * 180) / Math.PI;
		});
	test("swings no farther than it says, to any side, and no higher each time", async () => {
		for (const spin of [
			[0, 0, 6],
			[4, 0, 4],
		] as [number, number, number][]) {
			const free = angles(await rod({}, spin));
			const held = angles(await rod({ limits: "cone", cone: 30 }, spin));
			expect(Math.max(...free)).toBeGreaterThan(60);
			expect(Math.max(...held)).toBeLessThan(30.5);
			expect(Math.max(...held)).toBeGreaterThan(28);
			expect(Math.max(...held.slice(60))).toBeLessThanOrEqual(Math.max(...held.slice(0, 60)) + 0.1);
		}
	});
});

test("what hangs from one of several bonded bodies that hold still does not bump into the others, unless it shall", async () => {
	// A post hangs from a slab, and a weight swings towards it.
	const swing = async (collide: string) => {
		const run = await runShot(
			shotOf(
				shape("wall", "box", { width: 0.5, height: 0.4, depth: 0.5 }, [-0.75, 1, 0]),
				setBody(["wall"], { kind: "passive" }),
				shape("slab", "box", { width: 1, height: 0.4, depth: 0.5 }, [0, 1, 0]),
				shape("post", "box", { width: 0.3, height: 0.5, depth: 0.5 }, [0.35, 0.55, 0]),
				setBody(["slab", "post"], { kind: "active" }),
				addBondSet("bonds", {
					name: "Bonds",
					options: { by: "near", among: "all", reach: 0.01, on: '"slab" or "post"', strength: "endless", foot: "touching" },
					changes: [],
					hidden: false,
				}),
				ball("weight", [0, 0.5, 0]),
				setBody(["weight"], { kind: "active", velocity: [2, 0, 0] }),
				connector("pin", { a: "weight", b: "slab", from: [0, 0.8, 0], to: [0, 0.8, 0], options: { collide } }),
				setSettings({ lastFrame: 24 }),
			),
		);
		expect(run.scene.bonds.count).toBe(2);
		return Math.max(...track(run, "weight", 0, 24));
	};
	// v² / 2 g = l (1 − cos φ); the post stands at 0.2 m, the weight is 0.1 m thick.
	expect(await swing("no")).toBeCloseTo(0.3 * Math.sqrt(1 - (1 - 4 / (2 * 9.81 * 0.3)) ** 2), 1);
	expect(await swing("yes")).toBeLessThan(0.105);
});

test("a spring by axis holds turns about its own axes with their shares only", async () => {
	const run = await runShot(
		shotOf(
			shape("bar", "box", { width: 1, height: 0.2, depth: 0.2 }),
			setBody(["bar"], { kind: "active", mass: 12, spin: [1, 1, 0] }),
			connector("spring", {
				a: "bar",
				options: { acts: "axes", stiffness: 1000, damping: 50, turning: 200, turnDamping: 30, turnX: 0 },
			}),
			setSettings({ lastFrame: 96, gravity: [0, 0, 0] }),
		),
	);
	const at = run.scene.ids.indexOf("bar") * 7;
	const q = run.chunks
		.at(-1)!
		.poses.slice(-run.scene.shown * 7)
		.slice(at + 3, at + 7);
	// About x nothing holds it: after 4 s at 1 rad/s it has turned by 4 rad; about the upright it is back.
	expect(Math.abs(2 * Math.atan2(Math.abs(q[0]!), Math.abs(q[3]!)))).toBeCloseTo(2 * Math.PI - 95 / 24, 0);
	expect(Math.abs(q[1]!)).toBeLessThan(0.03);
});
