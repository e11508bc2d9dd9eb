import { type Quat, rotate, type Vec3, vec3 } from "../maths";
import { commonPolygon, type Mesh, polygonMoments } from "../mesh";

/** Where two bodies face each other so closely that something can tie them. */
export interface Facing {
	/** m² */
	readonly area: number;
	/** World, metres. */
	readonly centre: Vec3;
	/** World, from the first body to the second. */
	readonly normal: Vec3;
	/** Unit vectors in the face: the first along its shorter extent. World. */
	readonly across: Vec3;
	/** Second moments of the face about its centre, m⁴: about `across`, and about the other axis. */
	readonly moments: readonly [number, number];
	/** Half of the extents from the centre, metres: along the other axis, and along `across`. */
	readonly reach: readonly [number, number];
}

/** A mesh where it stands: what `facing` works on. */
export interface Placed {
	/** 9 per triangle: world corners, metres. */
	readonly corners: Float64Array;
	/** 4 per triangle: unit normal and area. */
	readonly normals: Float64Array;
	readonly least: Vec3;
	readonly most: Vec3;
}

export function placeMesh({ positions, triangles }: Mesh, scale: number, translation: Vec3, rotation: Quat): Placed {
	const count = triangles.length / 3;
	const corners = new Float64Array(9 * count);
	const normals = new Float64Array(4 * count);
	const least: [number, number, number] = [Infinity, Infinity, Infinity];
	const most: [number, number, number] = [-Infinity, -Infinity, -Infinity];
	const placed = new Float64Array(positions.length);
	for (let v = 0; v < positions.length; v += 3) {
		const p = vec3.add(translation, rotate(rotation, vec3.scale([positions[v]!, positions[v + 1]!, positions[v + 2]!], scale)));
		for (let k = 0; k < 3; k++) {
			placed[v + k] = p[k]!;
			least[k] = Math.min(least[k]!, p[k]!);
			most[k] = Math.max(most[k]!, p[k]!);
		}
	}
	for (let f = 0; f < count; f++) {
		for (let c = 0; c < 3; c++) corners.set(placed.subarray(3 * triangles[3 * f + c]!, 3 * triangles[3 * f + c]! + 3), 9 * f + 3 * c);
		const [a, b, c] = [0, 3, 6].map((k) => [corners[9 * f + k]!, corners[9 * f + k + 1]!, corners[9 * f + k + 2]!] as const);
		const n = vec3.cross(vec3.subtract(b!, a!), vec3.subtract(c!, a!));
		const length = vec3.length(n);
		normals.set(length > 0 ? [n[0] / length, n[1] / length, n[2] / length, length / 2] : [0, 0, 0, 0], 4 * f);
	}
	return { corners, normals, least, most };
}

/** Faces whose normals are further apart than this from opposite are not taken for facing: cosine. */
const OPPOSITE = -0.9;

/**
 * The area in which two meshes face each other no further apart than `reach` metres, found triangle by triangle: exact
 * where faces are flat. Undefined where they do not. The cost is the product of their triangles near each other.
 */
export function facing(one: Placed, other: Placed, reach: number): Facing | undefined {
	if (!near(one, other, reach)) return undefined;
	const mine = trianglesNear(one, other, reach);
	const theirs = trianglesNear(other, one, reach);
	let area = 0;
	let moment: Vec3 = [0, 0, 0];
	let normal: Vec3 = [0, 0, 0];
	const parts: {
		readonly area: number;
		readonly centre: Vec3;
		readonly uAxis: Vec3;
		readonly vAxis: Vec3;
		readonly second: readonly number[];
	}[] = [];
	for (const f of mine) {
		const n: Vec3 = [one.normals[4 * f]!, one.normals[4 * f + 1]!, one.normals[4 * f + 2]!];
		if (one.normals[4 * f + 3] === 0) continue;
		const origin: Vec3 = [one.corners[9 * f]!, one.corners[9 * f + 1]!, one.corners[9 * f + 2]!];
		let own: number[] | undefined;
		let axes: readonly [Vec3, Vec3] | undefined;
		for (const g of theirs) {
			const dot = n[0] * other.normals[4 * g]! + n[1] * other.normals[4 * g + 1]! + n[2] * other.normals[4 * g + 2]!;
			if (dot > OPPOSITE) continue;
			const distance = middleDistance(other.corners, g, origin, n);
			if (distance > reach || distance < -reach) continue;
			axes ??= planeAxes(n);
			own ??= flatten(one.corners, f, origin, axes);
			const polygon = commonPolygon(own, flatten(other.corners, g, origin, axes));
			if (polygon.length < 6) continue;
			const shared = polygonMoments(polygon);
			if (!(shared.area > 0)) continue;
			const [u, v] = axes;
			const centre = vec3.add(
				vec3.add(origin, vec3.scale(n, distance / 2)),
				vec3.add(vec3.scale(u, shared.middle[0]), vec3.scale(v, shared.middle[1])),
			);
			area += shared.area;
			moment = vec3.add(moment, vec3.scale(centre, shared.area));
			normal = vec3.add(normal, vec3.scale(n, shared.area));
			parts.push({ area: shared.area, centre, uAxis: u, vAxis: v, second: shared.second });
		}
	}
	const length = vec3.length(normal);
	if (!(area > 0) || length === 0) return undefined;
	const centre = vec3.scale(moment, 1 / area);
	const out = vec3.scale(normal, 1 / length);
	// Second moments of all parts in axes of the common face.
	const [e, f] = planeAxes(out);
	let [ee, ff, ef] = [0, 0, 0];
	for (const part of parts) {
		const r = vec3.subtract(part.centre, centre);
		const [re, rf] = [vec3.dot(r, e), vec3.dot(r, f)];
		const [ue, uf, ve, vf] = [vec3.dot(part.uAxis, e), vec3.dot(part.uAxis, f), vec3.dot(part.vAxis, e), vec3.dot(part.vAxis, f)];
		const [uu, vv, uv] = part.second as [number, number, number];
		ee += uu * ue * ue + vv * ve * ve + 2 * uv * ue * ve + part.area * re * re;
		ff += uu * uf * uf + vv * vf * vf + 2 * uv * uf * vf + part.area * rf * rf;
		ef += uu * ue * uf + vv * ve * vf + uv * (ue * vf + uf * ve) + part.area * re * rf;
	}
	return { area, centre, normal: out, ...mainAxes(area, e, f, ee, ff, ef) };
}

