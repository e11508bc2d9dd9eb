import { type Vec3, vec3 } from "../maths";
import { triangulateLoops } from "./constrained";
import { edgeTable, find, topology, unite } from "./topology";
import { type Mesh, triangleCount } from "./types";
import { uvMap } from "./uvMap";

/** Neighbouring triangles whose normals differ by less than this (1 − cosine) lie in one plane. */
const FLAT = 1e-7;
/** Inner points keep this share of the edge length from the rim. */
const CLEAR = 0.55;

/**
 * The same closed surface in even triangles: every flat patch gets points on its rim and in a triangular grid, at most
 * `edge` metres apart, and a constrained Delaunay triangulation of them. Grids are anchored in the mesh's
 * frame, so that two solids that share a face get the same points on it. What the patches carry (inside, neighbour,
 * texture coordinates) stays. The mesh comes back as it is where a patch cannot be told apart cleanly.
 */
export function retile(mesh: Mesh, edge: number): Mesh {
	const { order, groups } = edgeTable(mesh);
	const patch = patchesOf(mesh, order, groups);
	const members = new Map<number, number[]>();
	for (let f = 0; f < triangleCount(mesh); f++) {
		const root = find(patch, f);
		const list = members.get(root);
		if (list) list.push(f);
		else members.set(root, [f]);
	}
	const made = new Builder(mesh);
	const rims = new Map<number, (readonly [number, number])[]>();
	for (let g = 0; g + 1 < groups.length; g++) {
		const [h, k] = [order[groups[g]!]!, order[groups[g]! + 1]!];
		if (groups[g + 1]! - groups[g]! !== 2) return mesh;
		const [one, other] = [find(patch, (h / 3) | 0), find(patch, (k / 3) | 0)];
		if (one === other) continue;
		const a = mesh.triangles[h]!;
		const b = mesh.triangles[h % 3 === 2 ? h - 2 : h + 1]!;
		const chain = made.along(Math.min(a, b), Math.max(a, b), edge);
		for (const root of [one, other]) {
			const rim = rims.get(root) ?? [];
			for (let i = 1; i < chain.length; i++) rim.push([chain[i - 1]!, chain[i]!]);
			rims.set(root, rim);
		}
	}
	for (const [root, triangles] of members) {
		const rim = rims.get(root) ?? [];
		if (triangles.length === 1 && rim.length === 3 && isSmall(mesh, triangles[0]!, edge)) made.keep(triangles[0]!);
		else if (!made.tile(triangles, rim, edge)) return mesh;
	}
	const result = made.mesh();
	return topology(result).closed ? result : mesh;
}

const cornerOf = ({ positions: p, triangles: t }: Mesh, h: number): Vec3 => {
	const v = 3 * t[h]!;
	return [p[v]!, p[v + 1]!, p[v + 2]!];
};

const crossOf = (mesh: Mesh, f: number): Vec3 => {
	const a = cornerOf(mesh, 3 * f);
	return vec3.cross(vec3.subtract(cornerOf(mesh, 3 * f + 1), a), vec3.subtract(cornerOf(mesh, 3 * f + 2), a));
};

const isSmall = (mesh: Mesh, f: number, edge: number): boolean => vec3.length(crossOf(mesh, f)) < edge * edge;

/** Triangles joined where they lie in one plane and carry the same. */
function patchesOf(mesh: Mesh, order: Uint32Array, groups: Uint32Array): Int32Array {
	const parent = Int32Array.from({ length: triangleCount(mesh) }, (_, f) => f);
	const normals = Array.from(parent, (f) => vec3.normalize(crossOf(mesh, f)));
	for (let g = 0; g + 1 < groups.length; g++) {
		if (groups[g + 1]! - groups[g]! !== 2) continue;
		const [h, k] = [order[groups[g]!]!, order[groups[g]! + 1]!];
		const [f, e] = [(h / 3) | 0, (k / 3) | 0];
		if ((mesh.inside[f] ?? 0) !== (mesh.inside[e] ?? 0) || (mesh.neighbour[f] ?? -1) !== (mesh.neighbour[e] ?? -1)) continue;
		// Against the patch's first triangle: a row of small bends must not add up to a round one.
		if (vec3.dot(normals[find(parent, f)]!, normals[find(parent, e)]!) < 1 - FLAT) continue;
		if (mesh.uv.length === 0 || mapsAlike(mesh, h, k)) unite(parent, f, e);
	}
	return parent;
}

