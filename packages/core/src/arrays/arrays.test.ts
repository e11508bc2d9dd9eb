import fc from "fast-check";
import { rotate } from "../maths";
import { type Mesh, transformMesh, volume } from "../mesh";
import { shapeById, shapeDefaults } from "../shapes";
import type { OptionValues } from "../shot";
import { type Copies, estimateFill, LAYOUTS, layOut, layoutById, layoutOptions, withSuggestions } from ".";

const make = (id: string, change: Record<string, number> = {}): Mesh => {
	const shape = shapeById(id)!;
	return shape.build({ ...shapeDefaults(shape), ...change }, {});
};
/** Of a box of 20 cm. */
const ROOM = { bounds: { min: [-0.1, -0.1, -0.1], max: [0.1, 0.1, 0.1] }, reach: 0.1 * Math.sqrt(3) } as const;
const place = async (layout: string, options: Record<string, unknown>, targets: readonly Mesh[] = [], sources = 1): Promise<Copies> => {
	const made = await layOut(layoutById(layout)!, targets, Array(sources).fill(ROOM.reach), { seed: 3, ...options } as never);
	if (!made.ok) throw new Error(made.problems[0]!.message);
	return made.value;
};
const points = ({ position, count }: Copies) =>
	Array.from({ length: count }, (_, i) => [...position.subarray(3 * i, 3 * i + 3)] as number[]);
const problem = async (layout: string, options: Record<string, unknown>, targets: readonly Mesh[] = []) => {
	const made = await layOut(layoutById(layout)!, targets, [ROOM.reach], options as never);
	return made.ok ? "" : made.problems[0]!.message;
};

test("a grid stands around its origin, layer on layer", async () => {
	const made = await place("grid", { columns: 3, layers: 2, rows: 2, stepX: 0.5, stepY: 1, stepZ: 2 });
	expect(made.count).toBe(12);
	expect(points(made).slice(0, 3)).toEqual([
		[-0.5, 0, -1],
		[0, 0, -1],
		[0.5, 0, -1],
	]);
	expect(Math.max(...points(made).map((p) => p[1]!))).toBe(1);
});

test("a line repeats one move: links of a chain stand crosswise, a spiral comes back to its start", async () => {
	const chain = await place("line", { count: 5, stepX: 0, stepY: -0.3, turnY: 90 });
	expect(points(chain)[4]).toEqual([0, expect.closeTo(-1.2, 12), 0]);
	expect(rotate(Array.from(chain.rotation.subarray(4, 8)) as never, [1, 0, 0])[2]).toBeCloseTo(-1, 12);
	const square = await place("line", { count: 5, stepX: 1, turnY: 90 });
	for (const k of [0, 1, 2]) expect(points(square)[4]![k]).toBeCloseTo(0, 12);
});

test.each([
	["level ends", [3, 0, 0], 4],
	["one end higher, askew", [2, 1.5, -1], 3.4],
	["ends that stand nearly above each other", [0.2, -1, 0], 2],
	["almost taut", [3, 0.5, 1], 3.21],
] as const)("copies that hang between two ends follow the catenary: %s", async (_, end, length) => {
	const count = 400;
	const made = await place("hanging", { count, pitch: length / count, endX: end[0], endY: end[1], endZ: end[2] });
	const at = points(made);
	const ways = at.map((_, i) => rotate(Array.from(made.rotation.subarray(4 * i, 4 * i + 4)) as never, [0, 1, 0]));
	// From end to end it is as long as it was told.
	const apart = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((x, k) => x - b[k]!));
	let sum = apart([0, 0, 0], at[0]!) + apart(at.at(-1)!, end);
	for (let i = 1; i < count; i++) sum += apart(at[i - 1]!, at[i]!);
	expect(Math.abs(sum / length - 1)).toBeLessThan(1e-3);
	// The horizontal pull is the same all along: the slope grows by the length, as the weight that hangs below.
	const slopes = ways.map(([x, y, z]) => y / Math.hypot(x, z));
	const steps = slopes.slice(1).map((slope, i) => slope - slopes[i]!);
	for (const step of steps) expect(step / steps[0]!).toBeCloseTo(1, 4);
	// They lie along the line, and in one upright plane.
	for (let i = 1; i < count; i++) {
		const [from, to] = [at[i - 1]!, at[i]!];
		const along = from.map((x, k) => (to[k]! - x) / apart(from, to));
		expect(Math.abs(along.reduce((dot, x, k) => dot + x * ways[i]![k]!, 0))).toBeGreaterThan(0.99);
		expect(Math.abs(to[0]! * end[2] - to[2]! * end[0])).toBeLessThan(1e-9);
	}
});

