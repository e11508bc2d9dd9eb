import fc from "fast-check";
import { type Mesh, topology, transformMesh, volume } from "../mesh";
import { arch } from "../shapes/arch";
import { ball } from "../shapes/ball";
import { box } from "../shapes/box";
import { cylinder } from "../shapes/cylinder";
import { tube } from "../shapes/round";
import type { OptionValues } from "../shot";
import { loadSolids, type Solids, scoped, toSolid } from "../solid";
import { breakSoundly, expectSound, tunnelled } from "../testing/fracture";
import { FRACTURE_METHODS, type FractureMethod, findSlivers, methodById } from ".";

let solids: Solids;
let sources: Record<string, Mesh>;
beforeAll(async () => {
	solids = await loadSolids();
	sources = {
		block: box.build({ width: 1.7, height: 1.1, depth: 0.9 }, {}),
		pane: box.build({ width: 1.2, height: 1.6, depth: 0.004 }, {}),
		ball: ball.build({ radius: 0.7, detail: 3 }, {}),
		tunnelled: tunnelled(solids),
	};
});

const bar = () => transformMesh(cylinder.build({ radius: 0.23, height: 3, segments: 24 }, {}), { translation: [0.21, 0.05, 0.02] });

/** Any settings that a method's descriptions allow, with few pieces and no gap. */
function settings(method: FractureMethod): fc.Arbitrary<OptionValues> {
	const few: Record<string, number> = { count: 24, columns: 6, rows: 6, tilt: 20, joint: 0.05 };
	return fc.record(
		Object.fromEntries(
			Object.entries(method.options).flatMap(([name, spec]): [string, fc.Arbitrary<unknown>][] => {
				// Arches and rings need a hole in the middle: they have tests of their own.
				if (name === "shape" || name === "mortar" || name === "slivers") return [];
				if (name === "gap" || name === "spacing" || name === "keep") return [];
				if (spec.kind === "choice") return [[name, fc.constantFrom(...spec.choices.map(({ id }) => id))]];
				if (spec.kind === "planes")
					return [
						[
							name,
							fc
								.array(fc.tuple(...[1, 1, 1, 0.4].map((most) => fc.double({ min: -most, max: most, noNaN: true }))), { maxLength: 5 })
								.map((planes) => planes.filter(([x, y, z]) => Math.hypot(x!, y!, z!) > 0.1).flat()),
						],
					];
				if (spec.kind === "strokes")
					return [
						[
							name,
							fc.constantFrom(
								[[0, 0, 0.1]],
								[[-0.4, -0.3, 0, 0.1, 0.2, 0, 0.5, 0.2, 0]],
								[
									[0.1, 0.1, 0],
									[-0.4, -0.3, 0, 0.4, 0.3, 0],
								],
							),
						],
					];
				if (spec.kind !== "number") return [];
				const most = Math.min(spec.most, few[name] ?? spec.most);
				// Bricks of a size that lays some dozens.
				if (["length", "height", "depth"].includes(name) && spec.unit === "m")
					return [[name, fc.double({ min: 0.25, max: 1, noNaN: true })]];
				return [[name, spec.whole ? fc.integer({ min: spec.least, max: most }) : fc.double({ min: spec.least, max: most, noNaN: true })]];
			}),
		),
	) as fc.Arbitrary<OptionValues>;
}

test.each(FRACTURE_METHODS.filter(({ id }) => !["picture", "cobbles", "crack"].includes(id)).map((method) => [method.id, method] as const))(
	"%s: pieces are closed and fill any solid, and shared faces are counted on both sides",
	async (_, method) => {
		await fc.assert(
			fc.asyncProperty(fc.constantFrom("block", "pane", "ball", "tunnelled"), settings(method), async (name, options) => {
				const mesh = sources[name]!;
				expectSound(mesh, await breakSoundly(method, mesh, options, [bar()]));
			}),
			{ numRuns: 16 },
		);
	},
);

const method = (id: string): FractureMethod => methodById(id)!;

test("slices of a block are as many and as thick as asked for, each with its neighbours", async () => {
	const { pieces, contacts } = await breakSoundly(method("slices"), sources.block!, { axis: "x", count: 10 });
	expect(pieces.map((piece) => Number(piece.volume.toFixed(6)))).toEqual(Array(10).fill(Number((0.17 * 1.1 * 0.9).toFixed(6))));
	expect(contacts.map(({ a, b, area }) => [a, b, Number(area.toFixed(6))])).toEqual(Array.from({ length: 9 }, (_, i) => [i, i + 1, 0.99]));
	for (const { normal } of contacts) expect(normal[0]).toBeCloseTo(1, 6);
	const spaced = await breakSoundly(method("slices"), sources.block!, { axis: "x", spacing: 0.5 });
	expect(spaced.pieces.map((piece) => Number((piece.volume / 0.99).toFixed(6)))).toEqual([0.5, 0.5, 0.5, 0.2]);
});

