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
