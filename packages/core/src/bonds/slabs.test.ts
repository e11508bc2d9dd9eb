import { type Body, type BuiltShot, buildBodies, type Workshop } from "../bodies";
import {
	addBondSet,
	addSlab,
	type Command,
	edit,
	type OptionValues,
	removeSlab,
	type Shot,
	setBody,
	setFracture,
	setSettings,
} from "../shot";
import { breaksOf, makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { makeBonds, slabsOf } from ".";

const PIECES = 120;
const block = (options: OptionValues, ...more: readonly Command[]): Shot =>
	shotOf(
		shape("block", "box", { width: 3, height: 2, depth: 0.3 }, [0, 1.3, 0]),
		setFracture("cut", { object: "block", method: "voronoi", options: { count: PIECES, seed: 4 } }),
		setBody(["block"], { kind: "active" }),
		addBondSet("bonds", { name: "Bonds", options, changes: [], hidden: false }),
		...more,
	);

let workshop: Workshop;
beforeAll(async () => {
	workshop = await makeTestWorkshop();
});
const built = (shot: Shot): Promise<BuiltShot> => buildBodies(workshop, shot);
/** How many pieces each group has. */
const sizes = (groups: Int32Array): number[] => {
	const count = new Map<number, number>();
	for (const n of groups) if (n >= 0) count.set(n, (count.get(n) ?? 0) + 1);
	return [...count.values()];
};
const spreadOf = (values: readonly number[]): number => {
	const mean = values.reduce((a, b) => a + b, 0) / values.length;
	return Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length) / mean;
};
/** Ids of the pieces on one side. */
const leftOf = (bodies: readonly Body[]): string[] => bodies.filter(({ offset }) => offset[0] < 0).map(({ id }) => id);

test("every piece is in one slab, and in one part of that", async () => {
	const shot = block({ slabs: 8, chunks: 3 });
	const { slab, chunk } = slabsOf(shot, (await built(shot)).bodies);
	expect(sizes(slab)).toHaveLength(8);
	expect(sizes(slab).reduce((a, b) => a + b)).toBe(PIECES);
	expect(sizes(chunk)).toHaveLength(24);
	const home = new Map<number, number>();
	for (const [i, part] of chunk.entries()) {
		expect(home.get(part) ?? slab[i]).toBe(slab[i]);
		home.set(part, slab[i]!);
	}
	// Whole things have none.
	const none = block({ slabs: 0 });
	expect(sizes(slabsOf(none, (await built(none)).bodies).slab)).toEqual([]);
});

test("by noise slabs are of many sizes; another seed groups otherwise, the same one does not", async () => {
	const groups = async (options: OptionValues) => {
		const shot = block(options);
		return slabsOf(shot, (await built(shot)).bodies).slab;
	};
	const seeds = [1, 2, 3, 4, 5];
	const [even, noise] = await Promise.all(
		(["near", "noise"] as const).map((grouped) => Promise.all(seeds.map((seed) => groups({ slabs: 8, grouped, seed })))),
	);
	const mean = (all: readonly Int32Array[]): number => all.reduce((sum, one) => sum + spreadOf(sizes(one)), 0) / all.length;
	expect(mean(noise!)).toBeGreaterThan(1.3 * mean(even!));
	expect(new Set(noise!.map((one) => one.join())).size).toBe(seeds.length);
	expect(await groups({ slabs: 8, grouped: "noise", seed: 3 })).toEqual(noise![2]);
});

test("what is picked is a slab of its own: bonds inside it are stronger, those to the others are not", async () => {
	const plain = block({ slabs: 0, within: 5 });
	const { bodies } = await built(plain);
	const left = leftOf(bodies);
	const shot = edit(plain, addSlab("bonds", left)).shot;
	const { slab } = slabsOf(shot, bodies);
	expect(sizes(slab)).toEqual([left.length]);
	const [before, after] = [await makeBonds(workshop, plain, bodies), await makeBonds(workshop, shot, bodies)];
	expect(after.count).toBe(before.count);
	let [inside, outside] = [0, 0];
	for (let k = 0; k < after.count; k++) {
		const isInside = slab[after.a[k]!]! >= 0 && slab[after.b[k]!]! >= 0;
		expect(after.tension[k]! / before.tension[k]!).toBeCloseTo(isInside ? 5 : 1, 6);
		if (isInside) inside++;
		else outside++;
	}
	expect(Math.min(inside, outside)).toBeGreaterThan(20);
	// A piece is in one slab only: another one takes it over; and it can be taken back.
	const some = left.slice(0, 4);
	const two = edit(shot, addSlab("bonds", some)).shot;
	expect(two.bondSets.bonds!.slabs).toEqual([left.slice(4), some]);
	const one = edit(two, removeSlab("bonds", 0)).shot;
	expect(one.bondSets.bonds!.slabs).toEqual([some]);
	expect(edit(one, removeSlab("bonds", 0)).shot.bondSets).toEqual(plain.bondSets);
});

test("slabs made by hand leave the others to be grouped as ever, and come off whole", async () => {
	const shot = block(
		{ slabs: 4, within: 1000, factor: 0.01 },
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		setSettings({ lastFrame: 30 }),
	);
	const { bodies } = await built(shot);
	const left = leftOf(bodies);
	const made = edit(shot, addSlab("bonds", left)).shot;
	const { slab } = slabsOf(made, bodies);
	expect(sizes(slab)).toHaveLength(5);
	const of = new Map(bodies.map(({ path }, i) => [path, slab[i]!]));
	expect(new Set(bodies.flatMap(({ id, path }) => (left.includes(id) ? of.get(path)! : []))).size).toBe(1);
	const broke = breaksOf(await runShot(made));
	expect(broke.length).toBeGreaterThan(10);
	const between = broke.filter(({ a, b }) => of.get(a) !== of.get(b)).length;
	expect(between / broke.length).toBeGreaterThan(0.9);
});
