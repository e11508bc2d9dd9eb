import type { Bonds } from "../../bonds";
import { random } from "../../maths";
import { blockAt } from "./blockMatrix";
import type { BondNet } from "./bondNet";
import { stiffnessOf, takeOut } from "./equilibrium";

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