/** Whether two triangles across an edge continue one affine map from place to texture. */
function mapsAlike(mesh: Mesh, h: number, k: number): boolean {
	const [f, e] = [(h / 3) | 0, (k / 3) | 0];
	const map = uvMap(mesh, f);
	return [0, 1, 2].every((c) => {
		const corner = 3 * e + c;
		const [u, v] = map(...cornerOf(mesh, corner));
		return Math.abs(u - mesh.uv[2 * corner]!) + Math.abs(v - mesh.uv[2 * corner + 1]!) < 1e-4;
	});
}

/** Gathers the new mesh; the old vertices come first and keep their numbers. */
class Builder {
	private readonly positions: number[];
	private readonly triangles: number[] = [];
	private readonly uv: number[] = [];
	private readonly from: number[] = [];

	constructor(private readonly source: Mesh) {
		this.positions = [...source.positions];
	}

	/** Vertices along an edge, both ends included. The lower end comes first, so that both sides get the same ones. */
	along(a: number, b: number, edge: number): number[] {
		const [p, q] = [this.place(a), this.place(b)];
		const parts = Math.max(1, Math.ceil(vec3.length(vec3.subtract(q, p)) / edge - 1e-6));
		return Array.from({ length: parts + 1 }, (_, i) => (i === 0 ? a : i === parts ? b : this.add(vec3.mix(p, q, i / parts))));
	}

	keep(f: number): void {
		for (let c = 0; c < 3; c++) this.triangles.push(this.source.triangles[3 * f + c]!);
		if (this.source.uv.length > 0) this.uv.push(...this.source.uv.subarray(6 * f, 6 * f + 6));
		this.from.push(f);
	}

	/** Fills a flat patch within its rim; false where that does not cover just the patch. */
	tile(members: readonly number[], rim: readonly (readonly [number, number])[], edge: number): boolean {
		const { source } = this;
		const cross = members.map((f) => crossOf(source, f));
		const largest = members.reduce((best, _, i) => (vec3.length(cross[i]!) > vec3.length(cross[best]!) ? i : best), 0);
		const area = cross.reduce((sum, c) => sum + vec3.length(c), 0) / 2;
		const normal = vec3.normalize(cross[largest]!);
		const { right, up, turned } = axesOf(normal);
		const flat = (p: Vec3): readonly [number, number] => [vec3.dot(p, right), vec3.dot(p, up)];
		const height = vec3.dot(cornerOf(source, 3 * members[largest]!), normal);
		const vertices = [...new Set(rim.flat())];
		const index = new Map(vertices.map((v, i) => [v, i]));
		const points = vertices.map((v) => flat(this.place(v)));
		const edges = rim.map(([a, b]) => [index.get(a)!, index.get(b)!] as const);
		for (const [x, y] of gridWithin(points, edges, edge)) {
			const p = vec3.add(vec3.add(vec3.scale(right, x), vec3.scale(up, y)), vec3.scale(normal, height));
			vertices.push(this.add(p));
			points.push([x, y]);
		}
		const tiles = triangulateLoops(points, edges);
		if (!tiles) return false;
		const map = source.uv.length > 0 ? uvMap(source, members[largest]!) : undefined;
		let covered = 0;
		for (const [i, j, k] of tiles) {
			const [a, b, c] = [points[i]!, points[j]!, points[k]!];
			covered += ((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])) / 2;
			for (const corner of turned ? [i, k, j] : [i, j, k]) {
				this.triangles.push(vertices[corner]!);
				if (map) this.uv.push(...map(...this.place(vertices[corner]!)));
			}
			this.from.push(members[largest]!);
		}
		return Math.abs(covered - area) <= 1e-4 * area;
	}

	mesh(): Mesh {
		const { inside, neighbour, uv } = this.source;
		// Points that lay within a flat patch are not used any more.
		const number = new Int32Array(this.positions.length / 3).fill(-1);
		const positions: number[] = [];
		const triangles = Uint32Array.from(this.triangles, (v) => {
			if (number[v]! < 0) {
				number[v] = positions.length / 3;
				positions.push(...this.place(v));
			}
			return number[v]!;
		});
		return {
			positions: Float32Array.from(positions),
			triangles,
			uv: uv.length > 0 ? Float32Array.from(this.uv) : uv,
			inside: inside.length > 0 ? Uint8Array.from(this.from, (f) => inside[f]!) : inside,
			neighbour: neighbour.length > 0 ? Int32Array.from(this.from, (f) => neighbour[f]!) : neighbour,
		};
	}

	private place(v: number): Vec3 {
		return [this.positions[3 * v]!, this.positions[3 * v + 1]!, this.positions[3 * v + 2]!];
	}

	private add(p: Vec3): number {
		this.positions.push(...p);
		return this.positions.length / 3 - 1;
	}
}

