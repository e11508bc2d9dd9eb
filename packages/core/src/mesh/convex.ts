import { diagonal } from "./measure";
import type { Mesh } from "./types";

/** The half-spaces n·x ≤ d of a convex mesh. */
export interface ConvexPlanes {
	/** 4 per plane: unit normal, offset in metres. */
	readonly planes: Float64Array;
	/** 1 per plane: its largest triangle. */
	readonly triangle: Int32Array;
}

/**
 * The planes of the mesh where it is convex and has at most `most` of them; else undefined.
 * The mesh must be closed and look outwards.
 */
export function convexPlanes(mesh: Mesh, most: number): ConvexPlanes | undefined {
	const { positions: p, triangles: t } = mesh;
	const tolerance = 1e-6 * diagonal(mesh);
	const planes: number[] = [];
	const triangle: number[] = [];
	const size: number[] = [];
	for (let f = 0; f < t.length / 3; f++) {
		const [a, b, c] = [t[3 * f]! * 3, t[3 * f + 1]! * 3, t[3 * f + 2]! * 3];
		const ux = p[b]! - p[a]!;
		const uy = p[b + 1]! - p[a + 1]!;
		const uz = p[b + 2]! - p[a + 2]!;
		const vx = p[c]! - p[a]!;
		const vy = p[c + 1]! - p[a + 1]!;
		const vz = p[c + 2]! - p[a + 2]!;
		let nx = uy * vz - uz * vy;
		let ny = uz * vx - ux * vz;
		let nz = ux * vy - uy * vx;
		const area = Math.sqrt(nx * nx + ny * ny + nz * nz);
		if (area < tolerance * tolerance) continue;
		nx /= area;
		ny /= area;
		nz /= area;
		const d = nx * p[a]! + ny * p[a + 1]! + nz * p[a + 2]!;
		let known = -1;
		for (let k = 0; k < size.length && known < 0; k++)
			if (
				nx * planes[4 * k]! + ny * planes[4 * k + 1]! + nz * planes[4 * k + 2]! > 1 - 1e-9 &&
				Math.abs(d - planes[4 * k + 3]!) < tolerance
			)
				known = k;
		if (known < 0) {
			if (size.length >= most) return undefined;
			planes.push(nx, ny, nz, d);
			triangle.push(f);
			size.push(area);
		} else if (area > size[known]!) {
			size[known] = area;
			triangle[known] = f;
		}
	}
	for (let k = 0; k < size.length; k++)
		for (let v = 0; v < p.length; v += 3)
			if (planes[4 * k]! * p[v]! + planes[4 * k + 1]! * p[v + 1]! + planes[4 * k + 2]! * p[v + 2]! - planes[4 * k + 3]! > tolerance)
				return undefined;
	return size.length >= 4 ? { planes: Float64Array.from(planes), triangle: Int32Array.from(triangle) } : undefined;
}
