import { type Vec3, vec3 } from "../maths";

const MOST_STEPS = 64;
/** Squared distance that is none. */
const ROUNDING = 1e-16;

/**
 * Distance between the convex hulls of two point sets, in the points' unit; 0 where they meet.
 * Gilbert, Johnson and Keerthi 1988, "A fast procedure for computing the distance between complex objects in
 * three-dimensional space", in double precision, the nearest point of the simplex by trying all its faces: slower than
 * a physics engine's, but exact for thin shapes.
 * @param a 3 per point
 * @param b 3 per point
 */
export function hullDistance(a: ArrayLike<number>, b: ArrayLike<number>): number {
	let simplex: Vec3[] = [support(a, b, [1, 0, 0])];
	let nearest = simplex[0]!;
	for (let step = 0; step < MOST_STEPS; step++) {
		const length2 = vec3.dot(nearest, nearest);
		if (length2 < 1e-24) return 0;
		const next = support(a, b, vec3.scale(nearest, -1));
		// No point lies farther towards the origin: this is the nearest.
		if (length2 - vec3.dot(nearest, next) <= 1e-12 * length2) break;
		if (simplex.some((point) => vec3.length(vec3.subtract(point, next)) === 0)) break;
		const reduced = reduce([...simplex, next]);
		if (reduced.simplex.length === 4) return 0;
		if (vec3.dot(reduced.nearest, reduced.nearest) >= length2) break;
		simplex = reduced.simplex;
		nearest = reduced.nearest;
	}
	return vec3.length(nearest);
}

/** Directions from which the way out is looked for, all around. */
const AROUND: readonly Vec3[] = [-1, 0, 1]
	.flatMap((x) => [-1, 0, 1].flatMap((y) => [-1, 0, 1].map((z): Vec3 => [x, y, z])))
	.filter((direction) => vec3.dot(direction, direction) > 0)
	.map(vec3.normalize);
const DESCENTS = 24;
/** It goes down only from those where it is lowest to begin with. */
const MOST_STARTS = 8;

/**
 * How far the convex hulls of two point sets reach into each other, in the points' unit: the shortest way on which one can be
 * moved out of the other. 0 where they do not meet. It goes down the width of a − b over directions, from all around, by
 * halving steps: never less than the true depth, and equal to it but for odd shapes. `way`: unit, in which b leaves a soonest.
 * @param a 3 per point
 * @param b 3 per point
 */
export function hullDepth(a: ArrayLike<number>, b: ArrayLike<number>): { readonly depth: number; readonly way: Vec3 } {
	const apart = AROUND.find((direction) => vec3.dot(support(a, b, direction), direction) <= 0);
	if (apart) return { depth: 0, way: apart };
	// Plates are left across their thickness, which few directions from all around lead to.
	const thin = [a, b].map(acrossThickness);
	const starts = [...AROUND, ...thin, ...thin.map((direction) => vec3.scale(direction, -1))];
	const { direction, width } = leastWidth(a, b, starts);
	return { depth: Math.max(0, width), way: direction };
}

/** The direction in which a hull is thinnest; of the same points it is found once. */
function acrossThickness(hull: ArrayLike<number>): Vec3 {
	const known = thinnest.get(hull) ?? leastWidth(hull, hull, AROUND).direction;
	thinnest.set(hull, known);
	return known;
}
const thinnest = new WeakMap<ArrayLike<number>, Vec3>();

