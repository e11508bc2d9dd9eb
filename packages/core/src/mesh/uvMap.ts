import type { Mesh } from "./types";

/**
 * Texture coordinates over the whole plane of triangle `f`: the affine map (x, y, z) → [u, v] that agrees with its
 * three corners. A place off the plane is first dropped onto it along the normal. The mesh must carry `uv`.
 */
export function uvMap({ positions: p, triangles: t, uv }: Mesh, f: number): (x: number, y: number, z: number) => readonly [number, number] {
	const [a, b, c] = [t[3 * f]! * 3, t[3 * f + 1]! * 3, t[3 * f + 2]! * 3];
	const [ax, ay, az] = [p[a]!, p[a + 1]!, p[a + 2]!];
	const [ex, ey, ez] = [p[b]! - ax, p[b + 1]! - ay, p[b + 2]! - az];
	const [gx, gy, gz] = [p[c]! - ax, p[c + 1]! - ay, p[c + 2]! - az];
	const ee = ex * ex + ey * ey + ez * ez;
	const eg = ex * gx + ey * gy + ez * gz;
	const gg = gx * gx + gy * gy + gz * gz;
	// A triangle without area has no plane; its first corner stands for all of it.
	const det = ee * gg - eg * eg || 1;
	const [u0, v0, u1, v1, u2, v2] = uv.subarray(6 * f, 6 * f + 6) as unknown as [number, number, number, number, number, number];
	return (x, y, z) => {
		const [dx, dy, dz] = [x - ax, y - ay, z - az];
		const de = dx * ex + dy * ey + dz * ez;
		const dg = dx * gx + dy * gy + dz * gz;
		const s = (gg * de - eg * dg) / det;
		const r = (ee * dg - eg * de) / det;
		return [u0 + s * (u1 - u0) + r * (u2 - u0), v0 + s * (v1 - v0) + r * (v2 - v0)];
	};
}