test("rows and columns over a pane give their product, and each cell knows its neighbours", async () => {
	const { pieces, contacts } = await breakSoundly(method("cells"), sources.pane!, { rows: 5, columns: 7, jitter: 1 });
	expect(pieces).toHaveLength(35);
	expect(contacts).toHaveLength(4 * 7 + 5 * 6);
});

test("straight cuts part what lies behind them, and corner pieces touch through their edges only", async () => {
	const { pieces, contacts } = await breakSoundly(method("cuts"), sources.block!, { planes: [1, 0, 0, 0.2, 0, 2, 0, 0] });
	expect(pieces).toHaveLength(4);
	expect(contacts).toHaveLength(4);
	expect(pieces.map((piece) => piece.volume).sort()).toEqual([0.65, 0.65, 1.05, 1.05].map((w) => expect.closeTo(w * 0.55 * 0.9, 6)).sort());
});

test("a cutter parts a block into inside and outside, each of the right volume, both closed", async () => {
	const { pieces, contacts } = await breakSoundly(method("cutter"), sources.block!, {}, [bar()]);
	expect(pieces.map((piece) => piece.name)).toEqual(["outside/00001", "inside/00001"]);
	const inside = volume(cylinder.build({ radius: 0.23, height: 1.1, segments: 24 }, {}));
	expect(pieces[1]!.volume).toBeCloseTo(inside, 6);
	expect(pieces[0]!.volume).toBeCloseTo(1.7 * 1.1 * 0.9 - inside, 6);
	expect(contacts).toHaveLength(1);
	const only = await breakSoundly(method("cutter"), sources.block!, { keep: "outside" }, [bar()]);
	expect(only.pieces.map((piece) => piece.name)).toEqual(["outside/00001"]);
	expect(topology(only.pieces[0]!.mesh).closed).toBe(true);
});

test("two cutters are united first; their parts are pieces of their own", async () => {
	const other = transformMesh(bar(), { translation: [-0.6, 0, 0] });
	const { pieces } = await breakSoundly(method("cutter"), sources.block!, {}, [bar(), other]);
	expect(pieces.map((piece) => piece.name)).toEqual(["outside/00001", "inside/00001", "inside/00002"]);
});

test("a blow in the middle of a pane gives long pieces near the rim and small ones around it", async () => {
	const { pieces } = await breakSoundly(method("strokes"), sources.pane!, { strokes: [[0, 0, 0]], count: 300, length: 4, jitter: 0.3 });
	expect(Math.abs(pieces.length - 300)).toBeLessThan(15);
	const far = pieces.filter(({ pivot }) => Math.hypot(pivot[0], pivot[1]) > 0.4);
	const near = pieces.filter(({ pivot }) => Math.hypot(pivot[0], pivot[1]) < 0.1);
	const mean = (list: typeof pieces) => list.reduce((sum, piece) => sum + piece.volume, 0) / list.length;
	expect(mean(far) / mean(near)).toBeGreaterThan(30);
	// How long and wide a piece is, seen from the blow.
	const shapes = far.map(({ mesh, pivot }) => {
		const length = Math.hypot(pivot[0], pivot[1]);
		const [rx, ry] = [pivot[0] / length, pivot[1] / length];
		let along = [Infinity, -Infinity] as [number, number];
		let across = [Infinity, -Infinity] as [number, number];
		for (let v = 0; v < mesh.positions.length; v += 3) {
			const [x, y] = [mesh.positions[v]!, mesh.positions[v + 1]!];
			along = [Math.min(along[0], x * rx + y * ry), Math.max(along[1], x * rx + y * ry)];
			across = [Math.min(across[0], y * rx - x * ry), Math.max(across[1], y * rx - x * ry)];
		}
		return (along[1] - along[0]) / (across[1] - across[0]);
	});
	shapes.sort((a, b) => a - b);
	expect(shapes[shapes.length >> 1]!).toBeGreaterThan(1.8);
});

test("a line leaves crumbs along it", async () => {
	const { pieces } = await breakSoundly(method("strokes"), sources.pane!, {
		strokes: [[-0.4, -0.4, 0, 0.4, -0.4, 0]],
		count: 200,
		width: 0.05,
	});
	const near = pieces.filter(({ pivot }) => Math.abs(pivot[1] + 0.4) < 0.05 && Math.abs(pivot[0]) < 0.4);
	const share = near.reduce((sum, piece) => sum + piece.volume, 0) / (1.2 * 1.6 * 0.004);
	expect(near.length / pieces.length).toBeGreaterThan(0.6);
	expect(share).toBeLessThan(0.08);
});

