import { angleBetween, angularVelocityBetween, fromAxisAngle, rotate } from "../maths";
import {
	addLayer,
	changeLayer,
	type Easing,
	edit,
	keysIn,
	parseShot,
	removeLayer,
	type Shot,
	setBody,
	setKey,
	setKeys,
	tickOfFrame,
} from "../shot";
import { frameHashes } from "../simulation";
import { shape, shotOf } from "../testing";
import { correctionFor, isKeyed, localPose, moves, shearProblem, worldPose, worldScale } from ".";

const cube = { width: 1, height: 1, depth: 1 };
const keyed = (...keys: [number, [number, number, number], Easing?][]): Shot =>
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

test("a correction moves a motion only between its ends; muted or taken away, all is as before", () => {
	const plain = keyed([0, [0, 0, 0]], [300, [3, 0, 0]]);
	const begun = edit(plain, addLayer("a", "Over the sill", [100, 200])).shot;
	expect([50, 150, 250].map((tick) => at(begun, tick))).toEqual([50, 150, 250].map((tick) => at(plain, tick)));
	const wanted = correctionFor(begun.objects.a!, 0, 150, { translation: [1.5, 0.4, 0] });
	expect(wanted).toEqual({ translation: [0, 0.4, 0] });
	const corrected = edit(begun, setKey("a", 150, wanted, undefined, 0)).shot;
	expect([50, 100, 125, 150, 200, 300].map((tick) => at(corrected, tick)[1])).toEqual([0, 0, 0.2, 0.4, 0, 0]);
	expect(corrected.objects.a!.keys.translation).toEqual(plain.objects.a!.keys.translation);
	expect(keysIn(corrected.objects.a!.keys, "layers.0.translation").map(({ tick }) => tick)).toEqual([100, 150, 200]);
	const muted = edit(corrected, changeLayer("a", 0, { muted: true })).shot;
	expect(at(muted, 150)).toEqual([1.5, 0, 0]);
	expect(edit(corrected, removeLayer("a", 0)).shot.objects.a!.keys).toEqual(plain.objects.a!.keys);
	expect(parseShot(JSON.parse(JSON.stringify(corrected)))).toEqual({ ok: true, value: corrected });
	const lists = edit(corrected, setKeys("a", "layers.0.translation", [])).shot.objects.a!.keys;
	expect([lists.layers![0]!.translation, lists.translation.length]).toEqual([[], 2]);
});

test("corrections over each other add up, and each can be made to bring the object to a wanted pose", () => {
	const turned = fromAxisAngle([0, 1, 0], 0.5);
	let shot = keyed([0, [0, 0, 0]], [300, [3, 0, 0]]);
	shot = edit(shot, setKey("a", 0, { rotation: fromAxisAngle([1, 0, 0], 0.3) })).shot;
	for (const name of ["One", "Two", "Three"]) shot = edit(shot, addLayer("a", name, [0, 300])).shot;
	shot = edit(shot, setKey("a", 150, { translation: [0, 1, 0], rotation: turned }, undefined, 0)).shot;
	shot = edit(shot, setKey("a", 150, { translation: [0, 0, 2], rotation: fromAxisAngle([0, 0, 1], 0.7) }, undefined, 2)).shot;
	const wanted = { translation: [5, 5, 5] as const, rotation: fromAxisAngle([0.6, 0, 0.8], 1.1) };
	shot = edit(shot, setKey("a", 150, correctionFor(shot.objects.a!, 1, 150, wanted), undefined, 1)).shot;
	const pose = localPose(shot.objects.a!, 150);
	pose.translation.forEach((value, k) => {
		expect(value).toBeCloseTo(wanted.translation[k]!, 12);
	});
	expect(angleBetween(pose.rotation, wanted.rotation)).toBeLessThan(1e-7);
});

test("a correction makes frames stale from where it begins to act, and alone makes a still thing move", () => {
	const still = shotOf(shape("a", "box", cube), setBody(["a"], { kind: "animated" }));
	const begun = edit(still, addLayer("a", "Nudge", [tickOfFrame(still.settings, 10), tickOfFrame(still.settings, 20)])).shot;
	const nudged = edit(begun, setKey("a", tickOfFrame(still.settings, 15), { translation: [1, 0, 0] }, undefined, 0)).shot;
	expect([
		isKeyed(still.objects.a!),
		isKeyed(nudged.objects.a!),
		isKeyed(edit(nudged, changeLayer("a", 0, { muted: true })).shot.objects.a!),
	]).toEqual([false, true, false]);
	const [before, after] = [frameHashes(begun), frameHashes(nudged)];
	const { firstFrame } = still.settings;
	// At frame 10 it is still where it was.
	expect(before.findIndex((hash, n) => hash !== after[n]) + firstFrame).toBe(11);
});
