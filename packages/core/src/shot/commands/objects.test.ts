import { shape, shotOf } from "../../testing";
import { applyEdit, edit, invert } from "../edit";
import { setBody } from "./bodies";
import { addArray, replaceBy } from "./objects";

const two = shotOf(
	shape("cup", "cup", {}),
	shape("rim", "torus", {}),
	setBody(["cup"], { kind: "active", density: 900, mass: 12, centre: [0, 0.1, 0] }),
	setBody(["rim"], { kind: "passive" }),
);
const merged = { id: "merged", name: "Merged", source: { kind: "shape", shape: "box", parameters: {} } } as const;

test("what replaces others is as a body what the first of them was, but for its mass; they are hidden and take no part", () => {
	const { shot, edit: change } = edit(two, replaceBy("Merge", ["cup", "rim"], [merged]));
	expect(shot.bodies.merged).toEqual({ kind: "active", density: 900 });
	expect([shot.bodies.cup!.kind, shot.bodies.rim!.kind]).toEqual(["none", "none"]);
	expect([shot.objects.cup!.hidden, shot.objects.rim!.hidden, shot.objects.merged!.hidden]).toEqual([true, true, false]);
	expect(applyEdit(shot, invert(change).patches)).toEqual(two);
});

test("copies have the mass that was given for what is copied", () => {
	const source = { kind: "array", sources: ["cup"], layout: "line", options: { count: 3 } } as const;
	const { shot } = edit(two, addArray({ id: "row", name: "Row", source }));
	expect(shot.bodies.row).toEqual(two.bodies.cup);
	expect(shot.bodies.cup!.kind).toBe("none");
	expect(shot.bodies.rim).toEqual({ kind: "passive" });
});

test("what replaces things without settings has none either", () => {
	const plain = shotOf(shape("cup", "cup", {}));
	expect(edit(plain, replaceBy("Split Cup", ["cup"], [merged])).shot.bodies).toEqual({});
});