test("clustered points make small pieces around their places, as far as the reach and the contrast say", async () => {
	const options = { count: 300, spread: "clustered", centres: [0.6, 0.3, 0.3] };
	const radius = ({ pivot }: { pivot: readonly [number, number, number] }) => Math.hypot(pivot[0] - 0.6, pivot[1] - 0.3, pivot[2] - 0.3);
	const near = (list: readonly { pivot: readonly [number, number, number] }[]) => list.filter((piece) => radius(piece) < 0.3).length;
	const even = await breakSoundly(method("voronoi"), sources.block!, { count: 300 });
	const dense = await breakSoundly(method("voronoi"), sources.block!, { ...options, density: [0, 1, 0.3, 0.5, 1, 0.05] });
	const sparse = await breakSoundly(method("voronoi"), sources.block!, { ...options, density: [0, 0.05, 0.3, 0.5, 1, 1] });
	expect(near(dense.pieces)).toBeGreaterThan(3 * near(even.pieces));
	expect(near(sparse.pieces)).toBeLessThan(0.7 * near(even.pieces));
});

test("stretched cells are that much longer along the axis", async () => {
	const { pieces } = await breakSoundly(method("voronoi"), box.build({ width: 2, height: 2, depth: 2 }, {}), {
		count: 300,
		stretch: 4,
		axis: "y",
	});
	const extent = (mesh: Mesh, k: number) => {
		const values = mesh.positions.filter((_, i) => i % 3 === k);
		return Math.max(...values) - Math.min(...values);
	};
	const inner = pieces.filter(({ pivot }) => pivot.every((v) => Math.abs(v) < 0.6));
	const ratio = inner.map(({ mesh }) => extent(mesh, 1) / Math.sqrt(extent(mesh, 0) * extent(mesh, 2))).sort((a, b) => a - b);
	expect(ratio[ratio.length >> 1]!).toBeGreaterThan(3);
	expect(ratio[ratio.length >> 1]!).toBeLessThan(5);
});

test("a wall has as many bricks as its pattern says, in sizes that fit, and as much mortar as is left", async () => {
	const wall = box.build({ width: 2.49, height: 1.24, depth: 0.24 }, {});
	const bricks = { length: 0.24, height: 0.115, joint: 0.01 };
	const count = ({ pieces }: Awaited<ReturnType<typeof breakSoundly>>) => pieces.filter((piece) => piece.name.startsWith("brick/")).length;
	// 10 courses of 10 bricks; shifted courses have 9 whole ones and two halves.
	expect(count(await breakSoundly(method("masonry"), wall, { ...bricks, pattern: "stacked" }))).toBe(100);
	const running = await breakSoundly(method("masonry"), wall, { ...bricks, pattern: "running" });
	expect(count(running)).toBe(5 * 10 + 5 * 11);
	// Courses of short sides in turn: 20 of them and a half one more.
	expect(count(await breakSoundly(method("masonry"), wall, { ...bricks, pattern: "headers", depth: 0.115 }))).toBe(5 * 10 * 2 + 5 * 21);
	const whole = running.pieces.filter((piece) => piece.name.startsWith("brick/") && piece.volume > 0.24 * 0.1 * 0.24);
	for (const piece of whole) expect(piece.volume).toBeCloseTo(0.24 * 0.115 * 0.24, 6);
	expect(running.pieces[0]!.name).toBe("brick/00001");
	expect(running.pieces.some((piece) => piece.name === "mortar/00001")).toBe(true);
	const gap = await breakSoundly(method("masonry"), wall, { ...bricks, mortar: "gap" });
	expect(gap.pieces).toHaveLength(105);
	const mortar = running.pieces.filter((piece) => piece.name.startsWith("mortar/")).reduce((sum, piece) => sum + piece.volume, 0);
	expect(gap.lacking).toBeCloseTo(mortar, 6);
	// Mortar is thin, but no sliver: it is compared with mortar.
	expect(findSlivers(running.pieces, 0.05).length).toBeLessThan(running.pieces.length / 20);
	// A brick amid a running wall touches mortar only.
	for (const { a, b } of running.contacts)
		expect([running.pieces[a]!, running.pieces[b]!].some(({ name }) => name.startsWith("mortar/"))).toBe(true);
});

test.each(["arch", "ring"] as const)("an %s is laid of wedges that fill it", async (shape) => {
	const mesh = shape === "arch" ? arch.build({ radius: 1.5, thickness: 0.3, depth: 0.6, segments: 48 }, {}) : ringMesh();
	const broken = await breakSoundly(method("masonry"), mesh, { shape, length: 0.3, depth: 0.29, joint: 0.01, irregular: 0.5 });
	expectSound(mesh, broken);
	const bricks = broken.pieces.filter((piece) => piece.name.startsWith("brick/"));
	const around = Math.round(((shape === "arch" ? Math.PI : 2 * Math.PI) * 1.8) / 0.31);
	expect(bricks).toHaveLength(shape === "arch" ? 2 * around + 1 : 2 * around);
	// A well: the same ring, upright, in level courses.
	if (shape === "ring") expectSound(well(), await breakSoundly(method("masonry"), well(), { shape, length: 0.3, depth: 0.2 }));
	await expect(breakSoundly(method("masonry"), sources.block!, { shape })).rejects.toThrow(/joints meet in the middle/);
});

