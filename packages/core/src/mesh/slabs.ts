import type { Mesh } from "./types";

/** Vertices this near to a cut lie on it, as a share of the mesh's extent. */
const ON_CUT = 1e-6;

/**
 * The same surface with its triangles divided where planes across an axis cut it, so that it can bend there. Edges are
 * cut once for all triangles that share them: what was closed stays closed. `places`: metres along the axis.
 */
export function splitAlong(mesh: Mesh, axis: 0 | 1 | 2, places: readonly number[]): Mesh {
	let divided = mesh;
	for (const place of places) divided = splitAt(divided, axis, place);
	return divided;
}

function splitAt(mesh: Mesh, axis: 0 | 1 | 2, place: number): Mesh {
	const { positions: p, triangles: t } = mesh;
	let extent = 0;
	for (let v = axis; v < p.length; v += 3) extent = Math.max(extent, Math.abs(p[v]! - place));
	const side = (v: number): -1 | 0 | 1 => {
		const off = p[3 * v + axis]! - place;
		return Math.abs(off) <= ON_CUT * extent ? 0 : off < 0 ? -1 : 1;
	};
	const positions = Array.from(p);
	const cutEdges = new Map<number, number>();
	const share = (a: number, b: number) => (place - p[3 * a + axis]!) / (p[3 * b + axis]! - p[3 * a + axis]!);
	const cutEdge = (a: number, b: number): number => {
		const [low, high] = a < b ? [a, b] : [b, a];
		const key = low * (p.length / 3) + high;
		const known = cutEdges.get(key);
		if (known !== undefined) return known;
		const s = share(low, high);
		for (let k = 0; k < 3; k++) positions.push(k === axis ? place : p[3 * low + k]! * (1 - s) + p[3 * high + k]! * s);
		const made = positions.length / 3 - 1;
		cutEdges.set(key, made);
		return made;
	};
	const triangles: number[] = [];
	const uv: number[] = [];
	const from: number[] = [];
	const hasUv = mesh.uv.length > 0;
	for (let f = 0; f < t.length / 3; f++) {
		const corner = [t[3 * f]!, t[3 * f + 1]!, t[3 * f + 2]!];
		const texture = corner.map((_, k) => [mesh.uv[6 * f + 2 * k] ?? 0, mesh.uv[6 * f + 2 * k + 1] ?? 0]);
		const sides = corner.map(side);
		// Around the triangle with the cuts in it; then the two polygons, each as a fan.
		const ring: { v: number; uv: number[]; side: number }[] = [];
		for (let k = 0; k < 3; k++) {
			const next = (k + 1) % 3;
			ring.push({ v: corner[k]!, uv: texture[k]!, side: sides[k]! });
			if (sides[k]! * sides[next]! >= 0) continue;
			const s = share(corner[k]!, corner[next]!);
			const between = texture[k]!.map((value, n) => value * (1 - s) + texture[next]![n]! * s);
			ring.push({ v: cutEdge(corner[k]!, corner[next]!), uv: between, side: 0 });
		}
		for (const which of sides.some((s) => s < 0) && sides.some((s) => s > 0) ? [-1, 1] : [0]) {
			const polygon = which === 0 ? ring : ring.filter((point) => point.side * which >= 0);
			for (let k = 2; k < polygon.length; k++) {
				const fan = [polygon[0]!, polygon[k - 1]!, polygon[k]!];
				triangles.push(...fan.map(({ v }) => v));
				if (hasUv) uv.push(...fan.flatMap((point) => point.uv));
				from.push(f);
			}
		}
	}
	return {
		positions: Float32Array.from(positions),
		triangles: Uint32Array.from(triangles),
		uv: Float32Array.from(uv),
		inside: mesh.inside.length > 0 ? Uint8Array.from(from, (f) => mesh.inside[f]!) : mesh.inside,
		neighbour: mesh.neighbour.length > 0 ? Int32Array.from(from, (f) => mesh.neighbour[f]!) : mesh.neighbour,
	};
}