/** A face of which only area and normal are known: a square. */
export function squareFace(area: number, normal: Vec3): Pick<Facing, "across" | "moments" | "reach"> {
	const [across] = planeAxes(normal);
	const half = Math.sqrt(area) / 2;
	return { across, moments: [(area * area) / 12, (area * area) / 12], reach: [half, half] };
}

/** The main axes of a face from its second moments ∫e², ∫f², ∫ef. */
function mainAxes(area: number, e: Vec3, f: Vec3, ee: number, ff: number, ef: number): Pick<Facing, "across" | "moments" | "reach"> {
	const half = (ee - ff) / 2;
	const root = Math.sqrt(half * half + ef * ef);
	const [small, large] = [Math.max((ee + ff) / 2 - root, 1e-6 * (ee + ff)), (ee + ff) / 2 + root];
	// The direction of least spread, ∫(x·a)² smallest.
	const raw: Vec3 = root === 0 ? e : vec3.add(vec3.scale(e, ef), vec3.scale(f, small - ee));
	const length = vec3.length(raw);
	const across = length > 1e-12 * (ee + ff) && root > 0 ? vec3.scale(raw, 1 / length) : ee <= ff ? e : f;
	// Of a rectangle: ∫x² = A w²/12, so half its width is √(3 ∫x² / A).
	return { across, moments: [large, small], reach: [Math.sqrt((3 * large) / area), Math.sqrt((3 * small) / area)] };
}

/** Two unit vectors across a unit normal. */
export function planeAxes(n: Vec3): readonly [Vec3, Vec3] {
	const help: Vec3 = Math.abs(n[0]) < 0.6 ? [1, 0, 0] : [0, 1, 0];
	const u = vec3.cross(n, help);
	const across = vec3.scale(u, 1 / vec3.length(u));
	return [across, vec3.cross(n, across)];
}

export const near = (one: Pick<Placed, "least" | "most">, other: Pick<Placed, "least" | "most">, reach: number): boolean =>
	[0, 1, 2].every((k) => one.least[k]! <= other.most[k]! + reach && other.least[k]! <= one.most[k]! + reach);

function trianglesNear({ corners }: Placed, { least, most }: Placed, reach: number): number[] {
	const list: number[] = [];
	for (let f = 0; 9 * f < corners.length; f++) {
		let out = false;
		for (let k = 0; k < 3 && !out; k++) {
			const [a, b, c] = [corners[9 * f + k]!, corners[9 * f + 3 + k]!, corners[9 * f + 6 + k]!];
			out = Math.min(a, b, c) > most[k]! + reach || Math.max(a, b, c) < least[k]! - reach;
		}
		if (!out) list.push(f);
	}
	return list;
}

function middleDistance(corners: Float64Array, f: number, origin: Vec3, n: Vec3): number {
	let sum = 0;
	for (let c = 0; c < 9; c++) sum += (corners[9 * f + c]! - origin[c % 3]!) * n[c % 3]!;
	return sum / 3;
}

function flatten(corners: Float64Array, f: number, origin: Vec3, [u, v]: readonly [Vec3, Vec3]): number[] {
	const flat: number[] = [];
	for (let c = 0; c < 9; c += 3) {
		const r: Vec3 = [corners[9 * f + c]! - origin[0], corners[9 * f + c + 1]! - origin[1], corners[9 * f + c + 2]! - origin[2]];
		flat.push(vec3.dot(r, u), vec3.dot(r, v));
	}
	return flat;
}