/** A ring that stands upright, its axis along z. */
const well = (): Mesh => tube.build({ radius: 1.8, wall: 0.3, height: 0.6, segments: 64 }, {});
const ringMesh = (): Mesh => transformMesh(well(), { rotation: [Math.SQRT1_2, 0, 0, Math.SQRT1_2] });

test("rounded stones lie within the pieces they were, part from each other, and are closed", async () => {
	const [sharp, round] = [
		await breakSoundly(method("voronoi"), sources.tunnelled!, { count: 40 }),
		await breakSoundly(method("cobbles"), sources.tunnelled!, { count: 40 }),
	];
	expect(round.pieces.map((piece) => piece.name)).toEqual(sharp.pieces.map((piece) => piece.name));
	round.pieces.forEach((stone, i) => {
		expect(topology(stone.mesh).closed).toBe(true);
		expect(stone.volume).toBeLessThan(sharp.pieces[i]!.volume);
		expect(stone.volume).toBeGreaterThan(0.3 * sharp.pieces[i]!.volume);
	});
	expect(round.lacking / round.sourceVolume).toBeGreaterThan(0.1);
	const outside = scoped((hold) => {
		const placed = (piece: (typeof sharp.pieces)[number]) =>
			hold(toSolid(solids, transformMesh({ ...piece.mesh, uv: new Float32Array(0) }, { translation: piece.pivot })));
		return round.pieces.reduce((sum, stone, i) => sum + hold(placed(stone).subtract(placed(sharp.pieces[i]!))).volume(), 0);
	});
	expect(outside / round.sourceVolume).toBeLessThan(1e-3);
	const coarse = await breakSoundly(method("cobbles"), sources.tunnelled!, { count: 40, keep: 0.1 });
	const triangles = (broken: typeof round) => broken.pieces.reduce((sum, piece) => sum + piece.mesh.triangles.length / 3, 0);
	expect(triangles(coarse)).toBeLessThan(0.7 * triangles(round));
});

test("slivers are merged into the neighbour they share most with, or removed; nothing else changes", async () => {
	const options = { count: 120, spread: "random", seed: 3 };
	const [kept, merged, removed] = [
		await breakSoundly(method("voronoi"), sources.block!, options),
		await breakSoundly(method("voronoi"), sources.block!, { ...options, slivers: "merge", below: 0.6 }),
		await breakSoundly(method("voronoi"), sources.block!, { ...options, slivers: "remove", below: 0.6 }),
	];
	const slivers = findSlivers(kept.pieces, 0.6);
	expect(slivers.length).toBeGreaterThan(5);
	expect(merged.pieces).toHaveLength(120 - slivers.length);
	expect(removed.pieces).toHaveLength(120 - slivers.length);
	expectSound(sources.block!, merged);
	expect(removed.lacking).toBeCloseTo(
		slivers.reduce((sum, i) => sum + kept.pieces[i]!.volume, 0),
		7,
	);
	const names = new Set(kept.pieces.filter((_, i) => !slivers.includes(i)).map((piece) => piece.name));
	for (const piece of merged.pieces) expect(names.has(piece.name)).toBe(true);
});

test("input that cannot work is refused with a sentence", async () => {
	const problem = (id: string, options: OptionValues, cutters: readonly Mesh[] = []) =>
		breakSoundly(method(id), sources.block!, options, cutters).then(
			() => "",
			(error: Error) => error.message,
		);
	expect(await problem("cutter", {})).toMatch(/choose at least one/);
	expect(await problem("cutter", {}, [transformMesh(bar(), { translation: [9, 0, 0] })])).toMatch(/do not pass through/);
	expect(await problem("slices", { spacing: 1e-5 })).toMatch(/the most is 2,000/);
	expect(await problem("slices", { count: 10, gap: 1 })).toMatch(/leaves nothing/);
	expect(await problem("slices", { count: 1e6 })).toMatch(/must lie between/);
	expect(await problem("cells", { rows: 2000, columns: 2000 })).toMatch(/the most is 20,000/);
	expect(await problem("cuts", { planes: [0, 0, 0, 1] })).toMatch(/cut 1 has no direction/);
	expect(await problem("strokes", {})).toMatch(/nothing is drawn/);
	expect(await problem("strokes", { strokes: [[7, 7, 7, 8, 8, 8]] })).toMatch(/^$|outside/);
	expect(await problem("cuts", { planes: [1, 0] })).toMatch(/four finite numbers/);
});
