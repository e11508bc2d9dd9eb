import type { Vec3 } from "../maths";
import type { Mesh } from "../mesh";
import { roomAround } from "./carve";
import { type Cell, makeCellCutter } from "./cells";

/** A cut straight through everything: n·x = d, n of length 1, metres in the object's frame. */
export interface CutPlane {
	readonly normal: Vec3;
	readonly offset: number;
}

/** Cells that lie farther than this share of the room on both sides of a plane are parted by it. */
const TOLERANCE = 1e-9;

/**
 * The convex cells into which planes part the room around a mesh, in the order in which they lie behind the planes;
 * faces are tagged with the plane's index. `gap` metres are left between two sides of a plane.
 */
export function arrange(mesh: Mesh, planes: readonly CutPlane[], gap: number): Cell[] {
	const { min, max } = roomAround(mesh);
	const size = Math.max(...[0, 1, 2].map((k) => max[k]! - min[k]!));
	const cut = makeCellCutter(min, max);
	interface Part {
		readonly spaces: readonly number[];
		readonly tags: readonly number[];
		readonly cell: Cell;
	}
	let parts: Part[] = [{ spaces: [], tags: [], cell: cut(0, [], [])! }];
	for (const [index, { normal, offset }] of planes.entries()) {
		const [x, y, z] = normal;
		parts = parts.flatMap((part) => {
			const { vertices } = part.cell;
			let least = Infinity;
			let most = -Infinity;
			for (let v = 0; v < vertices.length; v += 3) {
				const d = vertices[v]! * x + vertices[v + 1]! * y + vertices[v + 2]! * z - offset;
				least = Math.min(least, d);
				most = Math.max(most, d);
			}
			if (least > -TOLERANCE * size || most < TOLERANCE * size) return [part];
			return [1, -1].flatMap((side) => {
				const spaces = [...part.spaces, side * x, side * y, side * z, side * offset - gap / 2];
				const tags = [...part.tags, index];
				const cell = cut(0, spaces, tags);
				return cell ? [{ spaces, tags, cell }] : [];
			});
		});
	}
	return parts.map(({ cell }, seed) => ({ ...cell, seed }));
}
