import { type Vec3, vec3 } from "../maths";
import { containment } from "./contains";
import { bounds, boundsSize } from "./measure";
import type { Mesh } from "./types";

/** What a vessel holds when it stands upright and is filled to the brim. */
export interface Hollow {
	/** m³ */
	readonly volume: number;
	/** Metres: from the lowest to the highest point of the filling. */
	readonly depth: number;
	/** Whether a point lies in the filling. */
	readonly contains: (x: number, y: number, z: number) => boolean;
	/** Metres: walls are known this exactly. */
	readonly cell: number;
	/** The box that holds the filling. */
	readonly min: readonly [number, number, number];
	readonly max: readonly [number, number, number];
}

/** Cells along the longest side. */
const CELLS = 96;

/**
 * The room in a vessel that would keep water: a flood from outside over a grid of cells, in which every cell gets the
 * lowest level that water must rise to on its way out (priority flood; Barnes, Lehman and Mulla 2014, here in three
 * dimensions). What lies below its level is held. Cells that the surface passes through count as wall for the flood, so
 * that thin walls do not leak, and are shared out afterwards by their middles. Volumes come out within 5 %.
 * Undefined where nothing is held.
 */
export function hollowOf(mesh: Mesh): Hollow | undefined {
	if (mesh.triangles.length === 0) return undefined;
	const box = bounds(mesh);
	const size = boundsSize(box);
	const h = Math.max(...size) / CELLS;
	// A margin of two cells all round is outside.
	const [nx, ny, nz] = size.map((s) => Math.ceil(s / h) + 4) as [number, number, number];
	const origin = box.min.map((low) => low - 2 * h) as [number, number, number];
	const index = (i: number, j: number, k: number) => i + nx * (j + ny * k);
	const rowOf = (at: number) => ((at / nx) | 0) % ny;
	const AIR = 0;
	const WALL = 1;
	const SOLID = 2;
	const state = new Uint8Array(nx * ny * nz);
	markSurface(mesh, h, (x, y, z) => {
		// Never negative: the margin sees to it.
		state[index(((x - origin[0]) / h) | 0, ((y - origin[1]) / h) | 0, ((z - origin[2]) / h) | 0)] = WALL;
	});
	// The solid behind the wall is wall too; only cells beside known wall can begin it, so the rest is flooded over.
	const within = containment(mesh);
	for (let k = 2; k < nz - 2; k++)
		for (let i = 2; i < nx - 2; i++) {
			let last = -1;
			for (let j = 2; j < ny - 2; j++) {
				const at = index(i, j, k);
				if (state[at] === WALL) {
					last = -1;
					continue;
				}
				// Between two walls of one column nothing changes.
				if (last === -1) last = within(origin[0] + (i + 0.5) * h, origin[1] + (j + 0.5) * h, origin[2] + (k + 0.5) * h) ? 1 : 0;
				if (last === 1) state[at] = SOLID;
			}
		}
	const level = new Int16Array(state.length).fill(-1);
	const buckets: number[][] = Array.from({ length: ny }, () => []);
	const reach = (at: number, value: number) => {
		level[at] = value;
		buckets[value]!.push(at);
	};
	for (let k = 0; k < nz; k++)
		for (let j = 0; j < ny; j++)
			for (let i = 0; i < nx; i++)
				if (i === 0 || j === 0 || k === 0 || i === nx - 1 || j === ny - 1 || k === nz - 1) reach(index(i, j, k), j);
	const steps = [1, -1, nx, -nx, nx * ny, -nx * ny];
	for (let low = 0; low < ny; low++)
		for (let next = buckets[low]!.pop(); next !== undefined; next = buckets[low]!.pop())
			for (const step of steps) {
				const at = next + step;
				if (at < 0 || at >= state.length || state[at] !== AIR || level[at] !== -1) continue;
				const own = rowOf(at);
				reach(at, Math.max(own, low));
			}
	const held = new Uint8Array(state.length);
	let cells = 0;
	let lowest = ny;
	let highest = -1;
	for (let at = 0; at < state.length; at++) {
		const j = rowOf(at);
		// Closed rooms without a way out are never reached: nothing gets into them.
		if (state[at] !== AIR || level[at] === j || level[at] === -1) continue;
		held[at] = 1;
		cells++;
		if (j < lowest) lowest = j;
		if (j > highest) highest = j;
	}
	// A film of a cell or two is rounding.
	if (highest - lowest < 2) return undefined;
	// Wall cells beside the filling belong to it where their middle is not in the solid.
	for (let at = 0; at < state.length; at++) {
		if (state[at] !== WALL) continue;
		const j = rowOf(at);
		if (j > highest || !steps.some((step) => held[at + step] === 1)) continue;
		const [i, k] = [at % nx, Math.floor(at / (nx * ny))];
		if (within(origin[0] + (i + 0.5) * h, origin[1] + (j + 0.5) * h, origin[2] + (k + 0.5) * h)) continue;
		held[at] = 2;
		cells++;
		if (j < lowest) lowest = j;
	}
	const cell = (value: number, axis: number) => Math.floor((value - origin[axis]!) / h);
	return {
		volume: cells * h * h * h,
		depth: (highest - lowest + 1) * h,
		contains: (x, y, z) => {
			const [i, j, k] = [cell(x, 0), cell(y, 1), cell(z, 2)];
			return i >= 0 && j >= 0 && k >= 0 && i < nx && j < ny && k < nz && held[index(i, j, k)] !== 0;
		},
		cell: h,
		min: [box.min[0], origin[1] + lowest * h, box.min[2]],
		max: [box.max[0], origin[1] + (highest + 1) * h, box.max[2]],
	};
}

/** Visits points of the surface so close together that no cell of this size is passed over: triangles are halved until they are small. */
function markSurface({ positions: p, triangles: t }: Mesh, h: number, visit: (x: number, y: number, z: number) => void): void {
	const small = (0.7 * h) ** 2;
	const visitTriangle = (a: Vec3, b: Vec3, c: Vec3): void => {
		const [ab, bc, ca] = [distance(a, b), distance(b, c), distance(c, a)];
		if (ab <= small && bc <= small && ca <= small) {
			for (const [x, y, z] of [a, b, c]) visit(x, y, z);
			return;
		}
		// The longest side is halved.
		if (ab >= bc && ab >= ca) {
			const m = vec3.mix(a, b, 0.5);
			visitTriangle(a, m, c);
			visitTriangle(m, b, c);
		} else if (bc >= ca) {
			const m = vec3.mix(b, c, 0.5);
			visitTriangle(a, b, m);
			visitTriangle(a, m, c);
		} else {
			const m = vec3.mix(c, a, 0.5);
			visitTriangle(a, b, m);
			visitTriangle(m, b, c);
		}
	};
	const corner = (v: number): Vec3 => [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!];
	for (let f = 0; f < t.length; f += 3) visitTriangle(corner(t[f]!), corner(t[f + 1]!), corner(t[f + 2]!));
}

/** Squared. */
const distance = (a: Vec3, b: Vec3): number => (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2;
