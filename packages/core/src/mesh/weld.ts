import { type Mesh, makeMesh } from "./types";

/**
 * Joins vertices nearer than `distance` metres (0: only equal ones) and drops triangles that collapse.
 * Vertices are matched through a grid of cells of that size, first come first kept.
 */
export function weld(mesh: Mesh, distance: number): Mesh {
	const { positions: p, triangles: t } = mesh;
	const cell = distance > 0 ? distance : 1;
	const grid = new Map<string, number[]>();
	const kept: number[] = [];
	const target = new Uint32Array(p.length / 3);
	const reach = distance > 0 ? 1 : 0;
	const limit = distance * distance;
	for (let i = 0; i < target.length; i++) {
		const x = p[3 * i]!;
		const y = p[3 * i + 1]!;
		const z = p[3 * i + 2]!;
		const [cx, cy, cz] = distance > 0 ? [Math.floor(x / cell), Math.floor(y / cell), Math.floor(z / cell)] : [x, y, z];
		let match = -1;
		for (let dx = -reach; dx <= reach && match < 0; dx++)
			for (let dy = -reach; dy <= reach && match < 0; dy++)
				for (let dz = -reach; dz <= reach && match < 0; dz++)
					for (const k of grid.get(`${cx + dx},${cy + dy},${cz + dz}`) ?? []) {
						const ex = kept[3 * k]! - x;
						const ey = kept[3 * k + 1]! - y;
						const ez = kept[3 * k + 2]! - z;
						if (ex * ex + ey * ey + ez * ez <= limit) {
							match = k;
							break;
						}
					}
		if (match < 0) {
			match = kept.length / 3;
			kept.push(x, y, z);
			const key = `${cx},${cy},${cz}`;
			const list = grid.get(key);
			if (list) list.push(match);
			else grid.set(key, [match]);
		}
		target[i] = match;
	}
	const keep: number[] = [];
	for (let i = 0; i < t.length; i += 3) {
		const a = target[t[i]!]!;
		const b = target[t[i + 1]!]!;
		const c = target[t[i + 2]!]!;
		if (a !== b && b !== c && c !== a) keep.push(i / 3);
	}
	return selectTriangles({ ...mesh, positions: Float32Array.from(kept), triangles: t.map((v) => target[v]!) }, keep);
}

/** The mesh with only these triangles, in this order; vertices that nothing uses are dropped. */
export function selectTriangles(mesh: Mesh, keep: ArrayLike<number>): Mesh {
	const { positions: p, triangles: t } = mesh;
	const target = new Int32Array(p.length / 3).fill(-1);
	const positions: number[] = [];
	const triangles = new Uint32Array(keep.length * 3);
	for (let i = 0; i < keep.length; i++)
		for (let c = 0; c < 3; c++) {
			const v = t[keep[i]! * 3 + c]!;
			if (target[v]! < 0) {
				target[v] = positions.length / 3;
				positions.push(p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!);
			}
			triangles[3 * i + c] = target[v]!;
		}
	return makeMesh(Float32Array.from(positions), triangles, {
		uv: pick(mesh.uv, keep, 6, (n) => new Float32Array(n)),
		inside: pick(mesh.inside, keep, 1, (n) => new Uint8Array(n)),
		neighbour: pick(mesh.neighbour, keep, 1, (n) => new Int32Array(n)),
	});
}

function pick<A extends Float32Array | Uint8Array | Int32Array>(
	source: A,
	keep: ArrayLike<number>,
	stride: number,
	make: (n: number) => A,
): A {
	if (source.length === 0) return source;
	const out = make(keep.length * stride);
	for (let i = 0; i < keep.length; i++) for (let k = 0; k < stride; k++) out[i * stride + k] = source[keep[i]! * stride + k]!;
	return out;
}
