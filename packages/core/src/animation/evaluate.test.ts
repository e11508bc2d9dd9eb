import { fromAxisAngle, rotate } from "../maths";
import { edit, type Shot, setKey, tickOfFrame } from "../shot";
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
