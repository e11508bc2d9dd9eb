import { fromAxisAngle } from "../../maths";
import { shape, shotOf } from "../../testing";
import { edit } from "../edit";
import { objectPath, orderedObjects } from "../names";
import { topmost, ungrouped, withInside } from "../references";
import type { Shot } from "../types";
import { setBody } from "./bodies";
import { addConnector, connectorOf } from "./connectors";
import { duplicateObjects } from "./duplicate";
import { setFracture } from "./fractures";
import { setKey } from "./keys";
import { setLink } from "./links";
import { addObject, groupObjects, placeObject } from "./objects";

const rig = (): Shot =>
	shotOf(
		shape("post", "box", {}),
		shape("coil", "coil", {}),
		shape("block", "box", {}),
		addObject({ id: "eye", name: "Eye", source: { kind: "camera", fieldOfView: 30, near: 0.1, far: 100, aim: "block" } }),
		setFracture("f", { object: "block", method: "cutter", options: { cutters: ["post"] } }),
		setBody(["block"], { kind: "active", proxy: "post" }),
		setBody(["f:00002"], { mass: 3 }),
		setKey("post", 600, { translation: [1, 0, 0] }),
		setLink("l", { object: "coil", property: "pitch", source: "block", formula: "-height", keeps: "top", hidden: false }),
		addConnector("c", connectorOf("pin", { name: "Pin", options: {}, a: "f:00002", b: "post", from: [0, 1, 0], to: [0, 1, 0] })),
		addConnector("w", connectorOf("pin", { name: "Hook", options: {}, a: "coil", b: "", from: [0, 2, 0], to: [0, 2, 0] })),
		groupObjects(["post", "coil", "block", "eye"], "g", "Rig"),
	);

const counting = () => {
	let n = 0;
	return () => `new${++n}`;
};

test("a group is copied with all that it holds, and what names each other in it names the copies", () => {
	const before = rig();
	const { shot } = edit(before, duplicateObjects(["g", "post"], counting(), [5, 0, 0]));
	const copies = Object.keys(shot.objects).filter((id) => !before.objects[id]);
	expect(copies.map((id) => objectPath(shot, id)).sort()).toEqual(["Rig 2", "Rig 2/Eye", "Rig 2/block", "Rig 2/coil", "Rig 2/post"]);
	const named = (name: string) => copies.find((id) => shot.objects[id]!.name === name)!;
	expect(shot.objects[named("Rig 2")]!.translation).toEqual([5, 0, 0]);
	expect(shot.objects[named("block")]!.translation).toEqual(before.objects.block!.translation);
	expect(shot.objects[named("Eye")]!.source).toMatchObject({ aim: named("block") });
	expect(shot.objects[named("post")]!.keys).toEqual(before.objects.post!.keys);
	expect(shot.bodies[named("block")]).toEqual({ kind: "active", proxy: named("post") });
	const [broken, fracture] = Object.entries(shot.fractures).find(([id]) => id !== "f")!;
	expect(fracture).toMatchObject({ object: named("block"), options: { cutters: [named("post")] } });
	expect(shot.overrides[`${broken}:00002`]).toEqual({ mass: 3 });
	expect(Object.values(shot.links).map(({ object, source }) => [object, source])).toEqual([
		["coil", "block"],
		[named("coil"), named("block")],
	]);
	expect(Object.values(shot.connectors).map(({ a, b, from }) => [a, b, from])).toEqual([
		["f:00002", "post", [0, 1, 0]],
		["coil", "", [0, 2, 0]],
		[`${broken}:00002`, named("post"), [5, 1, 0]],
		[named("coil"), "", [5, 2, 0]],
	]);
	// What was there is as it was.
	for (const id of Object.keys(before.objects)) expect({ ...shot.objects[id], order: 0 }).toEqual({ ...before.objects[id], order: 0 });
});

test("what is copied alone goes on naming what is not; its connectors to others stay theirs", () => {
	const turned = edit(rig(), placeObject("g", { rotation: fromAxisAngle([0, 1, 0], Math.PI / 2), scale: [2, 2, 2] })).shot;
	const { shot } = edit(turned, duplicateObjects(["block", "coil"], counting(), [1, 0, 0]));
	const copy = Object.keys(shot.objects).find((id) => shot.objects[id]!.name === "block 2")!;
	expect(shot.bodies[copy]).toEqual({ kind: "active", proxy: "post" });
	expect(shot.objects[copy]!.parent).toBe("g");
	expect(Object.keys(shot.connectors)).toHaveLength(3);
	// The offset is the group's, which is turned and twice as large: what hangs in the world moves with it.
	const hook = Object.values(shot.connectors)[2]!;
	expect(hook.from.map((x) => Number(x.toFixed(9)) + 0)).toEqual([0, 2, -2]);
	// Copies stand behind what they were made of.
	const names = orderedObjects(shot).map((id) => shot.objects[id]!.name);
	expect(names.indexOf("block 2")).toBeGreaterThan(names.indexOf("block"));
	expect(
		Object.values(shot.objects)
			.map(({ order }) => order)
			.sort((a, b) => a - b),
	).toEqual(names.map((_, i) => i));
});

test("who is in a group, who moves along with another, and what a group stands for", () => {
	const shot = rig();
	expect(withInside(shot, ["g", "post"])).toEqual(["g", "post", "coil", "block", "eye"]);
	expect(withInside(shot, ["gone"])).toEqual([]);
	expect(topmost(shot, ["post", "g", "f:00002"])).toEqual(["g"]);
	expect(topmost(shot, ["f:00002", "coil"])).toEqual(["f:00002", "coil"]);
	expect(topmost(shot, ["f:00002", "block"])).toEqual(["block"]);
	expect(ungrouped(shot, ["g", "coil", "f:00002"])).toEqual(["post", "coil", "block", "eye", "f:00002"]);
});
