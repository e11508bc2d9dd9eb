import type { Mesh } from "../mesh";

/** UVs in metres: each triangle seen along the axis that it faces most. 6 per triangle. */
export function planarUv({ positions: p, triangles: t }: Mesh): Float32Array {
	const uv = new Float32Array(2 * t.length);
	for (let f = 0; f < t.length / 3; f++) {
		const [a, b, c] = [t[3 * f]! * 3, t[3 * f + 1]! * 3, t[3 * f + 2]! * 3];
		const e = [0, 1, 2].map((k) => p[b + k]! - p[a + k]!);
		const g = [0, 1, 2].map((k) => p[c + k]! - p[a + k]!);
		const normal = [0, 1, 2].map((k) => Math.abs(e[(k + 1) % 3]! * g[(k + 2) % 3]! - e[(k + 2) % 3]! * g[(k + 1) % 3]!));
		const axis = normal.indexOf(Math.max(...normal));
		const [u, v] = axis === 0 ? [2, 1] : axis === 1 ? [0, 2] : [0, 1];
		[a, b, c].forEach((vertex, corner) => {
			uv[6 * f + 2 * corner] = p[vertex + u]!;
			uv[6 * f + 2 * corner + 1] = p[vertex + v]!;
		});
	}
	return uv;
}

/** Outside corners keep the source's UVs; inside ones get planar ones. */
export function withPlanarInside(mesh: Mesh): Float32Array {
	const planar = planarUv(mesh);
	const uv = mesh.uv.slice();
	for (let f = 0; f < mesh.inside.length; f++) if (mesh.inside[f] === 1) uv.set(planar.subarray(6 * f, 6 * f + 6), 6 * f);
	return uv;
}
