import { fromTo, quatAt, rotate, tripleAt, type Vec3, vec3 } from "../maths";
import { addConnector, connectorOf, type OptionValues, setBody, setSettings } from "../shot";
import { runShot, shape, shotOf, type TestRun } from "../testing";
import { jointMarks } from "./marks";

const SIZE = 0.5;

/** A bar that a motor drives against its stop, about or along an axis of the world that is turned into the connector's x. */
const driven = (kind: string, axis: Vec3, options: OptionValues) =>
	runShot(
		shotOf(
			shape("bar", "box", { width: 1, height: 0.1, depth: 0.1 }, [0.5, 2, 0]),
			setBody(["bar"], { kind: "active", mass: 10 }),
			addConnector(
				"hold",
				connectorOf(kind, {
					a: "bar",
					from: [0, 2, 0],
					to: [0, 2, 0],
					turn: fromTo([1, 0, 0], vec3.normalize(axis)),
					options: { limits: "between", motor: "speed", power: 1e5, ...options },
				}),
			),
			setSettings({ gravity: [0, 0, 0], lastFrame: 48 }),
		),
	);

const marksOf = ({ scene }: TestRun) => jointMarks(scene.joints[0]!, tripleAt(scene.position, 0), SIZE);
/** Where a point of the bar that is there at the first frame is at the last one. */
function endOf({ scene, store }: TestRun, place: Vec3): Vec3 {
	const chunk = store.chunks.at(-1)!;
	const pose = chunk.poses.subarray(7 * chunk.bodies * (chunk.frames - 1));
	return vec3.add(tripleAt(pose, 0), rotate(quatAt(pose.subarray(3), 0), vec3.subtract(place, tripleAt(scene.position, 0))));
}
const apart = (a: Vec3, b: Vec3): number => vec3.length(vec3.subtract(a, b));

test.each([
	["up", [0, 1, 0] as Vec3],
	["askew", [0.3, 1, -0.4] as Vec3],
])("the hand of a hinge whose axis looks %s ends on the stop that it is driven against", async (_, axis) => {
	for (const [speed, stop] of [
		[90, 1],
		[-90, 0],
	] as const) {
		const run = await driven("hinge", axis, { least: -20, most: 70, speed });
		const { held, moving } = marksOf(run);
		expect(moving).toHaveLength(1);
		const stops = held.slice(-2);
		expect(apart(stops[stop]![0], [0, 2, 0])).toBeLessThan(1e-9);
		expect(apart(endOf(run, moving[0]![1]), stops[stop]![1])).toBeLessThan(0.02 * SIZE);
		// The arc goes from stop to stop, at one distance.
		const arc = held.slice(1, -2);
		expect(apart(arc[0]![0], stops[0]![1])).toBeLessThan(1e-9);
		expect(apart(arc.at(-1)![1], stops[1]![1])).toBeLessThan(1e-9);
		for (const [from, to] of arc) {
			expect(apart(from, [0, 2, 0])).toBeCloseTo(SIZE, 9);
			expect(apart(from, to)).toBeLessThan(SIZE * 0.11);
		}
	}
});

test("a slider ends at the stop that is drawn", async () => {
	for (const [speed, stop] of [
		[1, 1],
		[-1, 0],
	] as const) {
		const run = await driven("slider", [0, 1, 1], { least: -0.2, most: 0.6, speed });
		const [way, ...across] = marksOf(run).held;
		expect(apart(endOf(run, [0, 2, 0]), way![stop]!)).toBeLessThan(0.01);
		// Each stop is a cross about its end of the way.
		expect(across).toHaveLength(4);
		for (const [k, line] of across.entries()) expect(apart(vec3.mix(...line, 0.5), way![k >> 1]!)).toBeLessThan(1e-9);
	}
});

test("a pin in a cone swings to the rim that is drawn and no farther; free ones have no marks", async () => {
	const hang = (options: OptionValues) =>
		runShot(
			shotOf(
				shape("bar", "box", { width: 0.1, height: 1, depth: 0.1 }, [0, 1.5, 0]),
				setBody(["bar"], { kind: "active", mass: 10, velocity: [4, 0, 0] }),
				addConnector("hold", connectorOf("pin", { a: "bar", from: [0, 2, 0], to: [0, 2, 0], turn: fromTo([1, 0, 0], [0, 1, 0]), options })),
				setSettings({ lastFrame: 48 }),
			),
		);
	const run = await hang({ limits: "cone", cone: 25 });
	const { held, moving } = marksOf(run);
	const rim = held.slice(0, -4);
	const lowest = (at: Vec3): number => at[1];
	expect(new Set(rim.map(([at]) => lowest(at).toFixed(9)))).toEqual(new Set([(2 - SIZE * Math.cos((25 * Math.PI) / 180)).toFixed(9)]));
	// Downwards, to what hangs, though the connector's axis looks up.
	expect(apart(moving[0]![1], [0, 2 - SIZE, 0])).toBeLessThan(1e-9);
	const swings = Array.from({ length: 48 }, (_, f) => {
		const [x, y] = run.at("bar", f + 1);
		return (Math.atan2(x, 2 - y) * 180) / Math.PI;
	});
	expect(Math.max(...swings)).toBeGreaterThan(24);
	expect(Math.max(...swings)).toBeLessThan(25.5);
	expect(marksOf(await hang({}))).toEqual({ held: [], moving: [] });
});
