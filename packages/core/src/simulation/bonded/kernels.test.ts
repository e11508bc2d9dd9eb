import { spawnSync } from "node:child_process";
import type { Bonds } from "../../bonds";
import { random } from "../../maths";
import type { BondNet } from "./bondNet";
import { MOTION, MOTION_SPEED, makeLatticeMemory, NODE_FORCE, nodeAt, peakOfLane, setLane, setNode } from "./latticeMemory";

/** Bodies and bonds at random: what matters is arithmetic. */
const [BODIES, BONDS] = [20, 43];
const numbers = (count: number, seed: number, size = 1): Float64Array =>
	Float64Array.from({ length: count }, (_, i) => size * (random(seed, i, 0) - 0.5));
const positive = (count: number, seed: number, size = 1): Float64Array =>
	numbers(count, seed, size).map((value) => Math.abs(value) + 0.1 * size);

const net = {
	of: Array.from({ length: BODIES }, () => []),
	arms: numbers(6 * BONDS, 1, 0.2),
	axes: numbers(9 * BONDS, 2, 2),
	modulus: positive(3 * BONDS, 3, 1e-3),
} as unknown as BondNet;
const bonds = {
	count: BONDS,
	a: Int32Array.from({ length: BONDS }, (_, k) => k % BODIES),
	b: Int32Array.from({ length: BONDS }, (_, k) => (k + 1 + (k % 3)) % BODIES),
	area: positive(BONDS, 4, 0.03),
	tension: new Float64Array(BONDS).fill(1e12),
	shear: new Float64Array(BONDS).fill(1e12),
	compression: new Float64Array(BONDS).fill(1e12),
} as unknown as Bonds;
const stiffness = positive(5 * BONDS, 5, 1e7);

function laidOut() {
	const memory = makeLatticeMemory(net, bonds, stiffness);
	const [u, v] = [numbers(6 * BODIES, 6, 1e-3), numbers(6 * BODIES, 7, 1)];
	for (let i = 0; i < BODIES; i++) setNode(memory, i, u, v, 0.5, 0.25, 1, 1, 1e-4);
	memory.kernel.begin();
	return { memory, u, v, w: u.map((value, d) => value + 1e-4 * v[d]!) };
}

/** Force and moment of every bond on its two bodies, in plain numbers. */
function forces(w: Float64Array): Float64Array {
	const all = new Float64Array(6 * BODIES);
	const dot = (p: readonly number[], q: readonly number[]): number => p.reduce((sum, value, d) => sum + value * q[d]!, 0);
	const cross = ([a, b, c]: number[], [x, y, z]: number[]): number[] => [b! * z! - c! * y!, c! * x! - a! * z!, a! * y! - b! * x!];
	const of = (array: Float64Array, at: number): number[] => Array.from(array.subarray(at, at + 3));
	for (let k = 0; k < BONDS; k++) {
		const [i, j] = [6 * bonds.a[k]!, 6 * bonds.b[k]!];
		const [armA, armB] = [of(net.arms, 6 * k), of(net.arms, 6 * k + 3)];
		const axes = [0, 3, 6].map((at) => of(net.axes, 9 * k + at));
		const [atA, atB] = [cross(of(w, i + 3), armA), cross(of(w, j + 3), armB)];
		const apart = [0, 1, 2].map((d) => w[j + d]! + atB[d]! - w[i + d]! - atA[d]!);
		const turned = [0, 1, 2].map((d) => w[j + 3 + d]! - w[i + 3 + d]!);
		const stiff = stiffness.subarray(5 * k, 5 * k + 5);
		const force = [0, 0, 0];
		const moment = [0, 0, 0];
		for (const [n, axis] of axes.entries())
			for (let d = 0; d < 3; d++) {
				force[d]! += stiff[n === 0 ? 0 : 1]! * dot(apart, axis) * axis[d]!;
				moment[d]! += stiff[[4, 2, 3][n]!]! * dot(turned, axis) * axis[d]!;
			}
		const [onA, onB] = [cross(armA, force), cross(armB, force)];
		for (let d = 0; d < 3; d++) {
			all[i + d]! += force[d]!;
			all[j + d]! -= force[d]!;
			all[i + 3 + d]! += onA[d]! + moment[d]!;
			all[j + 3 + d]! -= onB[d]! + moment[d]!;
		}
	}
	return all;
}

