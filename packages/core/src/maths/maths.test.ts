import fc from "fast-check";
import {
	acos,
	angleBetween,
	atan2,
	clamp,
	compose,
	cos,
	cubeRoot,
	degrees,
	eulerNear,
	fromAxisAngle,
	fromEuler,
	IDENTITY,
	inverse,
	principalAxes,
	type Quat,
	radians,
	random,
	rotate,
	sin,
	slerp,
	toEuler,
	type Vec3,
	vec3,
} from ".";

const number = fc.double({ min: -10, max: 10, noNaN: true });
const vector = fc.tuple(number, number, number) as fc.Arbitrary<Vec3>;
const turn: fc.Arbitrary<Quat> = fc
	.tuple(vector, fc.double({ min: -3, max: 3, noNaN: true }))
	.filter(([axis]) => vec3.length(axis) > 0.1)
	.map(([axis, angle]) => fromAxisAngle(vec3.normalize(axis), angle));
const near = (a: readonly number[], b: readonly number[], digits = 9): void => {
	for (const [i, value] of a.entries()) expect(value).toBeCloseTo(b[i]!, digits);
};

test("sine, cosine and their inverses agree with the engine's to the last digits, and are the same everywhere", () => {
	fc.assert(
		fc.property(number, number, (a, b) => {
			expect(sin(a)).toBeCloseTo(Math.sin(a), 14);
			expect(cos(a)).toBeCloseTo(Math.cos(a), 14);
			// Below the smallest normal number signs are lost, here and there.
			if (Math.abs(a) > 1e-300) expect(atan2(a, b)).toBeCloseTo(Math.atan2(a, b), 14);
			expect(acos(clamp(a, -1, 1))).toBeCloseTo(Math.acos(clamp(a, -1, 1)), 14);
			expect(cubeRoot(a)).toBeCloseTo(Math.cbrt(a), 12);
		}),
	);
	// Bits that a test on another engine must find again.
	expect([sin(1.1), cos(2.3), atan2(1, 3)].map((v) => v.toString())).toEqual([
		"0.8912073600614354",
		"-0.666276021279824",
		"0.3217505543966422",
	]);
	expect(degrees(radians(123.4))).toBeCloseTo(123.4, 12);
});

test("rotations keep lengths, compose, and are undone by their inverse", () => {
	fc.assert(
		fc.property(turn, turn, vector, (a, b, v) => {
			expect(vec3.length(rotate(a, v))).toBeCloseTo(vec3.length(v), 9);
			near(rotate(compose(a, b), v), rotate(a, rotate(b, v)), 8);
			near(rotate(inverse(a), rotate(a, v)), v, 8);
		}),
	);
	near(rotate(fromAxisAngle([0, 1, 0], Math.PI / 2), [1, 0, 0]), [0, 0, -1]);
	near(rotate(fromEuler([0, Math.PI, 0]), [1, 0, 0]), [-1, 0, 0]);
});

test("between two turns it goes the short way, at even speed", () => {
	fc.assert(
		fc.property(turn, turn, fc.double({ min: 0, max: 1, noNaN: true }), (a, b, t) => {
			const whole = angleBetween(a, b);
			expect(whole).toBeLessThanOrEqual(Math.PI + 1e-9);
			expect(angleBetween(a, slerp(a, b, t))).toBeCloseTo(t * whole, 5);
		}),
	);
	near(slerp(IDENTITY, fromAxisAngle([0, 0, 1], 1), 0.5), fromAxisAngle([0, 0, 1], 0.5));
});

test("principal axes make a symmetric matrix diagonal", () => {
	fc.assert(
		fc.property(fc.tuple(number, number, number, number, number, number), (m) => {
			const { values, frame } = principalAxes(m);
			const columns = [rotate(frame, [1, 0, 0]), rotate(frame, [0, 1, 0]), rotate(frame, [0, 0, 1])];
			const times = ([x, y, z]: Vec3): Vec3 => [
				m[0] * x + m[3] * y + m[4] * z,
				m[3] * x + m[1] * y + m[5] * z,
				m[4] * x + m[5] * y + m[2] * z,
			];
			for (const [i, axis] of columns.entries()) near(times(axis), vec3.scale(axis, values[i]!), 6);
		}),
	);
});

test("random numbers are even, and one item's do not depend on another's", () => {
	const values = Array.from({ length: 20_000 }, (_, i) => random(7, i, 0));
	expect(values.reduce((sum, v) => sum + v, 0) / values.length).toBeCloseTo(0.5, 2);
	const bins = new Array<number>(20).fill(0);
	for (const v of values) bins[Math.floor(20 * v)]!++;
	// Chi-square with 19 degrees of freedom: 43.8 is passed once in a thousand.
	expect(bins.reduce((sum, n) => sum + (n - 1000) ** 2 / 1000, 0)).toBeLessThan(43.8);
	const pairs = values.slice(1).reduce((sum, v, i) => sum + (v - 0.5) * (values[i]! - 0.5), 0) / values.length;
	expect(Math.abs(pairs)).toBeLessThan(0.002);
	expect(random(7, 3, 1)).not.toBe(random(7, 3, 2));
	expect(random(7, 3, 1)).toBe(random(7, 3, 1));
});

test("turns about three axes come back from a quaternion, and follow one another without flips", () => {
	for (let n = 0; n < 200; n++) {
		const turns: Vec3 = [0, 1, 2].map((k) => 6 * random(5, n, k) - 3) as unknown as Vec3;
		const back = fromEuler(eulerNear(fromEuler(turns), turns));
		expect(Math.abs(back.reduce((sum, v, k) => sum + v * fromEuler(turns)[k]!, 0))).toBeCloseTo(1, 9);
		eulerNear(fromEuler(turns), turns).forEach((turn, k) => {
			expect(turn).toBeCloseTo(turns[k]!, 6);
		});
	}
	// Three whole turns about z with a wobble: z goes on growing.
	let last: Vec3 = [0, 0, 0];
	for (let n = 1; n <= 100; n++) {
		const next = eulerNear(fromEuler([0.3 * Math.sin(n / 9), 0.2, (6 * Math.PI * n) / 100]), last);
		expect(Math.max(...next.map((turn, k) => Math.abs(turn - last[k]!)))).toBeLessThan(0.4);
		last = next;
	}
	expect(last[2]).toBeCloseTo(6 * Math.PI, 6);
	expect(toEuler(fromEuler([0.4, Math.PI / 2, 0]))[1]).toBeCloseTo(Math.PI / 2, 5);
});
