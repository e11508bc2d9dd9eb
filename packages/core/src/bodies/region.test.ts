import { addObject, edit, placeObject, setFracture, setKey } from "../shot";
import { makeTestWorkshop, shape, shotOf } from "../testing";
import { buildBodies, inRegions, matchesRule, parseRule, piecesHash, regionAt, rowOf, ruleFacts } from ".";

const region = (form: "box" | "ball") =>
	shotOf(
		addObject({ id: "r", name: "Hook", source: { kind: "region", form }, translation: [1, 0, 0] }),
		placeObject("r", { scale: [2, 1, 1], rotation: [0, 0, Math.SQRT1_2, Math.SQRT1_2] }),
	);

test("a region is as large as its size says, turned with it, and moves by its keys", () => {
	const box = regionAt(region("box"), "r", 0)!;
	// Two metres long, laid upright by its turn.
	expect([box([1, 0.95, 0]), box([1.9, 0, 0]), box([1.4, 0.9, 0.4]), box([1, 0, 0.6])]).toEqual([true, false, true, false]);
	const ball = regionAt(region("ball"), "r", 0)!;
	expect([ball([1, 0.95, 0]), ball([1.4, 0.9, 0.4])]).toEqual([true, false]);
	const moving = edit(region("box"), setKey("r", 0, { translation: [1, 0, 0] })).shot;
	const later = edit(moving, setKey("r", 1200, { translation: [5, 0, 0] })).shot;
	expect([regionAt(later, "r", 1200)!([5, 0, 0]), regionAt(later, "r", 0)!([5, 0, 0])]).toEqual([true, false]);
	expect(regionAt(shotOf(shape("a", "box", { width: 1, height: 1, depth: 1 })), "a", 0)).toBeUndefined();
	expect([inRegions(region("box"), [1, 0.5, 0])("hook"), inRegions(region("box"), [1, 0.5, 0])("boat")]).toEqual([true, false]);
});

test("rules ask for regions and for the distance from drawn lines; a break by region follows it when it moves", async () => {
	const shot = shotOf(
		shape("block", "box", { width: 2, height: 1, depth: 0.1 }),
		addObject({ id: "r", name: "Blow", source: { kind: "region", form: "ball" }, translation: [1, 0, 0] }),
		setFracture("f", {
			object: "block",
			method: "strokes",
			options: { count: 40, strokes: [[-0.9, 0, 0.05, -0.2, 0.1, 0.05]] },
			again: [{ method: "voronoi", options: { count: 3 }, pieces: [], rule: "in Blow" }],
		}),
	);
	const built = await buildBodies(await makeTestWorkshop(), shot);
	expect(built.problems).toEqual([]);
	const facts = built.bodies.map((body) => ruleFacts(shot, rowOf(body)));
	const fits = (rule: string) => {
		const parsed = parseRule(rule);
		if (!parsed.ok) throw new Error(parsed.problems[0]!.message);
		return facts.filter((one) => matchesRule(parsed.value, one)).length;
	};
	const broken = built.bodies.filter(({ path }) => path.split("/").length === 3).length;
	expect(broken).toBeGreaterThan(2);
	expect(fits("in blow")).toBeGreaterThan(0);
	expect(fits("not in blow")).toBe(built.bodies.length - fits("in blow"));
	// Crumbs lie along the line, large pieces away from it.
	expect(fits("stroke < 30 cm")).toBeGreaterThan(fits("stroke >= 60 cm"));
	expect(fits("stroke < 30 cm") + fits("stroke >= 30 cm")).toBe(built.bodies.length);
	const moved = edit(shot, placeObject("r", { translation: [-1, 0, 0] })).shot;
	expect(piecesHash(moved, "block")).not.toBe(piecesHash(shot, "block"));
});

test.each([
	["in", /name of a region is missing/],
	["stroke < 3 kg", /no unit of stroke/],
])("a rule that asks wrongly is told so: %s", (rule, message) => {
	const parsed = parseRule(rule);
	expect(!parsed.ok && parsed.problems[0]!.message).toMatch(message);
});
