import { tripleAt, type Vec3, vec3 } from "../maths";
import { diagonal, edgeTable, type Mesh, nextCorner } from "../mesh";

/**
 * Corners of a convex collider, moved so little that nobody sees it, but so that its faces have four corners each.
 *
 * The engine feels with the first four corners of a face, as they come, and with the one that is deepest. On a face of six or seven
 * the four lie on one side: a stone on flat ground rocks for ever, half a centimetre in it, and what lies on the rest of the
 * face sinks in. Here the four are chosen that span the most of the face, and the others are drawn back by `SLOPE` of their
 * distance from the line that cuts them off, along the edge of the two faces in which they stay. What is cut off becomes a face
 * of its own, which slopes a little more than what the engine takes for flat.
 *
 * A block of 120 to 400 pieces that falls, seven seeds: with the first four corners three never came to rest within 8 s, and 35 pairs lay
 * deeper than 2 mm in each other, up to 25 mm; with these all rest after 2.5 to 6 s, 4 pairs, up to 3 mm, in two thirds of the time.
 *
 * `hull`: closed and convex. Returns 3 numbers per corner, metres.
 */
export function fourCorners(hull: Mesh): Float32Array {
	const near = FLAT * diagonal(hull);
	const faces = facesOf(hull, near);
	if (!faces.some(({ corners }) => corners.length > 4)) return hull.positions;
	const around = new Map<number, Face[]>();
	for (const face of faces) for (const v of face.corners) around.set(v, [...(around.get(v) ?? []), face]);
	const drawn = new Map<number, Drawn[]>();
	for (const face of faces)
		for (const [k, by] of depthsIn(hull, face, (v) => canSlide(around.get(v)!, face)).entries()) {
			const v = face.corners[k]!;
			drawn.set(v, [...(drawn.get(v) ?? []), { face, by }]);
		}
	const points = hull.positions.slice();
	/** By corner that would leave the hull at the end of its edge: the corner there. */
	const gone = new Map<number, number>();
	for (const [v, planes] of drawn) {
		if (planes.length !== 3 || planes.every(({ by }) => by === 0)) continue;
		const place = meet(planes);
		if (place && faces.every(({ normal, offset }) => vec3.dot(normal, place) <= offset + near)) points.set(place, 3 * v);
		else {
			const end = endOfEdge(v, planes);
			if (end !== undefined) gone.set(v, end);
		}
	}
	for (const [v, end] of gone) if (!gone.has(end)) points.copyWithin(3 * v, 3 * end, 3 * end + 3);
	return points;
}

/** The corner at the end of the edge along which this one slides; undefined where it is drawn back from more than one face. */
function endOfEdge(corner: number, planes: readonly Drawn[]): number | undefined {
	const [one, other] = planes.filter(({ by }) => by === 0);
	return one && other && one.face.corners.find((v) => v !== corner && other.face.corners.includes(v));
}

/** Tangent of 2°: the engine takes faces that turn by less than 1.5° for one. */
const SLOPE = 0.035;
/** A corner slides along the edge of two faces to get away from the third one: no more than so many times farther than it gets away. */
const FARTHEST = 4;
/** Corners that are this near to a plane lie in it, as a share of the size. */
const FLAT = 1e-5;

interface Face {
	/** n·x = d on it; the normal looks outwards. */
	readonly normal: Vec3;
	readonly offset: number;
	/** Vertices around it, counter-clockwise from outside. */
	readonly corners: readonly number[];
}

/** A plane that a corner is to lie in: that of a face, drawn back by some metres. */
interface Drawn {
	readonly face: Face;
	readonly by: number;
}

