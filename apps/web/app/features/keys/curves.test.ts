import { fromEuler, radians } from "@rubble/core/maths";
import { addObject, edit, emptyShot, type Key, type Shot, setKey, setKeys, setNumberKey } from "@rubble/core/shot";
import { changedKeys, linesOf, roomFor, stopAt } from "./curves";

const shot: Shot = [
	addObject({ id: "f", name: "F", source: { kind: "force", force: "push", options: {} } }),
	setKey("f", 0, { translation: [0, 1, 2] }, "linear"),
	setKey("f", 100, { translation: [4, 1, 2] }, "curved"),
	setNumberKey("f", "strength", 50, 7),
].reduce((made, command) => edit(made, command).shot, emptyShot("Test"));

test("a place has three lines, a keyed number one, and they read what the keys say between them", () => {
	const lines = linesOf(shot, "f");
	expect(lines.map(({ label, points }) => [label, points.map(({ value }) => value)])).toEqual([
		["x", [0, 4]],
		["height", [1, 1]],
		["z", [2, 2]],
		["strength", [7]],
	]);
	expect(lines[0]!.at(50)).toBeCloseTo(2, 9);
	expect(linesOf(shot, "nobody")).toEqual([]);
});

test("only the picked parts of picked keys change, in time, value, easing and slope", () => {
	const keys = shot.objects.f!.keys.translation as readonly Key<unknown>[];
	const moved = changedKeys(keys, [{ part: 0, index: 1 }], { ticks: 50, by: 0.5, easing: "stepped" });
	expect(moved).toEqual([keys[0], { ...keys[1], tick: 150, value: [4.5, 1, 2], easing: "stepped" }]);
	const steep = changedKeys(keys, [{ part: 2, index: 0 }], { slope: 3 });
	expect(steep[0]!.slope).toEqual([0, 0, 3]);
	expect(changedKeys(steep, [{ part: 2, index: 0 }], { slope: null })[0]).not.toHaveProperty("slope");
	expect(changedKeys([{ tick: 0, value: 2, easing: "linear" }], [{ part: 0, index: 0 }], { by: 1, slope: 4 })).toEqual([
		{ tick: 0, value: 3, easing: "linear", slope: 4 },
	]);
	// Nothing lies before the first frame.
	expect(changedKeys(keys, [{ part: 0, index: 0 }], { ticks: -80 })[0]!.tick).toBe(0);
});

test("keys that are moved keep their order and a frame between them", () => {
	const keys = [0, 100, 200, 300].map((tick) => ({ tick }));
	expect(roomFor(keys, new Set([1]), 500, 50)).toBe(50);
	expect(roomFor(keys, new Set([1]), -500, 50)).toBe(-50);
	expect(roomFor(keys, new Set([1, 2]), 500, 50)).toBe(50);
	expect(roomFor(keys, new Set([2, 3]), 500, 50)).toBe(500);
	expect(roomFor(keys, new Set([0]), -10, 50)).toBe(0);
});

test("turns have lines in degrees without flips, and come back from them", () => {
	const turning = [0, 80, 160, 240, 320].reduce(
		(made, angle, n) => edit(made, setKey("f", 100 * n, { rotation: fromEuler([0, 0, radians(angle)]) }, "linear")).shot,
		shot,
	);
	const line = linesOf(turning, "f").find(({ id }) => id === "rotation.2")!;
	expect([line.label, line.unit]).toEqual(["turn z", "°"]);
	expect(line.points.map(({ value }) => Math.round(value))).toEqual([0, 80, 160, 240, 320]);
	expect(line.at(350)).toBeCloseTo(280, 4);
	const keys = turning.objects.f!.keys.rotation as readonly Key<unknown>[];
	const more = changedKeys(keys, [{ part: 2, index: 4 }], { by: 30 });
	const changed = edit(turning, setKeys("f", "rotation", more)).shot;
	expect(
		linesOf(changed, "f")
			.find(({ id }) => id === "rotation.2")!
			.points.map(({ value }) => Math.round(value)),
	).toEqual([0, 80, 160, 240, 350]);
	expect(changedKeys(keys, [{ part: 2, index: 4 }], { slope: 3 })[4]).not.toHaveProperty("slope");
});

test("picked keys are spread in time and value, and smoothed between their neighbours", () => {
	const keys = [0, 4, 0, 4, 0].map((value, n): Key<unknown> => ({ tick: 100 * n, value, easing: "linear" }));
	const picked = [1, 2, 3].map((index) => ({ part: 0, index }));
	const spread = changedKeys(keys, picked, { spread: { time: 0.5, from: 100, value: 2 } });
	expect(spread.map(({ tick }) => tick)).toEqual([0, 100, 150, 200, 400]);
	const mean = 8 / 3;
	expect(spread.map(({ value }) => Number((value as number).toFixed(6)))).toEqual(
		[0, mean + 2 * (4 - mean), mean - 2 * mean, mean + 2 * (4 - mean), 0].map((v) => Number(v.toFixed(6))),
	);
	expect(changedKeys(keys, picked, { smooth: true }).map(({ value }) => value)).toEqual([0, 2, 2, 2, 0]);
});

test("stopped at a frame, it stays as it is then in place, turn and numbers, and what ended before is left", () => {
	const moving = [
		setKey("f", 0, { rotation: fromEuler([0, 0, 0]) }, "linear"),
		setKey("f", 80, { rotation: fromEuler([0, 0, radians(80)]) }, "linear"),
		setNumberKey("f", "strength", 90, 9),
		setNumberKey("f", "reach", 10, 3),
	].reduce((made, command) => edit(made, command).shot, shot);
	const stopped = edit(moving, stopAt(moving, "f", 40)).shot;
	const lines = (of: Shot) => Object.fromEntries(linesOf(of, "f").map((line) => [line.id, line]));
	const [before, after] = [lines(moving), lines(stopped)];
	expect(after["translation.0"]!.points.map(({ tick }) => tick)).toEqual([0, 40]);
	for (const [id, line] of Object.entries(after))
		for (const tick of [0, 20, 40]) expect(line.at(tick)).toBeCloseTo(before[id]!.at(tick), 9);
	for (const line of Object.values(after)) expect(line.at(500)).toBeCloseTo(line.at(40), 9);
	expect(after["rotation.2"]!.at(500)).toBeCloseTo(40, 6);
	expect(after["numbers.reach"]!.points).toEqual(before["numbers.reach"]!.points);
	// Nothing goes on after the last key.
	expect(edit(stopped, stopAt(stopped, "f", 60)).shot).toEqual(stopped);
});
