import fc from "fast-check";
import { Cancelled } from "../common";
import { flip, type Mesh, makeMesh, selectTriangles } from "../mesh";
import { ball } from "../shapes/ball";
import { box } from "../shapes/box";
import type { OptionValues } from "../shot";
import { fromSolid, loadSolids, scoped, toSolid } from "../solid";
import { breakSoundly, expectSound, insideArea, tunnelled } from "../testing/fracture";
import { breakMesh } from "./break";
import type { Pieces } from "./types";
import { voronoi } from "./voronoi";

let solids: Awaited<ReturnType<typeof loadSolids>>;
beforeAll(async () => {
	solids = await loadSolids();
});
const breakUp = (mesh: Mesh, options: OptionValues = {}): Promise<Pieces> => breakSoundly(voronoi, mesh, options);

test("pieces of a block add up to the block", async () => {
	const mesh = box.build({ width: 3, height: 1.5, depth: 0.8 }, {});
	const broken = await breakUp(mesh, { count: 150 });
	expect(broken.pieces).toHaveLength(150);
	expectSound(mesh, broken);
});

test("pieces of concave solids with tunnels add up too, for random settings", async () => {
	const mesh = tunnelled(solids);
	await fc.assert(
		fc.asyncProperty(
			fc.integer({ min: 2, max: 80 }),
			fc.integer({ min: 0, max: 9999 }),
			fc.constantFrom("even", "random"),
			async (count, seed, spread) => {
				const broken = await breakUp(mesh, { count, seed, spread });
				expectSound(mesh, broken);
				expect(broken.pieces.length).toBeGreaterThanOrEqual(count);
			},
		),
		{ numRuns: 12 },
	);
});

test("inside faces of the whole are counted twice, once for each side, and outside ones once", async () => {
	const mesh = tunnelled(solids);
	const { pieces, contacts } = await breakUp(mesh, { count: 60 });
	const inner = pieces.reduce((sum, piece) => sum + insideArea(piece.mesh), 0);
	const shared = contacts.reduce((sum, contact) => sum + contact.area, 0);
	expect(2 * shared).toBeCloseTo(inner, 4);
});

test("given points make the cells: two points halve a block, and the face between them is known exactly", async () => {
	const { pieces, contacts } = await breakUp(box.build({ width: 2, height: 1, depth: 1 }, {}), { points: [-0.5, 0, 0, 0.5, 0, 0] });
	expect(pieces.map(({ name, volume: v }) => [name, Number(v.toFixed(9))])).toEqual([
		["00001", 1],
		["00002", 1],
	]);
	expect(contacts).toHaveLength(1);
	expect(contacts[0]).toMatchObject({
		a: 0,
		b: 1,
		area: expect.closeTo(1, 6),
		normal: [expect.closeTo(1, 6), expect.closeTo(0, 6), expect.closeTo(0, 6)],
	});
	expect(contacts[0]!.centre.map((v) => Math.abs(v))).toEqual([expect.closeTo(0, 6), expect.closeTo(0, 6), expect.closeTo(0, 6)]);
});

test("a cell that falls into two parts becomes two pieces with one number, each with its own neighbours", async () => {
	// A U: the cell above its middle holds the tips of both arms.
	const u = scoped((keep) => {
		const block = keep(toSolid(solids, box.build({ width: 3, height: 2, depth: 1 }, {})));
		const slot = keep(keep(toSolid(solids, box.build({ width: 1, height: 2, depth: 2 }, {}))).translate([0, 0.6, 0]));
		return fromSolid(keep(block.subtract(slot)));
	});
	const { pieces, contacts } = await breakUp(u, { points: [0, -1, 0, 0, 0.8, 0] });
	expect(pieces.map(({ name, key }) => [name, key])).toEqual([
		["00001", "1"],
		["00002", "2"],
		["00002b", "2.2"],
	]);
	expect(contacts.map(({ a, b, area }) => [a, b, Number(area.toFixed(4))])).toEqual([
		[0, 1, 1],
		[0, 2, 1],
	]);
});