/** The direction in which a − b reaches least far, and how far; found downhill from several. */
function leastWidth(
	a: ArrayLike<number>,
	b: ArrayLike<number>,
	starts: readonly Vec3[],
): { readonly direction: Vec3; readonly width: number } {
	let least = { direction: starts[0]!, width: Infinity };
	const tried = starts.map((direction) => {
		const point = support(a, b, direction);
		return { direction, point, width: vec3.dot(point, direction) };
	});
	for (const start of tried.sort((x, y) => x.width - y.width).slice(0, MOST_STARTS)) {
		let { direction, point, width } = start;
		for (let n = 0, step = 1; n < DESCENTS && width > 0; n++) {
			// Towards where the farthest point comes nearer: its part across the direction.
			const across = vec3.subtract(point, vec3.scale(direction, width));
			const length = vec3.length(across);
			if (length < 1e-12) break;
			const turned = vec3.normalize(vec3.subtract(direction, vec3.scale(across, step / length)));
			const next = support(a, b, turned);
			const wide = vec3.dot(next, turned);
			if (wide < width) [direction, point, width] = [turned, next, wide];
			else step /= 2;
		}
		if (width < least.width) least = { direction, width };
	}
	return least;
}

/** The point of a − b that lies farthest along a direction. */
function support(a: ArrayLike<number>, b: ArrayLike<number>, direction: Vec3): Vec3 {
	return vec3.subtract(farthest(a, direction), farthest(b, vec3.scale(direction, -1)));
}

function farthest(points: ArrayLike<number>, [x, y, z]: Vec3): Vec3 {
	let best = 0;
	let most = -Infinity;
	for (let i = 0; i < points.length; i += 3) {
		const along = points[i]! * x + points[i + 1]! * y + points[i + 2]! * z;
		if (along > most) {
			most = along;
			best = i;
		}
	}
	return [points[best]!, points[best + 1]!, points[best + 2]!];
}

/** The face of a simplex (1 to 4 points) that is nearest to the origin, and the nearest point on it. */
function reduce(points: readonly Vec3[]): { simplex: Vec3[]; nearest: Vec3 } {
	let best: { simplex: Vec3[]; nearest: Vec3 } | undefined;
	let least = Infinity;
	for (let subset = 1; subset < 1 << points.length; subset++) {
		const face = points.filter((_, i) => subset & (1 << i));
		const nearest = nearestOfFace(face);
		if (!nearest) continue;
		const length2 = vec3.dot(nearest, nearest);
		// Flat tetrahedra seem to hold the origin by rounding alone: what really does has it as its nearest point.
		if (face.length === 4 && length2 > ROUNDING) continue;
		if (length2 < least) {
			least = length2;
			best = { simplex: face, nearest };
		}
	}
	return best!;
}

/** The point of the face's plane nearest to the origin, where it lies within the face; else undefined. */
function nearestOfFace(face: readonly Vec3[]): Vec3 | undefined {
	const [first, ...others] = face as [Vec3, ...Vec3[]];
	const edges = others.map((point) => vec3.subtract(point, first));
	const weights = solve(
		edges.map((row) => edges.map((column) => vec3.dot(row, column))),
		edges.map((edge) => -vec3.dot(edge, first)),
	);
	if (!weights || weights.some((w) => w < 0) || weights.reduce((sum, w) => sum + w, 0) > 1) return undefined;
	return edges.reduce((sum, edge, i) => vec3.add(sum, vec3.scale(edge, weights[i]!)), first);
}

/** Solves a small symmetric system by elimination; undefined where it is singular. */
function solve(matrix: number[][], right: number[]): number[] | undefined {
	const n = right.length;
	const rows = matrix.map((row, i) => [...row, right[i]!]);
	for (let column = 0; column < n; column++) {
		let pivot = column;
		for (let row = column + 1; row < n; row++) if (Math.abs(rows[row]![column]!) > Math.abs(rows[pivot]![column]!)) pivot = row;
		[rows[column], rows[pivot]] = [rows[pivot]!, rows[column]!];
		if (Math.abs(rows[column]![column]!) < 1e-300) return undefined;
		for (let row = 0; row < n; row++) {
			if (row === column) continue;
			const factor = rows[row]![column]! / rows[column]![column]!;
			for (let k = column; k <= n; k++) rows[row]![k]! -= factor * rows[column]![k]!;
		}
	}
	return rows.map((row, i) => row[n]! / row[i]!);
}
