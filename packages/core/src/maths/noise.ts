import { random } from "./random";

const smooth = (t: number): number => t * t * (3 - 2 * t);

/** Value noise in a plane: random numbers at whole places, blended smoothly between them; 0 to 1. */
export function noise2(x: number, y: number, seed: number, channel: number): number {
	const [i, j] = [Math.floor(x), Math.floor(y)];
	const [u, v] = [smooth(x - i), smooth(y - j)];
	const at = (a: number, b: number) => random(seed, a, 64 * b + channel);
	const near = at(i, j) + u * (at(i + 1, j) - at(i, j));
	const far = at(i, j + 1) + u * (at(i + 1, j + 1) - at(i, j + 1));
	return near + v * (far - near);
}

/** The same in space, −1 to 1. Its steepest slope is 3 per cell and axis. */
export function noise3(x: number, y: number, z: number, seed: number): number {
	const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)];
	const [u, v, w] = [smooth(x - i), smooth(y - j), smooth(z - k)];
	let sum = 0;
	for (let c = 0; c < 8; c++) {
		const [dx, dy, dz] = [c & 1, (c >> 1) & 1, c >> 2];
		const weight = (dx ? u : 1 - u) * (dy ? v : 1 - v) * (dz ? w : 1 - w);
		if (weight > 0) sum += weight * (2 * random(seed, i + dx, 8192 * (j + dy) + k + dz) - 1);
	}
	return sum;
}

/** Gradients of the noise below: towards the twelve edges of a cube (Perlin 2002, "Improving Noise"), four of them twice. */
const EDGES = [
	1, 1, 0, -1, 1, 0, 1, -1, 0, -1, -1, 0, 1, 0, 1, -1, 0, 1, 1, 0, -1, -1, 0, -1, 0, 1, 1, 0, -1, 1, 0, 1, -1, 0, -1, -1, 1, 1, 0, -1, 1, 0,
	0, -1, 1, 0, -1, -1,
];
const fade = (t: number): number => t * t * t * (t * (6 * t - 15) + 10);
const slope = (t: number): number => 30 * t * t * (t * (t - 2) + 1);

/** The gradient of Perlin's noise at a place, into `out` from `from` on. */
function noiseGradient(out: Float64Array, from: number, x: number, y: number, z: number, seed: number): void {
	const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)];
	const [fx, fy, fz] = [x - i, y - j, z - k];
	const [u, v, w] = [fade(fx), fade(fy), fade(fz)];
	const [du, dv, dw] = [slope(fx), slope(fy), slope(fz)];
	let gx = 0;
	let gy = 0;
	let gz = 0;
	for (let c = 0; c < 8; c++) {
		const [dx, dy, dz] = [c & 1, (c >> 1) & 1, c >> 2];
		const edge = 3 * Math.floor(16 * random(seed, i + dx, 8192 * (j + dy) + k + dz));
		const [ex, ey, ez] = [EDGES[edge]!, EDGES[edge + 1]!, EDGES[edge + 2]!];
		const value = ex * (fx - dx) + ey * (fy - dy) + ez * (fz - dz);
		const [wx, wy, wz] = [dx ? u : 1 - u, dy ? v : 1 - v, dz ? w : 1 - w];
		const weight = wx * wy * wz;
		gx += weight * ex + (dx ? du : -du) * wy * wz * value;
		gy += weight * ey + (dy ? dv : -dv) * wx * wz * value;
		gz += weight * ez + (dz ? dw : -dw) * wx * wy * value;
	}
	out[from] = gx;
	out[from + 1] = gy;
	out[from + 2] = gz;
}

const gradients = new Float64Array(9);
const others = new Float64Array(9);

/**
 * A field of swirls of size 1 that has no divergence: the curl of three independent noises (Bridson, Hourihan and
 * Nordenstam 2007, "Curl-Noise for Procedural Fluid Flow"). It turns into another one as `time` goes on by 1. About 1
 * strong on average.
 */
export function curlNoise(out: Float64Array, x: number, y: number, z: number, time: number, seed: number): void {
	const now = Math.floor(time);
	const blend = smooth(time - now);
	for (let n = 0; n < 3; n++) {
		noiseGradient(gradients, 3 * n, x, y, z, 3 * (seed + 7919 * now) + n);
		if (blend > 0) noiseGradient(others, 3 * n, x, y, z, 3 * (seed + 7919 * (now + 1)) + n);
	}
	if (blend > 0) for (let i = 0; i < 9; i++) gradients[i]! += blend * (others[i]! - gradients[i]!);
	const g = gradients;
	out[0] = g[7]! - g[5]!;
	out[1] = g[2]! - g[6]!;
	out[2] = g[3]! - g[1]!;
}