/** The flat faces of a hull with their corners; what lies in the middle of an edge is none. `near`: metres that count as none. */
function facesOf(hull: Mesh, near: number): Face[] {
	const { positions: p, triangles: t } = hull;
	const count = t.length / 3;
	const corner = (h: number) => tripleAt(p, t[h]!);
	const crosses = Array.from({ length: count }, (_, f) =>
		vec3.cross(vec3.subtract(corner(3 * f + 1), corner(3 * f)), vec3.subtract(corner(3 * f + 2), corner(3 * f))),
	);
	const areas = crosses.map(vec3.length);
	const twin = twinsOf(hull);
	const faceOf = new Int32Array(count).fill(-1);
	const faces: Face[] = [];
	// The largest first: its plane is the surest.
	for (const seed of [...areas.keys()].sort((a, b) => areas[b]! - areas[a]! || a - b)) {
		if (faceOf[seed]! >= 0 || areas[seed]! === 0) continue;
		const normal = vec3.scale(crosses[seed]!, 1 / areas[seed]!);
		const offset = vec3.dot(normal, corner(3 * seed));
		const lies = (f: number) => [0, 1, 2].every((k) => Math.abs(vec3.dot(normal, corner(3 * f + k)) - offset) <= near);
		const id = faces.length;
		const list = [seed];
		faceOf[seed] = id;
		for (let n = 0; n < list.length; n++)
			for (let k = 0; k < 3; k++) {
				const other = Math.floor(twin[3 * list[n]! + k]! / 3);
				if (other < 0 || faceOf[other]! >= 0 || !lies(other)) continue;
				faceOf[other] = id;
				list.push(other);
			}
		faces.push({ normal, offset, corners: rim(hull, list, twin, faceOf, near) });
	}
	return faces;
}

/** The half-edge that runs the other way, by half-edge; −1 where there is none. */
function twinsOf(hull: Mesh): Int32Array {
	const twin = new Int32Array(hull.triangles.length).fill(-1);
	const { order, groups } = edgeTable(hull);
	for (let g = 0; g + 1 < groups.length; g++) {
		if (groups[g + 1]! - groups[g]! !== 2) continue;
		const [a, b] = [order[groups[g]!]!, order[groups[g]! + 1]!];
		twin[a] = b;
		twin[b] = a;
	}
	return twin;
}

/** Around the triangles of a face, without what lies on the line between its neighbours. */
function rim(hull: Mesh, list: readonly number[], twin: Int32Array, faceOf: Int32Array, near: number): number[] {
	const { positions: p, triangles: t } = hull;
	const id = faceOf[list[0]!]!;
	const next = new Map<number, number>();
	for (const f of list)
		for (let h = 3 * f; h < 3 * f + 3; h++) if (twin[h]! < 0 || faceOf[Math.floor(twin[h]! / 3)] !== id) next.set(t[h]!, t[nextCorner(h)]!);
	const [start] = next.keys();
	const loop: number[] = [];
	for (let v = start!; loop.length < next.size; v = next.get(v)!) loop.push(v);
	return loop.filter((v, k) => {
		const [before, here, after] = [loop.at(k - 1)!, v, loop[(k + 1) % loop.length]!].map((w) => tripleAt(p, w)) as [Vec3, Vec3, Vec3];
		return distanceFrom(here, before, after) > near;
	});
}

/** From a point to a line through two others, metres. */
function distanceFrom(point: Vec3, a: Vec3, b: Vec3): number {
	const along = vec3.subtract(b, a);
	const length = vec3.length(along);
	return length === 0 ? vec3.length(vec3.subtract(point, a)) : vec3.length(vec3.cross(along, vec3.subtract(point, a))) / length;
}

/** Whether a corner at which these faces meet can be drawn back from one of them. Where more than three meet it could not stay in all the others. */
function canSlide(faces: readonly Face[], from: Face): boolean {
	if (faces.length !== 3) return false;
	const [a, b] = faces.filter((face) => face !== from) as [Face, Face];
	const edge = vec3.cross(a.normal, b.normal);
	return Math.abs(vec3.dot(edge, from.normal)) * FARTHEST >= vec3.length(edge);
}

