import type { Mesh } from "../mesh";
import { bounds, boundsSize } from "../mesh";
import { roomAround } from "./carve";
import { type Cell, makeCellCutter } from "./cells";

/** The side of a flat or long thing that it is looked at from: u across, v up, w through. Axes as 0, 1, 2. */
export interface Face {
	readonly u: number;
	readonly v: number;
	readonly w: number;
	/** Extents in u, v and w, metres. */
	readonly min: readonly [number, number, number];
	readonly max: readonly [number, number, number];
}

/** Looks at a mesh through its thinnest extent; u, v, w turn like x, y, z. */
export function thinnestFace(mesh: Mesh): Face {
	const size = boundsSize(bounds(mesh));
	return faceAlong(mesh, size.indexOf(Math.min(...size)));
}

/** Looks at a mesh along axis `w`; up stays up where it can. */
export function faceAlong(mesh: Mesh, w: number): Face {
	const [u, v] = w === 2 ? [0, 1] : w === 0 ? [2, 1] : [0, 2];
	const { min, max } = bounds(mesh);
	const pick = (of: readonly number[]) => [of[u]!, of[v]!, of[w]!] as const;
	return { u, v, w, min: pick(min), max: pick(max) };
}

/** The axis that the drawn side faces: the strokes lie nearest to its ends. Of equals the thinnest. */
export function drawnAxis(mesh: Mesh, lines: readonly (readonly number[])[]): number {
	const box = bounds(mesh);
	const size = boundsSize(box);
	const off = [0, 0, 0];
	for (const line of lines)
		line.forEach((value, i) => {
			off[i % 3]! += Math.min(Math.abs(value - box.min[i % 3]!), Math.abs(value - box.max[i % 3]!));
		});
	const least = Math.min(...off) + 1e-6 * Math.max(...size);
	return [0, 1, 2].filter((k) => off[k]! <= least).reduce((best, k) => (size[k]! < size[best]! ? k : best));
}

/** A half-space of a face, n·(u, v, w) ≤ d, with its tag: the same number on the other side of the same cut. */
export interface Side {
	readonly n: readonly [number, number, number];
	readonly d: number;
	readonly tag: number;
}

/**
 * Makes convex cells by half-planes of a face, each through the whole thickness, and by half-spaces along it.
 */
export function makePrisms(mesh: Mesh, face: Face) {
	const { min, max } = roomAround(mesh);
	const cut = makeCellCutter(min, max);
	return (seed: number, sides: readonly Side[]): Cell | undefined =>
		cut(
			seed,
			sides.flatMap(({ n, d }) => {
				const plane = [0, 0, 0, d];
				plane[face.u] = n[0];
				plane[face.v] = n[1];
				plane[face.w] = n[2];
				return plane;
			}),
			sides.map(({ tag }) => tag),
		);
}
