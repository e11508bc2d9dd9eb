import { noise2 } from "../maths";
import { type Mesh, makeMesh } from "../mesh";
import { length, whole } from "./parameters";
import type { Shape } from "./types";

const OCTAVES = 5;

/** A block of ground with an uneven top: value noise, halved in size and height with each octave. */
export const terrain: Shape = {
	id: "terrain",
	label: "Terrain",
	help: "A block of uneven ground: foreshore, dunes, heaps.",
	ground: true,
	parameters: {
		width: length("Width", 8, "Along x"),
		depth: length("Depth", 8, "Along z"),
		relief: length("Relief", 0.8, "From the lowest to the highest a wave can reach", 0),
		wave: length("Wave", 3, "From hill to hill"),
		base: length("Base", 0.5, "Thickness under the lowest place"),
		cells: whole("Cells", 64, 2, 400, "Squares along each side"),
		seed: whole("Seed", 7, 0, 999_999, "Another number gives another ground of the same kind"),
	},
	build: ({ width, depth, relief, wave, base, cells, seed }) => {
		const n = Math.round(cells!);
		const height = (x: number, z: number): number => {
			let sum = 0;
			let share = 0;
			for (let octave = 0, size = wave!, weight = 1; octave < OCTAVES; octave++, size /= 2, weight /= 2) {
				sum += weight * noise2(x / size, z / size, Math.round(seed!), octave);
				share += weight;
			}
			return relief! * (sum / share);
		};
		return block(n, width!, depth!, (base! + relief!) / 2, base!, height);
	},
};

/** A closed block whose top follows the heights; its middle is at half of the most it can be high. */
function block(n: number, width: number, depth: number, middle: number, base: number, height: (x: number, z: number) => number): Mesh {
	const positions: number[] = [];
	const top = (i: number, j: number) => i + (n + 1) * j;
	const bottom = (i: number, j: number) => (n + 1) * (n + 1) + top(i, j);
	const place = (i: number, size: number) => size * (i / n - 0.5);
	for (const isTop of [true, false])
		for (let j = 0; j <= n; j++)
			for (let i = 0; i <= n; i++) {
				const [x, z] = [place(i, width), place(j, depth)];
				positions.push(x, (isTop ? base + height(x, z) : 0) - middle, z);
			}
	const triangles: number[] = [];
	const quad = (a: number, b: number, c: number, d: number) => triangles.push(a, b, c, a, c, d);
	for (let j = 0; j < n; j++)
		for (let i = 0; i < n; i++) {
			quad(top(i, j), top(i, j + 1), top(i + 1, j + 1), top(i + 1, j));
			quad(bottom(i, j), bottom(i + 1, j), bottom(i + 1, j + 1), bottom(i, j + 1));
		}
	for (let k = 0; k < n; k++) {
		quad(top(k, 0), top(k + 1, 0), bottom(k + 1, 0), bottom(k, 0));
		quad(top(k + 1, n), top(k, n), bottom(k, n), bottom(k + 1, n));
		quad(top(0, k + 1), top(0, k), bottom(0, k), bottom(0, k + 1));
		quad(top(n, k), top(n, k + 1), bottom(n, k + 1), bottom(n, k));
	}
	return makeMesh(positions, triangles);
}
