import { spawnSync } from "node:child_process";
import type { Bonds } from "../../bonds";
import { random } from "../../maths";
import type { BondNet } from "./bondNet";
import {
	fillMotions,
	MOTION,
	MOTION_SPEED,
	makeLatticeMemory,
	NODE_FORCE,
	nodeAt,
	peakOfLane,
	Role,
	setStrength,
	takeMotions,
} from "./latticeMemory";

/** Bodies and bonds at random: what matters is arithmetic. */
const [BODIES, BONDS] = [20, 43];
const numbers = (count: number, seed: number, size = 1): Float64Array =>
	Float64Array.from({ length: count }, (_, i) => size * (random(seed, i, 0) - 0.5));
const positive = (count: number, seed: number, size = 1): Float64Array =>
	numbers(count, seed, size).map((value) => Math.abs(value) + 0.1 * size);

const endsOf = (k: number): number[] => [k % BODIES, (k + 1 + (k % 3)) % BODIES];
const net = {
	of: Array.from({ length: BODIES }, (_, i) => Array.from({ length: BONDS }, (_, k) => k).filter((k) => endsOf(k).includes(i))),
	arms: numbers(6 * BONDS, 1, 0.2),
	axes: numbers(9 * BONDS, 2, 2),
	modulus: positive(3 * BONDS, 3, 1e-3),
} as unknown as BondNet;
const bonds = {
	count: BONDS,
	a: Int32Array.from({ length: BONDS }, (_, k) => endsOf(k)[0]!),
	b: Int32Array.from({ length: BONDS }, (_, k) => endsOf(k)[1]!),
	area: positive(BONDS, 4, 0.03),
	tension: new Float64Array(BONDS).fill(1e12),
	shear: new Float64Array(BONDS).fill(1e12),
	compression: new Float64Array(BONDS).fill(1e12),
} as unknown as Bonds;
const stiffness = positive(5 * BONDS, 5, 1e7);

const EVERYBODY = Array.from({ length: BODIES }, (_, i) => i);
const [STEP, DAMPING] = [10, 1e-4];

/** All bodies of mass 20 kg and 40 kg m², moved and fast at random; `stirs`: the speed from which they wake their bonds. */
function laidOut({ stirs = 0, members = EVERYBODY, limit = 1e12, held = true } = {}) {
	const all = (value: number) => new Float64Array(BODIES).fill(value);
	const whole = new Float64Array(BONDS).fill(1);
	const lattice = { mass: all(20), inertia: all(40), stirs: all(stirs), turns: all(stirs), stiffness, strength: whole };
	const strength = new Float64Array(BONDS).fill(limit);
	const of = { ...bonds, tension: strength, shear: strength, compression: strength };
	const memory = makeLatticeMemory(net, of, lattice, whole, () => false);
	const [u, v] = [numbers(6 * BODIES, 6, 1e-3), numbers(6 * BODIES, 7, 1)];
	for (const i of members) memory.roles[i] = Role.Member;
	memory.kernel.begin(STEP, DAMPING, held);
	const moved = fillMotions(memory, members, u, v);
	return { memory, of, u, v, moved, w: u.map((value, d) => value + DAMPING * v[d]!) };
}
const goOn = ({ memory, moved }: ReturnType<typeof laidOut>, share = 0.1): void =>
	memory.kernel.resume(memory.moved.byteOffset, moved, share, true);

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

test("what is compiled is what its source says", () => {
	const { status, stderr } = spawnSync(process.execPath, ["scripts/build-kernels.mjs", "--check"], { encoding: "utf8" });
	expect(stderr).not.toMatch(/is not what/);
	expect(status).toBe(0);
}, 120_000);

test("bonds in fours pull as one by one in plain numbers", () => {
	const laid = laidOut();
	goOn(laid);
	expect(laid.memory.kernel.pull()).toBe(0);
	const expected = forces(laid.w);
	const largest = Math.max(...expected.map(Math.abs));
	for (const i of EVERYBODY)
		for (let d = 0; d < 6; d++) expect(Math.abs(forceOf(laid.memory, i, d) - expected[6 * i + d]!)).toBeLessThan(1e-5 * largest);
});

test("bonds over their limit break once and say why; bonds to what is not struck do not pull", () => {
	const laid = laidOut({ members: EVERYBODY.filter((i) => i !== 11) });
	const { memory, of } = laid;
	setStrength(memory, of, 6, 1e-12);
	goOn(laid);
	expect(memory.kernel.pull()).toBe(1);
	expect([memory.breaks[0], memory.state[6]]).toEqual([6, 1]);
	expect(memory.stresses[2]).toBeGreaterThan(1);
	expect(peakOfLane(memory, 6)).toBeGreaterThan(1);
	expect(peakOfLane(memory, 5)).toBeGreaterThan(0);
	// Between body 8 and body 11.
	expect(endsOf(8)).toContain(11);
	expect(peakOfLane(memory, 8)).toBe(0);
	expect(memory.kernel.highestUse()).toBe(peakOfLane(memory, 6));
	// Still the one.
	expect(memory.kernel.pull()).toBe(1);
});