const forceOf = (memory: ReturnType<typeof laidOut>["memory"], i: number, d: number): number =>
	memory.f32[nodeAt(memory, i) + NODE_FORCE + d + (d > 2 ? 1 : 0)]!;

function pullAll(memory: ReturnType<typeof laidOut>["memory"]): number {
	const fours = Math.ceil(BONDS / 4);
	for (let q = 0; q < fours; q++) memory.quads[q] = q;
	return memory.kernel.pull(memory.quads.byteOffset, fours);
}

test("what is compiled is what its source says", () => {
	const { status, stderr } = spawnSync(process.execPath, ["scripts/build-kernels.mjs", "--check"], { encoding: "utf8" });
	expect(stderr).not.toMatch(/is not what/);
	expect(status).toBe(0);
}, 120_000);

test("bonds in fours pull as one by one in plain numbers", () => {
	const { memory, w } = laidOut();
	for (let k = 0; k < BONDS; k++) setLane(memory, bonds, k, true, 1);
	expect(pullAll(memory)).toBe(0);
	const expected = forces(w);
	const largest = Math.max(...expected.map(Math.abs));
	for (let i = 0; i < BODIES; i++)
		for (let d = 0; d < 6; d++) expect(Math.abs(forceOf(memory, i, d) - expected[6 * i + d]!)).toBeLessThan(1e-5 * largest);
});

test("bonds that do not belong do not pull, those over their limit break once and say why", () => {
	const { memory } = laidOut();
	const limits = bonds.tension.map((value, k) => (k === 6 ? 1 : value));
	const weak = { ...bonds, tension: limits, shear: limits, compression: limits };
	for (let k = 0; k < BONDS; k++) setLane(memory, weak, k, k === 6 || k === 7, 1);
	expect(pullAll(memory)).toBe(1);
	expect([memory.breaks[0], memory.state[6]]).toEqual([6, 1]);
	expect(memory.stresses[2]).toBeGreaterThan(1);
	expect(peakOfLane(memory, 6)).toBeGreaterThan(1);
	expect(peakOfLane(memory, 7)).toBeGreaterThan(0);
	expect(peakOfLane(memory, 8)).toBe(0);
	expect(memory.kernel.highestUse()).toBe(peakOfLane(memory, 6));
	expect(pullAll(memory)).toBe(0);
});

test("bodies move by their forces, and tell when they have come far", () => {
	const { memory, u, v } = laidOut();
	for (let i = 0; i < BODIES; i++) memory.nodes[i] = i;
	const at = nodeAt(memory, 3) + NODE_FORCE;
	memory.f32.set([4, -2, 6, 0, 8, 2, -4], at);
	// 0.5 and 0.25: small step over mass and over inertia.
	const speed = [4 * 0.5, -2 * 0.5, 6 * 0.5, 8 * 0.25, 2 * 0.25, -4 * 0.25].map((more, d) => v[18 + d]! + more);
	const found = memory.kernel.move(memory.nodes.byteOffset, BODIES, 10, 1e-4, memory.stirred.byteOffset);
	for (const [d, value] of speed.entries()) {
		expect(memory.motion[MOTION * 3 + MOTION_SPEED + d]).toBeCloseTo(value, 6);
		expect(memory.motion[MOTION * 3 + d]).toBeCloseTo(u[18 + d]! + 10 * value, 5);
	}
	const far = Array.from({ length: BODIES }, (_, i) => i).filter((i) =>
		[0, 1, 2, 3, 4, 5].some((d) => Math.abs(memory.motion[MOTION * i + d]!) > 1),
	);
	expect(far.length).toBeGreaterThan(0);
	expect(Array.from(memory.stirred.subarray(0, found))).toEqual(far);
	// The forces have been used up.
	expect(memory.f32[at]).toBe(0);
});
