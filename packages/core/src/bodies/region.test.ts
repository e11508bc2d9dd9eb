import { addObject, edit, placeObject, removeObjects, type Shot, setBody, setFracture, setKey, setShapeParameter } from "../shot";
import { frameHashes } from "../simulation";
import { makeTestWorkshop, shape, shotOf } from "../testing";
import { buildBodies, colliderOf, insideOf, matchesRule, parseRule, piecesHash, regionAt, regionsAround, rowOf, ruleFacts } from ".";

const region = (form: "box" | "ball") =>
	shotOf(
		addObject({ id: "r", name: "Hook", source: { kind: "region", form }, translation: [1, 0, 0] }),
		placeObject("r", { scale: [2, 1, 1], rotation: [0, 0, Math.SQRT1_2, Math.SQRT1_2] }),
	);

const testAt = async (shot: Shot, tick = 0) => regionAt(shot, "r", tick, await insideOf(await makeTestWorkshop(), shot, "r"));

test("a region is as large as its size says, turned with it, and moves by its keys", async () => {
	const box = await testAt(region("box"));
	// Two metres long, laid upright by its turn.
	expect([box([1, 0.95, 0]), box([1.9, 0, 0]), box([1.4, 0.9, 0.4]), box([1, 0, 0.6])]).toEqual([true, false, true, false]);
	const ball = await testAt(region("ball"));
	expect([ball([1, 0.95, 0]), ball([1.4, 0.9, 0.4])]).toEqual([true, false]);
	const moving = edit(region("box"), setKey("r", 0, { translation: [1, 0, 0] })).shot;
	const later = edit(moving, setKey("r", 1200, { translation: [5, 0, 0] })).shot;
	expect([(await testAt(later, 1200))([5, 0, 0]), (await testAt(later))([5, 0, 0])]).toEqual([true, false]);
	const around = await regionsAround(await makeTestWorkshop(), region("box"));
	expect([around([1, 0.5, 0]), around([3, 0.5, 0])]).toEqual([["r"], []]);
});

test("a region can have the form of any closed object: rules, colliders and hashes go by it", async () => {
	const cup = shape("cup", "cup", { radius: 1, foot: 1, height: 2, wall: 0.1 });
	const stone = (id: string, at: readonly [number, number, number]) => [
		shape(id, "box", { width: 0.05, height: 0.05, depth: 0.05 }),
		placeObject(id, { translation: at }),
	];
	const shot = shotOf(
		cup,
		placeObject("cup", { translation: [9, 0, 0] }),
		addObject({ id: "r", name: "Wall", source: { kind: "region", form: "solid", solid: "cup" }, translation: [2, 0, 0] }),
		placeObject("r", { scale: [2, 1, 1] }),
		shape("floor", "box", { width: 20, height: 0.5, depth: 20 }),
		placeObject("floor", { translation: [2, 0, 0] }),
		setBody(["floor"], { kind: "passive", crop: "r" }),
		// In the wall, which is twice as wide there, in the hollow, and where the cup itself stands.
		...stone("in", [3.9, 0.3, 0]),
		...stone("hollow", [2, 0.3, 0]),
		...stone("away", [9.95, 0.3, 0]),
	);
	const workshop = await makeTestWorkshop();
	const { bodies } = await buildBodies(workshop, shot);
	const within = (id: string) => bodies.find((body) => body.id === id)!.regions;
	expect([within("in"), within("hollow"), within("away")]).toEqual([["r"], [], []]);
	const parsed = parseRule("in wall");
	expect(bodies.filter((body) => parsed.ok && matchesRule(parsed.value, ruleFacts(shot, rowOf(body)))).map(({ id }) => id)).toEqual(["in"]);
	// What is left of the floor is what the cup's lower part cuts out of it, twice as wide: π a b of it is solid or wall.
	const floor = bodies.find((body) => body.id === "floor")!;
	const collider = await colliderOf(workshop, shot, { ...floor, settings: { ...floor.settings, collider: "box" } });
	expect(collider.shape).toMatchObject({ kind: "box" });
	const half = collider.shape.kind === "box" ? collider.shape.half : undefined;
	expect(half![0]).toBeCloseTo(2, 1);
	expect(half![2]).toBeCloseTo(1, 1);
	const wider = edit(shot, setShapeParameter("cup", "radius", 1.2)).shot;
	expect(frameHashes(wider)).not.toEqual(frameHashes(shot));
	// An open sheet has no inside, and neither has what is gone.
	expect((await testAt(edit(shot, removeObjects(["cup"])).shot))([3.9, 0.3, 0])).toBe(false);
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