test("what holds still holds only what has not come off it", () => {
	const peakAtSupport = (held: boolean): number => {
		const laid = laidOut({ members: EVERYBODY.filter((i) => i !== 11), held });
		laid.memory.roles[11] = Role.HoldsStill;
		goOn(laid);
		laid.memory.kernel.pull();
		return peakOfLane(laid.memory, 8);
	};
	expect([peakAtSupport(true) > 0, peakAtSupport(false)]).toEqual([true, 0]);
});

test("bodies move by their forces", () => {
	const laid = laidOut();
	const { memory, u, v, moved } = laid;
	goOn(laid);
	const at = nodeAt(memory, 3) + NODE_FORCE;
	memory.f32.set([4, -2, 6, 0, 8, 2, -4], at);
	memory.kernel.move();
	for (const [d, force] of [4, -2, 6, 8, 2, -4].entries()) {
		const speed = v[18 + d]! + (STEP * force) / (d < 3 ? 20 : 40);
		expect(memory.motion[MOTION * 3 + MOTION_SPEED + d]).toBeCloseTo(speed, 6);
		expect(memory.motion[MOTION * 3 + d]).toBeCloseTo(u[18 + d]! + STEP * speed, 5);
	}
	// The forces have been used up.
	expect(memory.f32[at]).toBe(0);
	const [way, fast] = [new Float64Array(6 * BODIES), new Float64Array(6 * BODIES)];
	takeMotions(memory, memory.moved, moved, way, fast);
	expect(way[18]).toBe(memory.motion[MOTION * 3]);
	memory.kernel.end(memory.moved.byteOffset, moved);
	for (const array of [memory.motion, memory.f32.subarray(nodeAt(memory, 0), nodeAt(memory, BODIES))])
		expect(array.some((value) => value !== 0)).toBe(false);
});

test("slow bodies come to rest, where they are, unless a bond pulls at them; fast ones wake theirs", () => {
	const slow = laidOut({ stirs: 10, limit: 1e30 });
	goOn(slow);
	expect(slow.memory.kernel.quadCount()).toBe(0);
	expect(slow.memory.motion[MOTION * 3 + MOTION_SPEED]).toBe(0);
	expect(slow.memory.motion[MOTION * 3]).toBe(slow.u[18]);

	const pulledAt = laidOut({ stirs: 10, limit: 1e30 });
	setStrength(pulledAt.memory, pulledAt.of, 6, 1e-24);
	goOn(pulledAt);
	// Whatever its two ends are held by: bonds wake in fours.
	const awake = new Set(endsOf(6).flatMap((i) => net.of[i]!.map((k) => k >> 2)));
	expect(new Set(pulledAt.memory.quads.subarray(0, pulledAt.memory.kernel.quadCount()))).toEqual(awake);

	// Once its bond is as strong as the others again, nothing is left to work on; where it has come to is not forgotten.
	const { memory, of, moved } = pulledAt;
	memory.kernel.move();
	setStrength(memory, of, 6, 1);
	const place = memory.motion[MOTION * endsOf(6)[0]!];
	expect(memory.kernel.calmDown(memory.moved.byteOffset, moved, 0.1)).toBe(moved);
	expect([memory.kernel.quadCount(), memory.kernel.reachedCount()]).toEqual([0, 0]);
	expect(memory.motion[MOTION * endsOf(6)[0]!]).toBe(place);

	const fast = laidOut({ stirs: 10, limit: 1e30 });
	const speed = MOTION * 5 + MOTION_SPEED;
	fast.memory.motion[speed + 4] = -11;
	goOn(fast);
	expect(fast.memory.motion[speed + 4]).toBe(-11);
	expect(new Set(fast.memory.quads.subarray(0, fast.memory.kernel.quadCount()))).toEqual(new Set(net.of[5]!.map((k) => k >> 2)));
});

test("what was pulled at from rest is among what has moved when a step goes on", () => {
	const laid = laidOut({ stirs: 10, limit: 1e30 });
	const { memory, u, v } = laid;
	memory.kernel.end(memory.moved.byteOffset, laid.moved);
	// Only one moves, and its neighbours are pulled at.
	for (let d = 0; d < 6; d++) for (const i of EVERYBODY) if (i !== 5) [u[6 * i + d], v[6 * i + d]] = [0, 0];
	v[30] = 20;
	memory.kernel.begin(STEP, DAMPING, true);
	expect(fillMotions(memory, EVERYBODY, u, v)).toBe(1);
	memory.kernel.resume(memory.moved.byteOffset, 1, 0.1, true);
	memory.kernel.pull();
	memory.kernel.move();
	const reached = Array.from(memory.nodes.subarray(0, memory.kernel.reachedCount()));
	expect(reached.length).toBeGreaterThan(1);
	const count = memory.kernel.calmDown(memory.moved.byteOffset, 1, 0.1);
	expect(Array.from(memory.moved.subarray(0, count)).sort()).toEqual(reached.sort());
});
