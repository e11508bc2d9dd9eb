import { rotate, vec3 } from "../maths";
import { addObject, CAMERA_DEFAULTS, edit, parseShot, removeObjects, setHelper, setKey, setNumberKey } from "../shot";
import { shotOf } from "../testing";
import { cameraPose, FIELD_OF_VIEW, fieldOfViewAt } from ".";

const beacon = addObject({ id: "b", name: "Beacon", source: { kind: "beacon" }, translation: [0, 1, 0] });
const camera = addObject({ id: "c", name: "Camera", source: CAMERA_DEFAULTS, translation: [3, 2, 4] });

test("a camera keeps what it aims at in the middle, upright, while both move by keys", () => {
	const shot = shotOf(
		beacon,
		camera,
		setHelper("c", "camera", { aim: "b" }),
		setKey("c", 0, { translation: [3, 2, 4] }),
		setKey("c", 1200, { translation: [-5, 0.5, 1] }, "linear"),
		setKey("b", 0, { translation: [0, 1, 0] }),
		setKey("b", 1200, { translation: [2, 3, -1] }, "linear"),
	);
	for (const tick of [0, 300, 777, 1200]) {
		const { translation, rotation } = cameraPose(shot, "c", tick);
		const target = vec3.mix([0, 1, 0], [2, 3, -1], tick / 1200);
		const wanted = vec3.normalize(vec3.subtract(target, translation));
		rotate(rotation, [0, 0, -1]).map((x, k) => expect(x).toBeCloseTo(wanted[k]!, 9));
		// The horizon is level.
		expect(rotate(rotation, [1, 0, 0])[1]).toBeCloseTo(0, 9);
		expect(rotate(rotation, [0, 1, 0])[1]).toBeGreaterThan(0);
	}
});

test("straight down is no riddle, and without an aim the camera's own turn holds", () => {
	const down = shotOf(beacon, addObject({ id: "c", name: "Camera", source: { ...CAMERA_DEFAULTS, aim: "b" }, translation: [0, 5, 0] }));
	expect(rotate(cameraPose(down, "c", 0).rotation, [0, 0, -1]).map((x) => Number(x.toFixed(9)) + 0)).toEqual([0, -1, 0]);
	expect(cameraPose(shotOf(camera), "c", 0).rotation).toEqual([0, 0, 0, 1]);
});

test("a deleted beacon leaves the camera without an aim, and the shot valid", () => {
	const shot = edit(shotOf(beacon, camera, setHelper("c", "camera", { aim: "b" })), removeObjects(["b"])).shot;
	expect(shot.objects.c!.source).toMatchObject({ aim: null });
	expect(parseShot(JSON.parse(JSON.stringify(shot)))).toMatchObject({ ok: true });
	const wrong = shotOf(camera, setHelper("c", "camera", { near: 9, far: 3 }));
	expect(parseShot(JSON.parse(JSON.stringify(wrong)))).toMatchObject({ ok: false });
	const dangling = shotOf(camera, setHelper("c", "camera", { aim: "nobody" }));
	expect(parseShot(JSON.parse(JSON.stringify(dangling)))).toMatchObject({ ok: false });
});

test("a field of view is what is set, or goes by its keys", () => {
	const still = shotOf(camera, setHelper("c", "camera", { fieldOfView: 50 }));
	expect([fieldOfViewAt(still, "c", 0), fieldOfViewAt(still, "c", 900)]).toEqual([50, 50]);
	const zoom = [0, 1200].reduce((shot, tick) => edit(shot, setNumberKey("c", FIELD_OF_VIEW, tick, tick === 0 ? 60 : 20)).shot, still);
	expect([0, 300, 1200, 5000].map((tick) => fieldOfViewAt(zoom, "c", tick))).toEqual([60, 50, 20, 20]);
	expect(parseShot(JSON.parse(JSON.stringify(zoom)))).toMatchObject({ ok: true });
});
