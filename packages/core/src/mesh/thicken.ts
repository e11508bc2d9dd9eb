import { type Vec3, vec3 } from "../maths";
import { edgeTable, nextCorner } from "./topology";
import { type Mesh, makeMesh } from "./types";

/** Sharp corners move at most this many times the thickness, so that both sides stay parallel elsewhere. */
const MOST_MITRE = 3;

/**
 * Gives an open surface a thickness: half of it to each side, with walls along its rims. Each vertex moves along the
 * mean of its triangles' normals, far enough that flat parts become just that thick. The surface must look one way
 * (`orient`); the result is closed where its rims are simple.
 */
export function thicken(mesh: Mesh, thickness: number): Mesh {
	const { positions: p, triangles: t } = mesh;
	const count = p.length / 3;
	const at = (v: number): Vec3 => [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!];
	const normals: Vec3[] = [];
	const sums: Vec3[] = Array.from({ length: count }, () => [0, 0, 0]);
	for (let f = 0; f < t.length; f += 3) {
		const [a, b, c] = [at(t[f]!), at(t[f + 1]!), at(t[f + 2]!)];
		const across = vec3.cross(vec3.subtract(b, a), vec3.subtract(c, a));
		normals.push(vec3.normalize(across));
		for (let k = 0; k < 3; k++) sums[t[f + k]!] = vec3.add(sums[t[f + k]!]!, across);
	}
	const mean = sums.map(vec3.normalize);
	// How flat it is around a vertex: 1 where all triangles lie in one plane.
	const flat = new Float64Array(count).fill(1);
	for (let f = 0; f < t.length; f++) {
		const cosine = vec3.dot(mean[t[f]!]!, normals[(f / 3) | 0]!);
		if (cosine < flat[t[f]!]!) flat[t[f]!] = cosine;
	}
	const positions = new Float32Array(6 * count);
	for (let v = 0; v < count; v++) {
		const way = vec3.scale(mean[v]!, thickness / 2 / Math.max(flat[v]!, 1 / MOST_MITRE));
		positions.set(vec3.add(at(v), way), 3 * v);
		positions.set(vec3.subtract(at(v), way), 3 * (count + v));
	}
	const triangles: number[] = [...t];
	for (let f = 0; f < t.length; f += 3) triangles.push(count + t[f]!, count + t[f + 2]!, count + t[f + 1]!);
	const { order, groups } = edgeTable(mesh);
	for (let g = 0; g + 1 < groups.length; g++) {
		if (groups[g + 1]! - groups[g]! !== 1) continue;
		const h = order[groups[g]!]!;
		const [a, b] = [t[h]!, t[nextCorner(h)]!];
		triangles.push(a, count + a, count + b, a, count + b, b);
	}
	return makeMesh(positions, triangles);
}