/** Axes of a plane, the same for both of its sides; `turned`: the normal points away from right × up. */
function axesOf(normal: Vec3): { right: Vec3; up: Vec3; turned: boolean } {
	const main = [0, 1, 2].reduce((best, k) => (Math.abs(normal[k]!) > Math.abs(normal[best]!) + 1e-3 ? k : best), 0);
	const turned = normal[main]! < 0;
	const n = turned ? vec3.scale(normal, -1) : normal;
	const helper: Vec3 = main === 1 ? [0, 0, 1] : [0, 1, 0];
	const right = vec3.normalize(vec3.cross(helper, n));
	return { right, up: vec3.cross(n, right), turned };
}

type Point = readonly [number, number];

/** Points of a triangular grid that lie within the rim and clear of it. */
function gridWithin(points: readonly Point[], edges: readonly (readonly [number, number])[], edge: number): Point[] {
	const low = [0, 1].map((k) => points.reduce((least, p) => Math.min(least, p[k]!), Infinity));
	const high = [0, 1].map((k) => points.reduce((most, p) => Math.max(most, p[k]!), -Infinity));
	const rise = edge * 0.8660254037844386;
	const found: Point[] = [];
	for (let row = Math.ceil(low[1]! / rise); row * rise <= high[1]!; row++) {
		const y = row * rise;
		// Where the row crosses the rim: between the first and second crossing it is inside, and so on.
		const crossings: number[] = [];
		const near: [Point, Point][] = [];
		for (const [i, j] of edges) {
			const [a, b] = [points[i]!, points[j]!];
			if (a[1] > y !== b[1] > y) crossings.push(a[0] + ((y - a[1]) / (b[1] - a[1])) * (b[0] - a[0]));
			if (Math.min(a[1], b[1]) <= y + edge && Math.max(a[1], b[1]) >= y - edge) near.push([a, b]);
		}
		crossings.sort((p, q) => p - q);
		const shift = row % 2 === 0 ? 0 : 0.5;
		for (let c = 0; c + 1 < crossings.length; c += 2)
			for (let i = Math.ceil(crossings[c]! / edge - shift); (i + shift) * edge < crossings[c + 1]!; i++) {
				const x = (i + shift) * edge;
				if (near.every(([a, b]) => distance(x, y, a, b) > CLEAR * edge)) found.push([x, y]);
			}
	}
	return found;
}

function distance(x: number, y: number, a: Point, b: Point): number {
	const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
	const length = dx * dx + dy * dy;
	const t = length > 0 ? Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy) / length)) : 0;
	const [ex, ey] = [x - a[0] - t * dx, y - a[1] - t * dy];
	return Math.sqrt(ex * ex + ey * ey);
}