test("the same seed gives the same pieces, another seed others, and more points keep the first ones", async () => {
	const mesh = ball.build({ radius: 0.5, detail: 2 }, {});
	const [one, two, other] = [
		await breakUp(mesh, { count: 20, seed: 4 }),
		await breakUp(mesh, { count: 20, seed: 4 }),
		await breakUp(mesh, { count: 20, seed: 5 }),
	];
	expect(one.pieces.map((piece) => [...piece.mesh.positions])).toEqual(two.pieces.map((piece) => [...piece.mesh.positions]));
	expect(one.pieces[0]!.volume).not.toBe(other.pieces[0]!.volume);
});

test("a gap is taken from every piece and shown as lacking", async () => {
	const whole = await breakUp(box.build({ width: 1, height: 1, depth: 1 }, {}), { count: 40 });
	const parted = await breakUp(box.build({ width: 1, height: 1, depth: 1 }, {}), { count: 40, gap: 0.004 });
	const shared = whole.contacts.reduce((sum, contact) => sum + contact.area, 0);
	expect(parted.lacking).toBeGreaterThan(0);
	// To first order a slab of the gap's width for each shared face; edges are counted twice in that.
	expect(parted.lacking / (shared * 0.004)).toBeCloseTo(1, 1);
});

test("open, inside-out and impossible input is refused with a sentence", async () => {
	const cube = box.build({ width: 1, height: 1, depth: 1 }, {});
	const problem = async (mesh: Mesh, options: OptionValues = {}) => {
		const result = await breakMesh(await loadSolids(), mesh, voronoi, options);
		return result.ok ? "" : result.problems[0]!.message;
	};
	expect(await problem(selectTriangles(cube, [0, 1, 2, 3]))).toMatch(/not closed/);
	expect(await problem(flip(cube))).toMatch(/inside out/);
	expect(await problem(cube, { count: 1_000_000 })).toMatch(/between 2 and 50,000, not 1,000,000/);
	expect(await problem(cube, { gap: 2 })).toMatch(/leaves nothing/);
	expect(await problem(cube, { points: [5, 5, 5, 6, 6, 6] })).toMatch(/^$|no piece/);
	expect(await problem(makeMesh([], []))).toMatch(/not closed/);
});

test("it can be cancelled on the way", async () => {
	const signal = { aborted: false };
	const run = breakMesh(
		solids,
		tunnelled(solids),
		voronoi,
		{ count: 200 },
		{
			signal,
			onProgress: (fraction) => {
				if (fraction > 0.2) signal.aborted = true;
			},
		},
	);
	await expect(run).rejects.toBeInstanceOf(Cancelled);
});

test("textured faces keep their place in the texture", async () => {
	const mesh = box.build({ width: 2, height: 1, depth: 1 }, {});
	for (const options of [{ count: 12 }, { count: 12, seed: 8 }] as OptionValues[]) {
		const { pieces } = await breakUp(mesh, options);
		for (const { mesh: piece, pivot } of pieces)
			for (let f = 0; f < piece.inside.length; f++) {
				if (piece.inside[f] === 1) continue;
				for (let c = 0; c < 3; c++) {
					const v = piece.triangles[3 * f + c]! * 3;
					const [x, y, z] = [0, 1, 2].map((k) => piece.positions[v + k]! + pivot[k]!) as [number, number, number];
					if (Math.abs(z - 0.5) > 1e-4) continue;
					// The front of the box runs from its lower left corner, in metres.
					const onFront = [0, 1, 2].every((k) => Math.abs(piece.positions[piece.triangles[3 * f + k]! * 3 + 2]! + pivot[2] - 0.5) < 1e-4);
					if (onFront)
						expect([piece.uv[6 * f + 2 * c], piece.uv[6 * f + 2 * c + 1]]).toEqual([expect.closeTo(x + 1, 4), expect.closeTo(y + 0.5, 4)]);
				}
			}
	}
});
