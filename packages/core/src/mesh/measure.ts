import type { Symmetric3, Vec3 } from "../maths";
import type { Mesh } from "./types";

export interface Bounds {
	readonly min: Vec3;
	readonly max: Vec3;
}

/** The axis-aligned box around the mesh, metres; all zero for an empty mesh. */
export function bounds(mesh: { readonly positions: ArrayLike<number> }): Bounds {
	const p = mesh.positions;
	if (p.length === 0) return { min: [0, 0, 0], max: [0, 0, 0] };
	let [x0, y0, z0, x1, y1, z1] = [p[0]!, p[1]!, p[2]!, p[0]!, p[1]!, p[2]!];
	for (let i = 3; i < p.length; i += 3) {
		const x = p[i]!;
		const y = p[i + 1]!;
		const z = p[i + 2]!;
		if (x < x0) x0 = x;
		else if (x > x1) x1 = x;
		if (y < y0) y0 = y;
		else if (y > y1) y1 = y;
		if (z < z0) z0 = z;
		else if (z > z1) z1 = z;
	}
	return { min: [x0, y0, z0], max: [x1, y1, z1] };
}

export const boundsSize = ({ min, max }: Bounds): Vec3 => [max[0] - min[0], max[1] - min[1], max[2] - min[2]];
export const boundsCentre = ({ min, max }: Bounds): Vec3 => [(max[0] + min[0]) / 2, (max[1] + min[1]) / 2, (max[2] + min[2]) / 2];
/** From the origin to the farthest vertex, metres. */
export function reach({ positions: p }: { readonly positions: ArrayLike<number> }): number {
	let most = 0;
	for (let i = 0; i < p.length; i += 3) most = Math.max(most, p[i]! * p[i]! + p[i + 1]! * p[i + 1]! + p[i + 2]! * p[i + 2]!);
	return Math.sqrt(most);
}
/** The mean of points, 3 numbers each. */
export function meanPoint(points: ArrayLike<number>): Vec3 {
	const sum = [0, 0, 0];
	for (let v = 0; v < points.length; v++) sum[v % 3]! += points[v]!;
	return sum.map((all) => (3 * all) / points.length) as unknown as Vec3;
}
/** The diagonal of the box, metres: the size that tolerances are derived from. */
export function diagonal(mesh: Mesh): number {
	const [x, y, z] = boundsSize(bounds(mesh));
	return Math.sqrt(x * x + y * y + z * z);
}

/** Surface in m². */
export function area(mesh: Mesh): number {
	const { positions: p, triangles: t } = mesh;
	let sum = 0;
	for (let i = 0; i < t.length; i += 3) sum += triangleArea(p, t[i]! * 3, t[i + 1]! * 3, t[i + 2]! * 3);
	return sum;
}

function triangleArea(p: Float32Array, a: number, b: number, c: number): number {
	const ux = p[b]! - p[a]!;
	const uy = p[b + 1]! - p[a + 1]!;
	const uz = p[b + 2]! - p[a + 2]!;
	const vx = p[c]! - p[a]!;
	const vy = p[c + 1]! - p[a + 1]!;
	const vz = p[c + 2]! - p[a + 2]!;
	const x = uy * vz - uz * vy;
	const y = uz * vx - ux * vz;
	const z = ux * vy - uy * vx;
	return Math.sqrt(x * x + y * y + z * z) / 2;
}

/** What a solid of even density is like; volume in m³, negative for an inside-out mesh. */
export interface Solid {
	readonly volume: number;
	readonly centroid: Vec3;
	/** ∫ over the solid about its centroid in m⁵: times the density it is the inertia tensor in kg m². */
	readonly inertia: Symmetric3;
}

/**
 * Volume, centroid and second moments of a closed mesh, exact for its facets, as a sum over the tetrahedra
 * between each triangle and the first vertex (Tonon 2004, "Explicit exact formulas for the 3-D tetrahedron
 * inertia tensor"). Summed in float64 from coordinates relative to that vertex, so that place costs no digits.
 */
export function solid(mesh: Mesh): Solid {
	const { positions: p, triangles: t } = mesh;
	if (t.length === 0) return { volume: 0, centroid: [0, 0, 0], inertia: [0, 0, 0, 0, 0, 0] };
	const ox = p[0]!;
	const oy = p[1]!;
	const oz = p[2]!;
	let v6 = 0;
	let sx = 0;
	let sy = 0;
	let sz = 0;
	let xx = 0;
	let yy = 0;
	let zz = 0;
	let xy = 0;
	let xz = 0;
	let yz = 0;
	for (let i = 0; i < t.length; i += 3) {
		const a = t[i]! * 3;
		const b = t[i + 1]! * 3;
		const c = t[i + 2]! * 3;
		const ax = p[a]! - ox;
		const ay = p[a + 1]! - oy;
		const az = p[a + 2]! - oz;
		const bx = p[b]! - ox;
		const by = p[b + 1]! - oy;
		const bz = p[b + 2]! - oz;
		const cx = p[c]! - ox;
		const cy = p[c + 1]! - oy;
		const cz = p[c + 2]! - oz;
		const d = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
		const x = ax + bx + cx;
		const y = ay + by + cy;
		const z = az + bz + cz;
		v6 += d;
		sx += d * x;
		sy += d * y;
		sz += d * z;
		xx += d * (ax * ax + bx * bx + cx * cx + x * x);
		yy += d * (ay * ay + by * by + cy * cy + y * y);
		zz += d * (az * az + bz * bz + cz * cz + z * z);
		xy += d * (ax * ay + bx * by + cx * cy + x * y);
		xz += d * (ax * az + bx * bz + cx * cz + x * z);
		yz += d * (ay * az + by * bz + cy * cz + y * z);
	}
	if (v6 === 0) return { volume: 0, centroid: [ox, oy, oz], inertia: [0, 0, 0, 0, 0, 0] };
	const volume = v6 / 6;
	const mx = sx / (4 * v6);
	const my = sy / (4 * v6);
	const mz = sz / (4 * v6);
	// Second moments about the centroid: ∫x² dV = Σ d·(…)/120, then the parallel-axis shift.
	const cxx = xx / 120 - volume * mx * mx;
	const cyy = yy / 120 - volume * my * my;
	const czz = zz / 120 - volume * mz * mz;
	const cxy = xy / 120 - volume * mx * my;
	const cxz = xz / 120 - volume * mx * mz;
	const cyz = yz / 120 - volume * my * mz;
	return {
		volume,
		centroid: [ox + mx, oy + my, oz + mz],
		inertia: [cyy + czz, cxx + czz, cxx + cyy, -cxy, -cxz, -cyz],
	};
}

export const volume = (mesh: Mesh): number => solid(mesh).volume;
