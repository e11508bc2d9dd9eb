import { angleBetween, angularVelocityBetween, fromAxisAngle, rotate } from "../maths";
import { edit, parseShot, type Shot, setKey, setKeys, tickOfFrame } from "../shot";
import { shape, shotOf } from "../testing";
import { isKeyed, localPose, moves, shearProblem, worldPose, worldScale } from ".";

const cube = { width: 1, height: 1, depth: 1 };
const keyed = (...keys: [number, [number, number, number], ("linear" | "eased" | "stepped")?][]): Shot =>
	shotOf(shape("a", "box", cube), ...keys.map(([tick, translation, easing]) => setKey("a", tick, { translation }, easing ?? "linear")));
const at = (shot: Shot, tick: number) => localPose(shot.objects.a!, tick).translation;
const changed = (shot: Shot, id: string, change: object): Shot => ({
	...shot,
	objects: { ...shot.objects, [id]: { ...shot.objects[id]!, ...change } },
});

test("linear keys go at even speed, and hold still before the first and after the last", () => {
	const shot = keyed([100, [0, 0, 0]], [300, [4, 0, 0]]);
	expect([0, 100, 150, 200, 300, 900].map((tick) => at(shot, tick)[0])).toEqual([0, 0, 1, 2, 4, 4]);
});

test("eased keys leave and arrive slowly, and are halfway in the middle; stepped ones jump", () => {
	const eased = keyed([0, [0, 0, 0], "eased"], [100, [10, 0, 0]]);
	expect(at(eased, 50)[0]).toBeCloseTo(5, 9);
	expect(at(eased, 5)[0]).toBeLessThan(0.2);
	expect(10 - at(eased, 95)[0]).toBeLessThan(0.2);
	const stepped = keyed([0, [0, 0, 0], "stepped"], [100, [10, 0, 0]]);
	expect([at(stepped, 99)[0], at(stepped, 100)[0]]).toEqual([0, 10]);
});

test("frames of every frame rate fall on whole ticks", () => {
	for (const fps of [24, 25, 30, 60]) expect(tickOfFrame({ ...shotOf().settings, fps, firstFrame: 1 }, 13)).toBe((12 * 1200) / fps);
});

test("a child moves and turns with its parent; even scale reaches its place, uneven scale under a turn is named", () => {
	let shot = shotOf(
		shape("a", "box", cube, [1, 0, 0]),
		shape("b", "box", cube, [0, 0, 1]),
		setKey("a", 0, { rotation: fromAxisAngle([0, 1, 0], Math.PI / 2) }),
	);
	shot = changed(shot, "b", { parent: "a" });
	const { translation, rotation } = worldPose(shot, "b", 0);
	expect(translation.map((v) => Number(v.toFixed(6)))).toEqual([2, 0, 0]);
	expect(rotate(rotation, [1, 0, 0]).map((v) => Math.round(v) + 0)).toEqual([0, 0, -1]);
	expect([isKeyed(shot.objects.b!), moves(shot, "b")]).toEqual([false, true]);
	const scaled = changed(changed(shot, "a", { scale: [2, 2, 2] }), "b", { scale: [1, 3, 1] });
	expect(worldScale(scaled, "b")).toEqual([2, 6, 2]);
	expect(worldPose(scaled, "b", 0).translation[0]).toBeCloseTo(3, 6);
	expect(shearProblem(scaled, "b")).toBeUndefined();
	const sheared = changed(changed(shot, "a", { scale: [1, 2, 1] }), "b", { rotation: fromAxisAngle([0, 0, 1], 0.4) });
	expect(shearProblem(sheared, "b")).toMatch(/scaled unevenly/);
	expect(edit(sheared, setKey("a", 0, {})).shot.objects.a).toEqual(sheared.objects.a);
});

test("curved keys are passed without a jump of speed, never overshoot, and keep slopes of their own", () => {
	const shot = keyed([0, [0, 0, 0], "curved"], [100, [4, 1, 0], "curved"], [200, [6, 1, 0], "curved"], [300, [6, 0, 0], "curved"]);
	for (const [tick, x] of [
		[0, 0],
		[100, 4],
		[200, 6],
		[300, 6],
	] as const)
		expect(at(shot, tick)[0]).toBeCloseTo(x, 9);
	const speed = (s: Shot, tick: number) => (at(s, tick + 0.01)[0] - at(s, tick - 0.01)[0]) / 0.02;
	expect(speed(shot, 99.9)).toBeCloseTo(speed(shot, 100.1), 2);
	for (let tick = 0; tick <= 300; tick++) {
		expect(at(shot, tick)[0]).toBeGreaterThanOrEqual(-1e-9);
		expect(at(shot, tick)[0]).toBeLessThanOrEqual(6 + 1e-9);
	}
	// 24 m/s at the second key, in ticks of 1/1200 s.
	const keys = shot.objects.a!.keys.translation.map((key, i) => (i === 1 ? { ...key, slope: [24, 0, 0] } : key));
	const steep = edit(shot, setKeys("a", "translation", keys)).shot;
	expect(speed(steep, 100)).toBeCloseTo(24 / 1200, 4);
});

test("curved turns go through their keys on a smooth way", () => {
	const turns = [0, 0.6, 1.2, 1.8].map((angle, i) => fromAxisAngle([0.2 * i, 1, 0.2], angle));
	const shot = shotOf(shape("a", "box", cube), ...turns.map((rotation, i) => setKey("a", 100 * i, { rotation }, "curved")));
	const turn = (tick: number) => localPose(shot.objects.a!, tick).rotation;
	turns.forEach((rotation, i) => {
		expect(angleBetween(turn(100 * i), rotation)).toBeLessThan(1e-6);
	});
	for (const key of [100, 200]) {
		const [before, after] = [
			angularVelocityBetween(turn(key - 0.2), turn(key - 0.1), 0.1),
			angularVelocityBetween(turn(key + 0.1), turn(key + 0.2), 0.1),
		];
		expect(Math.hypot(before[0] - after[0], before[1] - after[1], before[2] - after[2]) / Math.hypot(...after)).toBeLessThan(0.15);
	}
});

test("keys of one channel are replaced as a whole: sorted, one for each tick, the others untouched", () => {
	const shot = keyed([0, [0, 0, 0]], [100, [1, 0, 0]]);
	const key = (tick: number, value: number) => ({ tick, value: [value, 0, 0], easing: "linear" as const });
	const moved = edit(shot, setKeys("a", "translation", [key(100, 5), key(40, 2), key(40, 3)])).shot;
	expect(moved.objects.a!.keys.translation.map(({ tick, value }) => [tick, value[0]])).toEqual([
		[40, 3],
		[100, 5],
	]);
	const numbers = edit(moved, setKeys("a", "numbers.strength", [{ tick: 0, value: 3, easing: "stepped" }])).shot;
	expect(numbers.objects.a!.keys.numbers).toEqual({ strength: [{ tick: 0, value: 3, easing: "stepped" }] });
	expect(parseShot(JSON.parse(JSON.stringify(numbers))).ok).toBe(true);
	expect(edit(numbers, setKeys("a", "numbers.strength", [])).shot.objects.a!.keys.numbers).toEqual({});
});