test("what hangs taut is straight, and what is too short says how much is missing", async () => {
	const taut = await place("hanging", { count: 4, pitch: 0.5, endX: 0, endY: 2, endZ: 0, twist: 90, lies: "z" });
	expect(points(taut).map(([, y]) => y)).toEqual([0.25, 0.75, 1.25, 1.75].map((y) => expect.closeTo(y, 9)));
	// Links stand crosswise.
	const across = [0, 1].map((i) => rotate(Array.from(taut.rotation.subarray(4 * i, 4 * i + 4)) as never, [1, 0, 0]));
	expect(across[0]!.reduce((dot, x, k) => dot + x * across[1]![k]!, 0)).toBeCloseTo(0, 9);
	expect(await problem("hanging", { count: 4, pitch: 0.5, endX: 3 })).toMatch(/4 copies reach 2.00 m, and the ends are 3.00 m apart/);
});

test("a ring closes, and every copy looks along it", async () => {
	const made = await place("ring", { count: 8, radius: 2 });
	for (const [x, , z] of points(made)) expect(Math.hypot(x!, z!)).toBeCloseTo(2, 12);
	const gap = (a: number, b: number) => Math.hypot(...[0, 1, 2].map((k) => points(made)[a]![k]! - points(made)[b]![k]!));
	expect(gap(7, 0)).toBeCloseTo(gap(0, 1), 12);
	const half = await place("ring", { count: 5, radius: 1, arc: 180, rise: 1 });
	expect(points(half)[4]!.map((v) => Number(v.toFixed(12)))).toEqual([-1, 1, -0]);
});

test("copies on a surface lie on it, keep their distance and are even by area", async () => {
	const slab = make("box", { width: 4, height: 0.2, depth: 2 });
	const made = await place("surface", { count: 300, room: 0.05, lift: 0.1, facing: "upright" }, [slab]);
	expect(made.count).toBe(300);
	for (const [x, y, z] of points(made)) {
		expect(y).toBeCloseTo(0.2, 6);
		expect(Math.abs(x!)).toBeLessThanOrEqual(2);
		expect(Math.abs(z!)).toBeLessThanOrEqual(1);
	}
	const near = points(made).some((p, i) => points(made).some((q, j) => j < i && Math.hypot(p[0]! - q[0]!, p[2]! - q[2]!) < 0.05));
	expect(near).toBe(false);
	expect(points(made).filter(([x]) => x! > 0).length / 300).toBeCloseTo(0.5, 0.9);
	// No more than there is room for.
	expect((await place("surface", { count: 300, room: 1, facing: "upright" }, [slab])).count).toBeLessThan(20);
});

test("copies on a ball stand across its surface", async () => {
	const made = await place("surface", { count: 50, lift: 0.1 }, [make("ball", { radius: 1, detail: 5 })]);
	points(made).forEach((p, i) => {
		expect(Math.hypot(...(p as [number, number, number]))).toBeCloseTo(1.1, 2);
		const up = rotate(Array.from(made.rotation.subarray(4 * i, 4 * i + 4)) as never, [0, 1, 0]);
		expect((up[0] * p[0]! + up[1] * p[1]! + up[2] * p[2]!) / 1.1).toBeCloseTo(1, 2);
	});
});

test("a vessel is filled from the bottom up to its brim, a solid as far as it goes", async () => {
	const cup = make("cup", { radius: 0.5, foot: 0.5, height: 1, wall: 0.05 });
	const all = await place("volume", { step: 0.1, count: 100_000 }, [cup]);
	for (const [x, , z] of points(all)) expect(Math.hypot(x!, z!)).toBeLessThan(0.45);
	expect(all.count).toBeGreaterThan(350);
	expect(points(await place("volume", { step: 0.1, count: 40 }, [cup])).every((p) => p[1]! < -0.35)).toBe(true);
	const solid = await place("volume", { room: "solid", step: 0.25, count: 1000 }, [make("box", { width: 1, height: 1, depth: 1 })]);
	expect(solid.count).toBe(64);
	// What finds no place under the brim stands above the opening, as many as are asked for.
	const under = (await place("volume", { step: 0.2, count: 500 }, [cup])).count;
	const poured = await place("volume", { step: 0.2, count: under + 37, brim: "over" }, [cup]);
	expect(poured.count).toBe(under + 37);
	const over = points(poured).slice(under);
	expect(
		over.every(
			(p) =>
				p[1]! >
					Math.max(
						...points(poured)
							.slice(0, under)
							.map((q) => q[1]!),
					) && Math.hypot(p[0]!, p[2]!) < 0.5,
		),
	).toBe(true);
	const strewn = await place("volume", { pattern: "strewn", step: 0.2, count: 40 }, [cup]);
	expect(strewn.count).toBeGreaterThan(30);
});

