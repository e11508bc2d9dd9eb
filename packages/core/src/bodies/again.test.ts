import { breakAgain, changeStep, copyFracture, edit, removeStep, type Shot, setFracture, setFractureOption } from "../shot";
import { makeTestWorkshop, shape, shotOf } from "../testing";
import { expectSound } from "../testing/fracture";
import { buildMesh } from ".";
import { buildPieces } from "./pieces";

const block = (...steps: Parameters<typeof breakAgain>[1][]): Shot =>
	shotOf(
		shape("block", "box", { width: 2, height: 1, depth: 1 }),
		setFracture("f", { object: "block", method: "voronoi", options: { count: 20, seed: 7 } }),
		...steps.map((step) => breakAgain("f", step)),
	);

/** One workshop for all, as in a session: what was made for one shot must not be taken for another. */
const made = makeTestWorkshop();

async function piecesOf(shot: Shot) {
	const workshop = await made;
	const [mesh, pieces] = [await buildMesh(workshop, shot, "block"), await buildPieces(workshop, shot, "block")];
	if (!mesh.ok || !pieces) throw new Error("not broken");
	if (!pieces.ok) throw new Error(pieces.problems[0]!.message);
	return { mesh: mesh.value, broken: pieces.value };
}

test("chosen pieces are broken again, named within their parent; all others stay as they were", async () => {
	const before = (await piecesOf(block())).broken;
	const { mesh, broken } = await piecesOf(
		block({ method: "voronoi", options: { count: 6, seed: 1 }, pieces: ["00007", "00012"], rule: "" }),
	);
	expect(broken.pieces).toHaveLength(18 + 12);
	expect(broken.pieces.filter((piece) => piece.name.startsWith("00007/")).map((piece) => piece.name)).toEqual(
		Array.from({ length: 6 }, (_, i) => `00007/0000${i + 1}`),
	);
	expectSound(mesh, broken);
	const parent = before.pieces.find((piece) => piece.name === "00007")!;
	const parts = broken.pieces.filter((piece) => piece.name.startsWith("00007/"));
	expect(parts.reduce((sum, piece) => sum + piece.volume, 0)).toBeCloseTo(parent.volume, 7);
	for (const piece of before.pieces.filter(({ name }) => name !== "00007" && name !== "00012"))
		expect(broken.pieces.find(({ name }) => name === piece.name)!.volume).toBe(piece.volume);
});

test("a rule chooses what is broken again, and steps follow each other", async () => {
	const shot = block(
		{ method: "voronoi", options: { count: 4, seed: 1 }, pieces: [], rule: "volume > 100 dm³" },
		{ method: "slices", options: { axis: "y", count: 2 }, pieces: [], rule: "block/00001*" },
	);
	const { mesh, broken } = await piecesOf(shot);
	expectSound(mesh, broken);
	const large = (await piecesOf(block())).broken.pieces.filter((piece) => piece.volume > 0.1);
	expect(large.length).toBeGreaterThan(2);
	expect(broken.pieces.filter((piece) => large.some(({ name }) => piece.name.startsWith(`${name}/`))).length).toBeGreaterThanOrEqual(
		4 * large.length,
	);
	expect(broken.pieces.some((piece) => piece.name.startsWith("00001") && piece.name.endsWith("/00002"))).toBe(true);
});

test("a break is copied to another object with all its steps, and is then its own", async () => {
	const both = after(
		block({ method: "voronoi", options: { count: 4, seed: 1 }, pieces: ["00001"], rule: "" }),
		shape("other", "box", { width: 1, height: 1, depth: 1 }),
	);
	const shot = after(both, copyFracture("f", [{ fracture: "g", object: "other" }]));
	const pieces = await buildPieces(await made, shot, "other");
	expect(pieces?.ok && pieces.value.pieces).toHaveLength(23);
	expect(after(shot, setFractureOption("g", "count", 9)).fractures.f).toEqual(shot.fractures.f);
});

test("steps are changed, taken away, and refuse rules that make no sense", async () => {
	const shot = block({ method: "voronoi", options: { count: 4, seed: 1 }, pieces: ["00001"], rule: "" });
	expect((await piecesOf(after(shot, setFractureOption("f", "count", 9, 0)))).broken.pieces).toHaveLength(28);
	expect((await piecesOf(after(shot, changeStep("f", 0, { pieces: ["00001", "00002"] })))).broken.pieces).toHaveLength(26);
	expect((await piecesOf(after(shot, removeStep("f", 0)))).broken.pieces).toHaveLength(20);
	await expect(piecesOf(after(shot, changeStep("f", 0, { pieces: [], rule: "weight >" })))).rejects.toThrow(/rule “weight >”/);
});

const after = (shot: Shot, command: Parameters<typeof edit>[1]): Shot => edit(shot, command).shot;
