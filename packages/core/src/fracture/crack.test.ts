import { IDENTITY } from "../maths";
import { type Mesh, topology, transformMesh, triangleCount, volume } from "../mesh";
import { ball } from "../shapes/ball";
import { box } from "../shapes/box";
import { breakSoundly, expectSound } from "../testing/fracture";
import { methodById, openedMesh, type Piece, roughen } from ".";
import { openShare } from "./opening";

const crack = methodById("crack")!;
const slab = box.build({ width: 2, height: 1.2, depth: 0.1 }, {});
const line = [[-0.9, -0.2, 0.05, -0.2, 0.1, 0.05, 0.4, -0.1, 0.05, 0.9, 0.2, 0.05]];
const closed = (piece: Piece): Mesh => openedMesh(piece.mesh, piece.opening!, { tip: 0, width: 0 });

test("a crack without width parts a slab in two that fill it and share the crack's face", async () => {
	const parts = await breakSoundly(crack, slab, { strokes: line, width: 0, jagged: 0.02 });
	expectSound(slab, parts);
	expect(parts.pieces.map(({ name }) => name)).toEqual(["00001", "00002"]);
	// A line as long as the slab and a bit more, through its thickness.
	expect(parts.contacts[0]!.area).toBeGreaterThan(0.2);
	expect(parts.contacts[0]!.area).toBeLessThan(0.26);
});

test("an open crack takes its width times its face; shut, the parts fill the slab again", async () => {
	const width = 0.012;
	const { pieces, contacts, lacking } = await breakSoundly(crack, slab, { strokes: line, width, jagged: 0.01 });
	expect(lacking / (width * contacts[0]!.area)).toBeCloseTo(1, 1);
	for (const piece of pieces) expect(topology(piece.mesh).closed).toBe(true);
	expect(pieces.reduce((sum, piece) => sum + volume(closed(piece)), 0) / volume(slab)).toBeCloseTo(1, 6);
	// The tip comes from one end to the other: the ends of its way are reached first and last.
	const reached = pieces.flatMap(({ opening }) => [...opening!.reached]);
	expect(Math.max(...reached)).toBeCloseTo(1, 6);
});

test("lines that cross part a slab in four, and a ball in two", async () => {
	const cross = [
		[-0.5, 0, 0.05, 0.5, 0, 0.05],
		[0, -0.4, 0.05, 0, 0.4, 0.05],
	];
	expectSound(slab, await breakSoundly(crack, slab, { strokes: cross, width: 0, jagged: 0 }));
	expect((await breakSoundly(crack, slab, { strokes: cross, width: 0.01 })).pieces).toHaveLength(4);
	const round = ball.build({ radius: 0.5, detail: 3 }, {});
	const halves = await breakSoundly(crack, round, { strokes: [[-0.3, 0.1, 0.4, 0.3, -0.1, 0.4]], width: 0 });
	expectSound(round, halves);
	expect(halves.pieces).toHaveLength(2);
});

test("triangles of a cracked slab are even: hardly any are long slivers", async () => {
	const { pieces } = await breakSoundly(crack, slab, { strokes: line, width: 0.01 });
	const angles = pieces.flatMap(({ mesh }) => smallestAngles(mesh)).sort((a, b) => a - b);
	expect(angles.length).toBeGreaterThan(1500);
	expect(angles[Math.floor(angles.length * 0.5)]!).toBeGreaterThan(40);
	expect(angles[Math.floor(angles.length * 0.02)]!).toBeGreaterThan(15);
	expect(angles[0]!).toBeGreaterThan(2);
});

test("a crack opens behind its tip, and is fully open when it is through", () => {
	expect(openShare(0.5, { tip: 0.3, width: 1 })).toBe(0);
	expect(openShare(0.2, { tip: 0.3, width: 1 })).toBeGreaterThan(0.3);
	expect(openShare(1, { tip: 1, width: 1 })).toBe(1);
	const time = crack.crack!({ from: 3, grows: [0, 0, 20, 1], opens: [0, 0.5, 10, 1] });
	expect([time.first, time.last]).toEqual([3, 23]);
	expect(time.at(2)).toEqual({ tip: 0, width: 0 });
	expect(time.at(13)).toEqual({ tip: expect.closeTo(0.5, 6), width: 1 });
	expect(time.at(23)).toEqual({ tip: 1, width: 1 });
});

test.each([
	[{ strokes: [] }, /nothing is drawn/],
	[{ strokes: [[0, 0, 0]] }, /a dot has no direction/],
	[{ strokes: [[5, 0, 0.05, 5, 1, 0.05]] }, /does not part the object/],
	[{ strokes: line, detail: 0.0001 }, /too fine/],
	[{ strokes: line, grows: [0, 0] }, /Runs needs at least two points/],
	[{ strokes: line, opens: [0, 0, 5, 3] }, /Opens must stay between 0 and 1/],
])("what cannot crack is a sentence: %j", async (options, message) => {
	await expect(breakSoundly(crack, slab, options)).rejects.toThrow(message);
});

test("rough inside faces still fit: pieces are closed, fill the block, and meet in the same points", async () => {
	const block = box.build({ width: 1, height: 0.8, depth: 0.9 }, {});
	const { pieces } = await breakSoundly(methodById("voronoi")!, block, { count: 12 });
	const rough = pieces.map(({ mesh, pivot }) => roughen(mesh, { rough: 0.01, grain: 0.08 }, { offset: pivot, turn: IDENTITY }));
	for (const mesh of rough) expect(topology(mesh).closed).toBe(true);
	expect(rough.reduce((sum, mesh) => sum + volume(mesh), 0) / volume(block)).toBeCloseTo(1, 6);
	expect(rough.some((mesh, i) => Math.abs(volume(mesh) - pieces[i]!.volume) > 1e-5)).toBe(true);
	// Every point inside the block belongs to two pieces at least.
	const owners = new Map<string, Set<number>>();
	rough.forEach((mesh, i) => {
		const placed = transformMesh(mesh, { translation: pieces[i]!.pivot });
		for (let f = 0; f < triangleCount(placed); f++)
			for (let c = 0; c < 3; c++) {
				if (placed.inside[f] !== 1) continue;
				const v = 3 * placed.triangles[3 * f + c]!;
				const key = [0, 1, 2].map((k) => Math.round(placed.positions[v + k]! * 2e4)).join();
				owners.set(key, (owners.get(key) ?? new Set()).add(i));
			}
	});
	const alone = [...owners.values()].filter((set) => set.size < 2).length;
	expect(alone / owners.size).toBeLessThan(0.12);
});

/** Degrees, one per triangle. */
function smallestAngles({ positions: p, triangles: t }: Mesh): number[] {
	return Array.from({ length: t.length / 3 }, (_, f) => {
		const corner = [0, 1, 2].map((c) => [0, 1, 2].map((k) => p[3 * t[3 * f + c]! + k]!));
		const side = (i: number, j: number) => Math.hypot(...[0, 1, 2].map((k) => corner[i]![k]! - corner[j]![k]!));
		const [a, b, c] = [side(0, 1), side(1, 2), side(2, 0)].sort((x, y) => x - y) as [number, number, number];
		return (Math.acos(Math.min(1, (b * b + c * c - a * a) / (2 * b * c))) * 180) / Math.PI;
	});
}
