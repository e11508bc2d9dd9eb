import { hashBytes } from "../../common";
import { type Vec3, vec3 } from "../../maths";
import { type Command, type Shot, setBody, setSettings } from "../../shot";
import { fastest, ropeOf, runInTwo, runShot, shape, shotOf, type TestRun } from "../../testing";
import { encodeCheckpoint } from "..";

/** A rope of 16 parts of 0.1 kg, 2 m long, pinned to two things of so many kg, 0.26 m in front of its ends. */
const between = (kg: number, left: Vec3, more: { a?: object; b?: object } = {}): Command[] => [
	...ropeOf(16, left, vec3.add(left, [2, 0, 0]), "a", "b"),
	shape("a", "box", { width: 0.5, height: 0.5, depth: 0.5 }, [left[0] - 0.26, left[1], left[2]]),
	shape("b", "box", { width: 0.5, height: 0.5, depth: 0.5 }, [left[0] + 2.26, left[1], left[2]]),
	setBody(["a"], { kind: "active", mass: kg, ...more.a }),
	setBody(["b"], { kind: "active", mass: kg, ...more.b }),
];
const apart = ({ at }: TestRun, frame: number): number => vec3.length(vec3.subtract(at("b", frame), at("a", frame)));

test.each([100, 1000])("two crates of %s kg that fly apart are held by a light rope, whirl, and shake nothing off", async (kg) => {
	const run = await runShot(
		shotOf(
			...between(kg, [-1, 0, 0], { a: { velocity: [-2, 0, 3] }, b: { velocity: [2, 0, -3] } }),
			setSettings({ gravity: [0, 0, 0], lastFrame: 60 }),
		),
	);
	for (let frame = 2; frame <= 60; frame++) {
		// Pinned to the middles of their sides: they turn, but no point of them comes farther.
		expect(apart(run, frame)).toBeLessThan(1.05 * 2.52);
		expect(fastest(run, frame)).toBeLessThan(6);
	}
	// Momentum was none, and is none.
	const sum = vec3.add(run.speed("a", 60), run.speed("b", 60));
	expect(vec3.length(sum)).toBeLessThan(0.1);
});

/** One crate slides on a table and is pulled by one that hangs over its edge. */
const overEdge: Shot = shotOf(
	shape("ground", "ground", {}),
	setBody(["ground"], { kind: "passive" }),
	shape("table", "box", { width: 4, height: 3, depth: 2 }, [-2, 1.5, 0]),
	setBody(["table"], { kind: "passive", friction: 0.2 }),
	...between(1000, [-1.5, 3.05, 0], { a: { mass: 250, friction: 0.4 } }),
	setSettings({ lastFrame: 72 }),
);

test("a ton that falls over the edge of a table draws another crate along on a light rope, and nothing is flung away", async () => {
	const run = await runShot(overEdge);
	for (let frame = 2; frame <= 72; frame++) expect(fastest(run, frame)).toBeLessThan(18);
	expect(run.at("b", 72)[1]).toBeLessThan(0.5);
	expect(run.at("a", 72)[0]).toBeGreaterThan(-1);
});

test("a run that goes on while the rope is taut gives the same bytes", async () => {
	const { whole, first, rest } = await runInTwo(overEdge, 18, 30);
	expect(first.end.heavier.taut.some((doublings) => doublings > 0)).toBe(true);
	expect(hashBytes(encodeCheckpoint(rest.end))).toBe(hashBytes(encodeCheckpoint(whole.end)));
});
