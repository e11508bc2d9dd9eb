import { expect, test } from "@jest/globals";
import { WORLD } from "@rubble/core/connectors";
import { fromEuler, type Vec3 } from "@rubble/core/maths";
import { addObject, type Command, edit, emptyShot, poseObject, type Shot, setBody } from "@rubble/core/shot";
import { endsBetween, hangsBetween } from "./hanging";

const at = (id: string, translation: Vec3): Command =>
	addObject({ id, name: id, source: { kind: "shape", shape: "box", parameters: {} }, translation });
const shotOf = (...commands: readonly Command[]): Shot => commands.reduce((shot, one) => edit(shot, one).shot, emptyShot("Quay"));
const middle = [0, 0, 0] as const;
const sizes = {
	beam: { size: [2, 0.2, 0.2], middle },
	higher: { size: [2, 0.2, 0.2], middle },
	link: { size: [0.3, 0.5, 0.1], middle },
	buoy: { size: [1, 1, 1], middle },
	aside: { size: [1, 1, 1], middle },
	quay: { size: [9, 1, 9], middle },
} as const;
const scene = shotOf(
	at("beam", [0, 4, 0]),
	at("higher", [0, 5, 0]),
	at("link", [0.5, 3.6, 0]),
	at("buoy", [0.6, 1, 0]),
	at("aside", [3, 2, 0]),
	at("quay", [0, -1, 0]),
	setBody(["beam", "higher", "quay"], { kind: "passive" }),
	setBody(["buoy", "aside"], { kind: "active" }),
);

test("a chain hangs from the lowest thing above its link, and carries the highest active one below it", () => {
	const found = hangsBetween(scene, sizes, "link");
	expect(found).toMatchObject({ top: "beam", hero: "buoy" });
	expect(found.drop).toBeCloseTo(3.6 - 1.5, 9);
	// A beam that stands on end is above it no more; of two above, the lower one.
	const upright = edit(scene, poseObject("beam", 0, { rotation: fromEuler([0, 0, Math.PI / 2]) })).shot;
	expect(hangsBetween(upright, sizes, "link").top).toBe("higher");
});

test("where nothing is above or below it hangs from the world and carries nothing; what takes no part does not count", () => {
	const alone = shotOf(at("link", [0.5, 3.6, 0]), at("buoy", [0.6, 1, 0]), at("beam", [0, 4, 0]));
	expect(hangsBetween(alone, sizes, "link")).toEqual({ top: WORLD, hero: "", drop: 0 });
	expect(hangsBetween(alone, {}, "link")).toEqual({ top: WORLD, hero: "", drop: 0 });
});

test("between things that are not above each other it begins and ends on the sides that face each other", () => {
	// From the beam's end, which looks at what is aside of it, to that one's upper side: 3 m aside and 2 m lower.
	const ends = endsBetween(scene, sizes, "beam", "aside")!;
	const [from, to] = [ends.from, ends.to].map((place) => place.map((x) => Number(x.toFixed(6))));
	expect(from).toEqual([0.15, 3.9, 0]);
	expect(to).toEqual([2.5, Number((2 + 1 / 3).toFixed(6)), 0]);
	// Straight below the link it hangs down from it, wherever the middle of what holds it is.
	expect(endsBetween(scene, sizes, "beam", "buoy", "link")).toBeUndefined();
	expect(endsBetween(scene, sizes, "beam", "aside", "link")).toEqual(ends);
	expect(endsBetween(scene, sizes, "higher", "quay")).toBeUndefined();
	expect(endsBetween(scene, sizes, WORLD, "aside")).toBeUndefined();
});
