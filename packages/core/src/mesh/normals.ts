import { cos } from "../maths";
import { edgeTable, find, nextCorner, unite } from "./topology";
import type { Mesh } from "./types";

/** What a drawing needs: one vertex per corner group that shares place, normal, UV and side. */
export interface DrawMesh {
	/** 3 per vertex. */
	readonly positions: Float32Array;
	/** 3 per vertex, unit length. */
	readonly normals: Float32Array;
	/** 2 per vertex; empty where the mesh has none. */
	readonly uv: Float32Array;
	/** 1 per vertex: 1 = face laid open by a fracture. */
	readonly inside: Uint8Array;
	/** 1 per vertex: the mesh's vertex that it stands for. */
	readonly source: Uint32Array;
	/** 3 per triangle, outside triangles first. */
	readonly indices: Uint32Array;
	/** How many of the indices belong to outside triangles. */
	readonly outsideIndices: number;
}

/** Edges sharper than this are drawn hard. */
const CREASE_ANGLE = (35 * Math.PI) / 180;

/**
 * Normals from a crease angle: corners of one vertex are joined across edges that bend less than the angle
 * (and never between outside and inside faces); a joined group gets the sum of its triangles' area vectors.
 */
export function drawMesh(mesh: Mesh, crease = CREASE_ANGLE): DrawMesh {
	const { positions: p, triangles: t } = mesh;
	const faces = t.length / 3;
	const normal = new Float64Array(faces * 3);
	const size = new Float64Array(faces);
	for (let f = 0; f < faces; f++) {
		const a = t[3 * f]! * 3;
		const b = t[3 * f + 1]! * 3;
		const c = t[3 * f + 2]! * 3;
		const ux = p[b]! - p[a]!;
		const uy = p[b + 1]! - p[a + 1]!;
		const uz = p[b + 2]! - p[a + 2]!;
		const vx = p[c]! - p[a]!;
		const vy = p[c + 1]! - p[a + 1]!;
		const vz = p[c + 2]! - p[a + 2]!;
		normal[3 * f] = uy * vz - uz * vy;
		normal[3 * f + 1] = uz * vx - ux * vz;
		normal[3 * f + 2] = ux * vy - uy * vx;
		size[f] = Math.sqrt(normal[3 * f]! ** 2 + normal[3 * f + 1]! ** 2 + normal[3 * f + 2]! ** 2);
	}
	const side = (f: number) => (mesh.inside.length > 0 ? mesh.inside[f]! : 0);
	const least = cos(crease);
	const group = Int32Array.from({ length: t.length }, (_, i) => i);
	const { order, groups } = edgeTable(mesh);
	for (let g = 0; g + 1 < groups.length; g++) {
		if (groups[g + 1]! - groups[g]! !== 2) continue;
		const h = order[groups[g]!]!;
		const k = order[groups[g]! + 1]!;
		const f = (h / 3) | 0;
		const e = (k / 3) | 0;
		if (side(f) !== side(e)) continue;
		const bend = normal[3 * f]! * normal[3 * e]! + normal[3 * f + 1]! * normal[3 * e + 1]! + normal[3 * f + 2]! * normal[3 * e + 2]!;
		if (bend < least * size[f]! * size[e]!) continue;
		for (const a of [h, nextCorner(h)]) for (const b of [k, nextCorner(k)]) if (t[a] === t[b]) unite(group, a, b);
	}
	const sum = new Float64Array(t.length * 3);
	for (let h = 0; h < t.length; h++) {
		const root = find(group, h);
		const f = (h / 3) | 0;
		for (let k = 0; k < 3; k++) sum[3 * root + k]! += normal[3 * f + k]!;
	}
	return emit(mesh, group, sum, side);
}

function emit(mesh: Mesh, group: Int32Array, sum: Float64Array, side: (f: number) => number): DrawMesh {
	const { positions: p, triangles: t, uv } = mesh;
	const positions: number[] = [];
	const normals: number[] = [];
	const coordinates: number[] = [];
	const inside: number[] = [];
	const source: number[] = [];
	const made = new Map<number | string, number>();
	const vertexOf = (h: number): number => {
		const root = find(group, h);
		const key = uv.length > 0 ? `${root},${uv[2 * h]},${uv[2 * h + 1]}` : root;
		const known = made.get(key);
		if (known !== undefined) return known;
		const index = positions.length / 3;
		made.set(key, index);
		const v = t[h]! * 3;
		positions.push(p[v]!, p[v + 1]!, p[v + 2]!);
		const [x, y, z] = [sum[3 * root]!, sum[3 * root + 1]!, sum[3 * root + 2]!];
		const l = Math.sqrt(x * x + y * y + z * z);
		if (l > 0) normals.push(x / l, y / l, z / l);
		else normals.push(0, 1, 0);
		if (uv.length > 0) coordinates.push(uv[2 * h]!, uv[2 * h + 1]!);
		inside.push(side((h / 3) | 0));
		source.push(t[h]!);
		return index;
	};
	const outer: number[] = [];
	const inner: number[] = [];
	for (let f = 0; f < t.length / 3; f++) {
		const target = side(f) === 0 ? outer : inner;
		for (let c = 0; c < 3; c++) target.push(vertexOf(3 * f + c));
	}
	return {
		positions: Float32Array.from(positions),
		normals: Float32Array.from(normals),
		uv: Float32Array.from(coordinates),
		inside: Uint8Array.from(inside),
		source: Uint32Array.from(source),
		indices: concat(outer, inner),
		outsideIndices: outer.length,
	};
}

function concat(a: readonly number[], b: readonly number[]): Uint32Array {
	const out = new Uint32Array(a.length + b.length);
	out.set(a);
	out.set(b, a.length);
	return out;
}