test("jitter, turn, size and source vary every copy in its own way, and one more copy changes none of the others", async () => {
	await fc.assert(
		fc.asyncProperty(fc.integer({ min: 1, max: 40 }), fc.integer({ min: 0, max: 999 }), async (count, seed) => {
			const options = { count, seed, jitter: 0.1, turn: 1, smallest: 0.5, largest: 2 };
			const few = await place("line", options, [], 3);
			const more = await place("line", { ...options, count: count + 1 }, [], 3);
			expect([...more.scale.subarray(0, count)]).toEqual([...few.scale]);
			expect([...more.position.subarray(0, 3 * count)]).toEqual([...few.position]);
			for (let i = 0; i < count; i++) {
				expect(few.scale[i]).toBeGreaterThanOrEqual(0.5);
				expect(few.scale[i]).toBeLessThanOrEqual(2);
				expect(few.source[i]).toBeLessThan(3);
				expect(Math.hypot(...few.rotation.subarray(4 * i, 4 * i + 4))).toBeCloseTo(1, 9);
			}
		}),
		{ numRuns: 30 },
	);
	expect([...(await place("line", { count: 5, mix: "turns" }, [], 3)).source]).toEqual([0, 1, 2, 0, 1]);
});

test("suggested settings make copies that stand clear of one another", async () => {
	for (const layout of LAYOUTS.filter(({ id }) => ["grid", "line", "ring"].includes(id))) {
		const made = await place(layout.id, layoutOptions(layout, ROOM));
		const all = points(made);
		all.forEach((p, i) => {
			for (const q of all.slice(0, i)) expect(Math.max(...p.map((v, k) => Math.abs(v - q[k]!)))).toBeGreaterThan(0.19 / Math.SQRT2);
		});
	}
});

test("what was suggested follows sizes, turns and counts; what was set by hand stays", async () => {
	const volume = layoutById("volume")!;
	const begin = layoutOptions(volume, ROOM);
	// Poured things lie any way round: a box needs its diagonal.
	expect(begin.turn).toBe(1);
	expect(begin.step).toBeCloseTo(0.2 * Math.sqrt(3) * 1.02, 3);
	const changed = (options: OptionValues, changes: OptionValues) => ({ ...options, ...withSuggestions(volume, ROOM, options, changes) });
	const small = changed(begin, { smallest: 0.1, largest: 0.5 });
	expect(small.step).toBeCloseTo(0.1 * Math.sqrt(3) * 1.02, 3);
	expect(changed(small, { turn: 0 }).step).toBeCloseTo(0.1 * 1.02, 3);
	const own = changed(small, { step: 0.3 });
	expect(changed(own, { largest: 1 }).step).toBe(0.3);
	const ring = layoutById("ring")!;
	const around = layoutOptions(ring, ROOM);
	expect(Number(withSuggestions(ring, ROOM, around, { count: 24 }).radius) / Number(around.radius)).toBeCloseTo(2, 2);
	// Nothing else is touched, also where a shot that was written by hand lacks the rest.
	expect(withSuggestions(volume, ROOM, { step: 0.3 }, { count: 9 })).toEqual({ count: 9 });
});

test("what cannot be laid out is said in a sentence", async () => {
	expect(await problem("grid", { columns: 1000, rows: 1000 })).toMatch(/1,000,000 copies; up to 100,000/);
	expect(await problem("line", { count: 1e6 })).toMatch(/Copies must lie between 1 and 100,000/);
	expect(await problem("surface", {})).toMatch(/under “On”/);
	expect(await problem("volume", {}, [make("box")])).toMatch(/no hollow/);
	expect(await problem("volume", { step: 5 }, [make("cup")])).toMatch(/Not one copy fits/);
	expect(await problem("line", { smallest: 2, largest: 1 })).toMatch(/smallest size is larger/);
	expect(await problem("line", { nonsense: 1 })).toMatch(/no option “nonsense”/);
});

test("the estimate of a fill: balls pack to about 0.6, cubes a little less, and narrow rooms take fewer", async () => {
	const ball = { volume: volume(make("ball", { radius: 0.05, detail: 5 })), area: 4 * Math.PI * 0.05 ** 2 };
	const wide = estimateFill(10, 10, [ball]);
	expect(wide.packing).toBeCloseTo(0.6, 1);
	expect(wide.count).toBeCloseTo((10 * wide.packing) / ball.volume, -1);
	const cube = estimateFill(10, 10, [{ volume: 0.001, area: 0.06 }]);
	expect(cube.sphericity).toBeCloseTo(0.806, 3);
	expect(cube.packing).toBeLessThan(wide.packing);
	expect(estimateFill(10, 0.4, [ball]).packing).toBeLessThan(wide.packing - 0.02);
});

test("a hollow is as large as the formula says, whatever the vessel's walls, and turned over it holds nothing", async () => {
	const { hollowOf } = await import("../mesh");
	for (const [radius, height, wall] of [
		[0.3, 0.6, 0.02],
		[1, 0.5, 0.1],
		[0.2, 1, 0.004],
	] as const) {
		const cup = make("cup", { radius, foot: radius, height, wall, segments: 96 });
		const inner = 0.5 * 96 * (radius - wall) ** 2 * Math.sin((2 * Math.PI) / 96) * (height - wall);
		expect(Math.abs(hollowOf(cup)!.volume / inner - 1)).toBeLessThan(0.05);
		expect(hollowOf(transformMesh(cup, { rotation: [1, 0, 0, 0] }))).toBeUndefined();
	}
	expect(hollowOf(make("ball"))).toBeUndefined();
});
