import { shape, shotOf } from "../../testing";
import { edit } from "../edit";
import { copyBody, setBody } from "./bodies";
import { setFracture } from "./fractures";

test("settings go from one to others: to objects with all their pieces, to single pieces, and from a piece", () => {
	const shot = shotOf(
		...["a", "b", "c"].map((id) => shape(id, "box", {})),
		setFracture("fb", { object: "b", method: "voronoi", options: { count: 4 } }),
		setBody(["a"], { kind: "active", friction: 0.3, mass: 3 }),
		setBody(["b"], { kind: "passive", bounce: 0.9 }),
		setBody(["fb:1", "fb:2"], { margin: 0.002 }),
	);
	const given = edit(shot, copyBody("a", ["b", "a"])).shot;
	expect(given.bodies).toEqual({ a: shot.bodies.a, b: shot.bodies.a });
	expect(given.overrides).toEqual({});
	const pieces = edit(shot, copyBody("a", ["fb:1"])).shot;
	expect([pieces.bodies.b, pieces.overrides]).toEqual([shot.bodies.b, { "fb:1": shot.bodies.a, "fb:2": { margin: 0.002 } }]);
	const back = edit(shot, copyBody("fb:1", ["a", "c"])).shot;
	expect([back.bodies.a, back.bodies.c]).toEqual(Array(2).fill({ kind: "passive", bounce: 0.9, margin: 0.002 }));
	expect(edit(shot, copyBody("gone", ["a"])).shot).toEqual(shot);
});

test("what follows keys keeps doing so when its object is given settings", () => {
	const shot = shotOf(
		shape("a", "box", {}),
		shape("b", "box", {}),
		setBody(["a"], { kind: "active" }),
		setBody(["b:1"], { kind: "animated" }),
	);
	const pose = { translation: [0, 0, 0], rotation: [0, 0, 0, 1] } as const;
	const keyed = {
		...shot,
		motions: { "b:1": { ...pose, keys: { translation: [], rotation: [] }, baked: { take: "Take 1", body: null } } },
	};
	expect(edit(keyed, copyBody("a", ["b"])).shot.overrides).toEqual({ "b:1": { kind: "animated" } });
});
