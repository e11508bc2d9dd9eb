import { type BodyRow, ruleFacts } from "@rubble/core/bodies";
import { addObject, edit, emptyShot, setFlags } from "@rubble/core/shot";

import { filterBodies, ledgerRows } from "./rows";

const box = { kind: "shape", shape: "box", parameters: {} } as const;
const shot = [
	addObject({ id: "wall", name: "Wall", source: box, material: "concrete" }),
	addObject({ id: "ball", name: "Ball", source: box, material: "steel", translation: [0, 2, 0] }),
].reduce((made, command) => edit(made, command).shot, emptyShot("Rows"));

const body = (object: string, piece: number, volume: number, kind: BodyRow["settings"]["kind"] = "active"): BodyRow =>
	({
		id: piece < 0 ? object : `f:${piece + 1}`,
		path: piece < 0 ? shot.objects[object]!.name : `${shot.objects[object]!.name}/0000${piece + 1}`,
		object,
		piece,
		source: object,
		origin: piece < 0 ? "object" : "piece",
		turn: [0, 0, 0, 1],
		scale: 1,
		endless: false,
		volume,
		area: 6 * volume,
		mass: 2400 * volume,
		size: volume,
		neighbours: 2,
		triangles: 12,
		offset: [0, 0.5, 0],
		settings: { kind },
	}) as unknown as BodyRow;
const bodies = [body("wall", 0, 0.01), body("wall", 1, 0.03), body("wall", 2, 0.05, "passive"), body("ball", -1, 0.2, "animated")];

test("objects fold their pieces, and say what they are together", () => {
	expect(ledgerRows(shot, bodies, new Set(), undefined).map((row) => [row.kind, row.name])).toEqual([
		["object", "Wall"],
		["object", "Ball"],
	]);
	const [wall, first] = ledgerRows(shot, bodies, new Set(["wall"]), undefined);
	expect(wall).toMatchObject({ pieces: 3, open: true, bodyKind: "mixed", mass: expect.closeTo(2400 * 0.09, 9) });
	expect(first).toMatchObject({ kind: "piece", id: "f:1", name: "00001" });
});

test("a rule leaves the rows that fit it, and the objects they belong to", () => {
	const { bodies: fitting, problem } = filterBodies(shot, bodies, "wall, volume > 20 dm³");
	expect(problem).toBe("");
	expect(fitting.map(({ path }) => path)).toEqual(["Wall/00002", "Wall/00003"]);
	expect(ledgerRows(shot, bodies, new Set(["wall"]), fitting).map((row) => row.name)).toEqual(["Wall", "00002", "00003"]);
	expect(filterBodies(shot, bodies, "animated or passive").bodies).toHaveLength(2);
	expect(filterBodies(shot, bodies, "steel").bodies.map(({ path }) => path)).toEqual(["Ball"]);
});

test("a rule that cannot be read filters nothing and says why; an empty one is no rule", () => {
	expect(filterBodies(shot, bodies, "weight > 3")).toMatchObject({ bodies, problem: expect.stringMatching(/no column/) });
	expect(filterBodies(shot, bodies, "  ")).toEqual({ bodies, problem: "" });
});

test("a body's height is where its pivot stands in the world, and its words follow its object", () => {
	const hidden = edit(shot, setFlags(["ball"], { hidden: true })).shot;
	const facts = ruleFacts(hidden, bodies[3]!);
	expect(facts.columns.height).toBeCloseTo(2.5, 9);
	expect([...facts.words]).toEqual(expect.arrayContaining(["object", "animated", "hidden", "steel"]));
});
