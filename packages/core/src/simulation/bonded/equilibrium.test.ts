import type { Bonds } from "../../bonds";
import { random } from "../../maths";
import { blockWall } from "../../testing/blockWall";
import { blockAt } from "./blockMatrix";
import { makeBlockMemory, placeMatrix, placeVector } from "./blockMemory";
import type { BondNet } from "./bondNet";
import { balance, type Structure, stiffnessOf, takeOut } from "./equilibrium";
import { cycle, makeMultigrid } from "./multigrid";

test("bonds that are taken out of a stiffness leave it as it is made without them, to the last bit", () => {
	// Bodies in a ring, each tied to the next but one too, some of them twice, three to something that holds still, which is body 12.
	const COUNT = 12;
	const ends = [
		...Array.from({ length: COUNT }, (_, i) => [i, (i + 1) % COUNT]),
		...Array.from({ length: COUNT }, (_, i) => [i, (i + 2) % COUNT]),
		...[0, 3, 7].map((i) => [(i + 1) % COUNT, i]),
		...[0, 4, 8].map((i) => [i, COUNT]),
	] as [number, number][];
	const m = ends.length;
	const numbers = (count: number, seed: number): Float64Array => Float64Array.from({ length: count }, (_, i) => random(seed, i, 0) - 0.5);
	const net = {
		arms: numbers(6 * m, 1),
		axes: numbers(9 * m, 2),
		stiffness: numbers(5 * m, 3).map(Math.abs),
		of: Array.from({ length: COUNT + 1 }, (_, i) => ends.flatMap((pair, k) => (pair.includes(i) ? [k] : []))),
	} as unknown as BondNet;
	const bonds = { a: Int32Array.from(ends, ([a]) => a), b: Int32Array.from(ends, ([, b]) => b) } as unknown as Bonds;
	const members = Array.from({ length: COUNT }, (_, i) => i);
	const list = Array.from({ length: m }, (_, k) => k);
	const whole = stiffnessOf(net, bonds, { members, list });
	// One of a pair that is tied twice, one to what holds still, and all of body 5.
	const broken = [...new Set([3, m - 1, ...net.of[5]!])].sort((x, y) => x - y);
	const rows = Int32Array.from({ length: COUNT + 1 }, (_, i) => (i < COUNT ? i : -1));
	const [block, diagonal] = [whole.block.slice(), whole.diagonal.slice()];
	takeOut(net, bonds, broken, rows, whole, block, diagonal);

	const rest = members.filter((i) => i !== 5);
	const made = stiffnessOf(net, bonds, { members: rest, list: list.filter((k) => !broken.includes(k)) });
	for (const [z, i] of rest.entries()) {
		expect(diagonal.subarray(36 * i, 36 * i + 36)).toEqual(made.diagonal.subarray(36 * z, 36 * z + 36));
		for (let k = whole.start[i]!; k < whole.start[i + 1]!; k++) {
			const other = rest.indexOf(whole.column[k]!);
			const isTied = made.column.subarray(made.start[z]!, made.start[z + 1]!).includes(other);
			const at = isTied ? blockAt(made, z, other) : -1;
			expect(block.subarray(36 * k, 36 * k + 36)).toEqual(isTied ? made.block.subarray(at, at + 36) : new Float64Array(36));
		}
	}
	expect(diagonal.subarray(36 * 5, 36 * 6)).toEqual(new Float64Array(36));
});

/** A wall as balance gets it. */
function structure(columns: number, rows: number): Structure {
	const { matrix, centre } = blockWall(columns, rows);
	const memory = makeBlockMemory();
	const placed = placeMatrix(memory, matrix);
	const levels = makeMultigrid(memory, matrix, centre, placed);
	const place = () => placeVector(memory, matrix.n);
	return {
		members: Array.from({ length: matrix.n }, (_, i) => i),
		list: [],
		memory,
		matrix: placed,
		precondition: (r, z) => cycle(levels, r, z),
		work: { x: place(), r: place(), z: place(), p: place(), image: place() },
	};
}

const SHARE_LEFT = 2e-3;

/** Iterations that it takes in one go. */
function inOneGo(wall: Structure, load: Float64Array): number {
	for (let most = 1; most < 100; most++)
		if (balance(wall, load, new Float64Array(load.length), new Float64Array(load.length), most) <= SHARE_LEFT) return most;
	throw new Error("Not in balance after 100 iterations");
}

/** Those that it takes in threes, with the direction that the last three have left or without it. */
function inThrees(wall: Structure, loadAt: (step: number) => Float64Array, goesOn: boolean): number {
	const u = new Float64Array(6 * wall.matrix.n);
	const search = new Float64Array(u.length);
	for (let step = 0; step < 100; step++) {
		if (!goesOn) search.fill(0);
		if (balance(wall, loadAt(step), u, search, 3) <= SHARE_LEFT) return 3 * (step + 1);
	}
	throw new Error("Not in balance after 300 iterations");
}

test("a balance that is looked for a little in each frame goes on as if it had not been interrupted", () => {
	const wall = structure(40, 40);
	// Its own weight, and a push at its upper corner.
	const load = new Float64Array(6 * wall.matrix.n);
	for (let i = 0; i < wall.matrix.n; i++) load[6 * i + 1] = -1;
	load[6 * (wall.matrix.n - 1) + 2] = 400;
	const whole = inOneGo(wall, load);
	expect(inThrees(wall, () => load, true)).toBeLessThanOrEqual(whole + 2);
	expect(inThrees(wall, () => load, false)).toBeGreaterThan(whole + 2);
	// A load that is not quite the same in each frame, as of things that rub on it, is found too.
	const shivers = (step: number) => load.map((value, k) => value * (1 + 0.002 * (random(step, k, 0) - 0.5)));
	expect(inThrees(wall, shivers, true)).toBeLessThanOrEqual(whole + 5);
});

test("a start that is worse than none does not matter: what a structure was bent by while it stood on its last bond", () => {
	const wall = structure(10, 6);
	const load = new Float64Array(6 * wall.members.length);
	for (let i = 0; i < wall.members.length; i++) load[6 * i + 1] = -1;
	const solve = (u: Float64Array, search: Float64Array) => [balance(wall, load, u, search, 40), u] as const;
	const [left, found] = solve(new Float64Array(load.length), new Float64Array(load.length));
	expect(left).toBeLessThan(SHARE_LEFT);
	const far = () => Float64Array.from(load, (_, k) => 1e9 * (random(3, k, 0) - 0.5));
	expect(solve(far(), far())).toEqual([left, found]);
});