/** By how much each corner of a face is to be drawn back from it, metres: 0 for those that stay, which are four where more can slide. */
function depthsIn(hull: Mesh, { corners, normal }: Face, slides: (corner: number) => boolean): number[] {
	if (corners.length <= 4) return corners.map(() => 0);
	const outline = outlineOf(hull, corners, normal);
	const fixed = corners.map((v) => !slides(v));
	const stay = largestFour(outline, fixed);
	return corners.map((_, k) => {
		if (stay.includes(k) || fixed[k]) return 0;
		// Between the last and the first where none comes after.
		const after = Math.max(
			0,
			stay.findIndex((s) => s > k),
		);
		const [a, b] = [stay.at(after - 1)!, stay[after]!];
		return SLOPE * distanceFrom(...([k, a, b].map((n) => tripleAt(hull.positions, corners[n]!)) as [Vec3, Vec3, Vec3]));
	});
}

/** Corners of a face as seen along the axis that it looks along most, 2 numbers each: areas keep their shares. */
function outlineOf({ positions: p }: Mesh, corners: readonly number[], normal: Vec3): Float64Array {
	const [x, y, z] = normal.map(Math.abs) as [number, number, number];
	const axis = x > y && x > z ? 0 : y > z ? 1 : 2;
	const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
	const outline = new Float64Array(2 * corners.length);
	for (let k = 0; k < corners.length; k++) {
		outline[2 * k] = p[3 * corners[k]! + u]!;
		outline[2 * k + 1] = p[3 * corners[k]! + v]!;
	}
	return outline;
}

/** Twice the area of the triangle of three corners. */
const beyond = (o: Float64Array, a: number, b: number, c: number): number =>
	Math.abs((o[2 * b]! - o[2 * a]!) * (o[2 * c + 1]! - o[2 * a + 1]!) - (o[2 * b + 1]! - o[2 * a + 1]!) * (o[2 * c]! - o[2 * a]!));

/**
 * The four corners of a convex polygon that span the most, in their order: over each diagonal the farthest on both sides. Before all those
 * that are fixed.
 */
function largestFour(outline: Float64Array, fixed: readonly boolean[]): readonly number[] {
	const count = fixed.length;
	/** More than any area. */
	const whole = 16 * outline.reduce((sum, x) => sum + x * x, 1);
	const worth = (k: number) => (fixed[k] ? whole : 0);
	let best: readonly number[] = [0, 1, 2, 3];
	let most = -1;
	for (let i = 0; i + 2 < count; i++)
		for (let k = i + 2; k < count - (i === 0 ? 1 : 0); k++) {
			let [one, other, first, second] = [-1, -1, -1, -1];
			for (let n = i + 1; n < count; n++) {
				if (n === k) continue;
				const span = beyond(outline, i, k, n) + worth(n);
				if (n < k && span > first) [one, first] = [n, span];
				else if (n > k && span > second) [other, second] = [n, span];
			}
			for (let n = 0; n < i; n++) {
				const span = beyond(outline, i, k, n) + worth(n);
				if (span > second) [other, second] = [n, span];
			}
			const spans = first + second + worth(i) + worth(k);
			if (spans <= most) continue;
			most = spans;
			best = [i, one, k, other].sort((a, b) => a - b);
		}
	return best;
}

/** Where three planes meet; undefined where two of them hardly cross. */
function meet([a, b, c]: readonly Drawn[]): Vec3 | undefined {
	const [p, q, r] = [a!.face.normal, b!.face.normal, c!.face.normal];
	const determinant = vec3.dot(p, vec3.cross(q, r));
	if (Math.abs(determinant) < 1e-3) return undefined;
	const sum = [
		[a!, vec3.cross(q, r)],
		[b!, vec3.cross(r, p)],
		[c!, vec3.cross(p, q)],
	] as const;
	return sum.reduce<Vec3>((at, [{ face, by }, way]) => vec3.add(at, vec3.scale(way, (face.offset - by) / determinant)), [0, 0, 0]);
}
