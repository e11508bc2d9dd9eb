import { acos, atan2, cos, sin } from "./functions";
import type { Vec3 } from "./vector";

/** A rotation as a unit quaternion, x, y, z, w. */
export type Quat = readonly [number, number, number, number];

export const IDENTITY: Quat = [0, 0, 0, 1];

/** The rotation that does `b` first, then `a`. */
export const compose = (a: Quat, b: Quat): Quat => [
	a[3] * b[0] + a[0] * b[3] + a[1] * b[2] - a[2] * b[1],
	a[3] * b[1] - a[0] * b[2] + a[1] * b[3] + a[2] * b[0],
	a[3] * b[2] + a[0] * b[1] - a[1] * b[0] + a[2] * b[3],
	a[3] * b[3] - a[0] * b[0] - a[1] * b[1] - a[2] * b[2],
];
export const inverse = (q: Quat): Quat => [-q[0], -q[1], -q[2], q[3]];

export function rotate(q: Quat, v: Vec3): Vec3 {
	const tx = 2 * (q[1] * v[2] - q[2] * v[1]);
	const ty = 2 * (q[2] * v[0] - q[0] * v[2]);
	const tz = 2 * (q[0] * v[1] - q[1] * v[0]);
	return [v[0] + q[3] * tx + q[1] * tz - q[2] * ty, v[1] + q[3] * ty + q[2] * tx - q[0] * tz, v[2] + q[3] * tz + q[0] * ty - q[1] * tx];
}

export function normalizeQuat(q: Quat): Quat {
	const l = Math.sqrt(q[0] * q[0] + q[1] * q[1] + q[2] * q[2] + q[3] * q[3]);
	return l > 0 ? [q[0] / l, q[1] / l, q[2] / l, q[3] / l] : IDENTITY;
}

export function fromAxisAngle(axis: Vec3, angle: number): Quat {
	const s = sin(angle / 2);
	return [axis[0] * s, axis[1] * s, axis[2] * s, cos(angle / 2)];
}

/** Turns about x, then y, then z of the world, in radians. */
export const fromEuler = (turns: Vec3): Quat =>
	compose(fromAxisAngle([0, 0, 1], turns[2]), compose(fromAxisAngle([0, 1, 0], turns[1]), fromAxisAngle([1, 0, 0], turns[0])));

/** The shortest turn that takes the unit vector `from` to the unit vector `to`. */
export function fromTo(from: Vec3, to: Vec3): Quat {
	const w = 1 + from[0] * to[0] + from[1] * to[1] + from[2] * to[2];
	if (w > 1e-9) {
		const [x, y, z] = [from[1] * to[2] - from[2] * to[1], from[2] * to[0] - from[0] * to[2], from[0] * to[1] - from[1] * to[0]];
		return normalizeQuat([x, y, z, w]);
	}
	// Opposite: half a turn about any direction across.
	return Math.abs(from[0]) > 0.7 ? normalizeQuat([-from[1], from[0], 0, 0]) : normalizeQuat([0, -from[2], from[1], 0]);
}

/** The turn of what looks along its own −z axis at `forward`, with its y axis as far up as that allows. */
export function lookAlong(forward: Vec3): Quat {
	const l = Math.sqrt(forward[0] * forward[0] + forward[1] * forward[1] + forward[2] * forward[2]);
	if (l === 0) return IDENTITY;
	const level = Math.sqrt(forward[0] * forward[0] + forward[2] * forward[2]);
	// First around the upright, then up or down; straight up or down keeps the front where it was.
	const around = level > 1e-9 * l ? atan2(-forward[0], -forward[2]) : 0;
	return compose(fromAxisAngle([0, 1, 0], around), fromAxisAngle([1, 0, 0], atan2(forward[1], level)));
}

/** Turns of even likelihood from three numbers between 0 and 1 (Shoemake 1992, “Uniform random rotations”). */
export function evenTurn(u: number, v: number, w: number): Quat {
	const [a, b] = [Math.sqrt(1 - u), Math.sqrt(u)];
	const [s, t] = [2 * Math.PI * v, 2 * Math.PI * w];
	return [a * sin(s), a * cos(s), b * sin(t), b * cos(t)];
}

/** Shortest-arc interpolation at constant angular speed (Shoemake 1985). */
export function slerp(a: Quat, b: Quat, t: number): Quat {
	let cosine = a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3];
	const sign = cosine < 0 ? -1 : 1;
	cosine *= sign;
	let wa = 1 - t;
	let wb = t;
	if (cosine < 0.9999995) {
		const angle = acos(cosine);
		const inverseSine = 1 / sin(angle);
		wa = sin((1 - t) * angle) * inverseSine;
		wb = sin(t * angle) * inverseSine;
	}
	wb *= sign;
	return normalizeQuat([wa * a[0] + wb * b[0], wa * a[1] + wb * b[1], wa * a[2] + wb * b[2], wa * a[3] + wb * b[3]]);
}

/** The angle in radians between two rotations, 0 … π. Exact for small angles too. */
export function angleBetween(a: Quat, b: Quat): number {
	const d = compose(inverse(a), b);
	const s = Math.sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]);
	const w = Math.abs(d[3]);
	return w > 0.7 ? 2 * arcsine(s) : 2 * acos(Math.min(w, 1));
}
const arcsine = (s: number): number => Math.PI / 2 - acos(Math.min(s, 1));

/** Angular velocity (rad/s, world) that takes `a` to `b` in `seconds`, along the short way. */
export function angularVelocityBetween(a: Quat, b: Quat, seconds: number): Vec3 {
	const d = compose(b, inverse(a));
	const sign = d[3] < 0 ? -1 : 1;
	const s = Math.sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]);
	if (s < 1e-12 || seconds <= 0) return [0, 0, 0];
	const k = (sign * angleBetween(a, b)) / (s * seconds);
	return [d[0] * k, d[1] * k, d[2] * k];
}

/** The rotation vector (axis times angle, radians) of half a turn's quaternion; the short way round. */
function logOf(q: Quat): Vec3 {
	const [x, y, z, w] = q[3] < 0 ? [-q[0], -q[1], -q[2], -q[3]] : q;
	const sine = Math.sqrt(x * x + y * y + z * z);
	if (sine < 1e-12) return [0, 0, 0];
	const scale = atan2(sine, w) / sine;
	return [x * scale, y * scale, z * scale];
}

function expOf([x, y, z]: Vec3): Quat {
	const angle = Math.sqrt(x * x + y * y + z * z);
	if (angle < 1e-12) return IDENTITY;
	const scale = sin(angle) / angle;
	return [x * scale, y * scale, z * scale, cos(angle)];
}

/**
 * A smooth way through turns, from number `i` to the next at `t` of it: Shoemake's spherical cubic (1987, "Quaternion
 * calculus and fast animation"), whose speed does not jump at a turn where the steps are even.
 */
export function squad(turns: readonly Quat[], i: number, t: number): Quat {
	const at = (k: number): Quat => turns[Math.min(turns.length - 1, Math.max(0, k))]!;
	const control = (k: number): Quat => {
		const back = inverse(at(k));
		const [a, b] = [logOf(compose(back, at(k + 1))), logOf(compose(back, at(k - 1)))];
		return compose(at(k), expOf([-(a[0] + b[0]) / 4, -(a[1] + b[1]) / 4, -(a[2] + b[2]) / 4]));
	};
	return slerp(slerp(at(i), at(i + 1), t), slerp(control(i), control(i + 1), t), 2 * t * (1 - t));
}
