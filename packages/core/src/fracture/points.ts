import { type Curve, makeCurve, random } from "../maths";
import { type Bounds, boundsSize } from "../mesh";

/** How the points of a Voronoi fracture are spread. */
export type Spread = "even" | "random" | "clustered";

interface Request {
	readonly count: number;
	readonly seed: number;
	readonly spread: Spread;
	readonly bounds: Bounds;
	readonly contains: (x: number, y: number, z: number) => boolean;
	/** For the clustered spread: how dense the points are at a place, 1 at most. */
	readonly density?: (x: number, y: number, z: number) => number;
}

/** Tries per point before it is taken wherever it fell: thin shells hit rarely. */
const MOST_TRIES = 400;
/** Where a curve says none, a point may still come to lie once everything else is full. */
const LEAST_DENSITY = 1e-3;
/** Candidates per point of the even spread. */
const CANDIDATES = 12;

/**
 * Points inside a mesh, 3 per point. Point `i` depends on (seed, i) and, for the even spread, on the points before
 * it, so that asking for more points leaves the first ones where they were.
 * Even: the best of several candidates, the one farthest from all earlier points (Mitchell 1991, "Spectrally
 * Optimal Sampling for Distribution Ray Tracing"). Clustered: taken with the probability of the density there.
 */
export function scatterPoints({ count, seed, spread, bounds, contains, density }: Request): Float64Array {
	const points = new Float64Array(3 * count);
	const size = boundsSize(bounds);
	const nearest = makeNearest(bounds, count);
	const draw = (i: number, channel: number): readonly [number, number, number] => {
		let point: readonly [number, number, number] = [0, 0, 0];
		for (let attempt = 0; attempt < MOST_TRIES; attempt++) {
			const at = (axis: number) => bounds.min[axis]! + size[axis]! * random(seed, i, 3 * (channel + CANDIDATES * attempt) + axis);
			point = [at(0), at(1), at(2)];
			if (!contains(...point)) continue;
			if (spread !== "clustered" || !density || random(seed, i, -1 - attempt) < density(...point)) break;
		}
		return point;
	};
	for (let i = 0; i < count; i++) {
		let best = draw(i, 0);
		if (spread === "even") {
			let far = nearest.distance(best);
			for (let c = 1; c < CANDIDATES; c++) {
				const other = draw(i, c);
				const d = nearest.distance(other);
				if (d > far) {
					far = d;
					best = other;
				}
			}
			nearest.add(best);
		}
		points.set(best, 3 * i);
	}
	return points;
}

/** Distance to the nearest point so far, over a hash of cubes with about one point each. */
function makeNearest(bounds: Bounds, count: number) {
	const size = boundsSize(bounds);
	const longest = Math.max(...size);
	// Flat boxes spread their points over two dimensions: the cube side follows from the larger extents.
	const extents = size.map((s) => Math.max(s, longest / Math.max(1, count)));
	let side = longest;
	while (side > longest * 1e-6 && extents.reduce((n, s) => n * Math.max(1, Math.floor(s / side)), 1) < count) side *= 0.8;
	const cubes = new Map<number, number[]>();
	const n = size.map((s) => Math.max(1, Math.ceil(s / side)));
	const index = (value: number, axis: number) => Math.min(n[axis]! - 1, Math.max(0, Math.floor((value - bounds.min[axis]!) / side)));
	const key = (i: number, j: number, k: number) => i + n[0]! * (j + n[1]! * k);
	return {
		add(p: readonly [number, number, number]): void {
			const at = key(index(p[0], 0), index(p[1], 1), index(p[2], 2));
			const list = cubes.get(at);
			if (list) list.push(...p);
			else cubes.set(at, [...p]);
		},
		distance(p: readonly [number, number, number]): number {
			const c = [index(p[0], 0), index(p[1], 1), index(p[2], 2)];
			let best = Number.POSITIVE_INFINITY;
			const rings = Math.max(...n);
			for (let ring = 0; ring <= rings && (ring - 1) * side < best; ring++)
				for (let k = Math.max(0, c[2]! - ring); k <= Math.min(n[2]! - 1, c[2]! + ring); k++)
					for (let j = Math.max(0, c[1]! - ring); j <= Math.min(n[1]! - 1, c[1]! + ring); j++)
						for (let i = Math.max(0, c[0]! - ring); i <= Math.min(n[0]! - 1, c[0]! + ring); i++) {
							if (Math.max(Math.abs(i - c[0]!), Math.abs(j - c[1]!), Math.abs(k - c[2]!)) !== ring) continue;
							const list = cubes.get(key(i, j, k));
							if (!list) continue;
							for (let q = 0; q < list.length; q += 3) {
								const d = Math.sqrt((list[q]! - p[0]) ** 2 + (list[q + 1]! - p[1]) ** 2 + (list[q + 2]! - p[2]) ** 2);
								if (d < best) best = d;
							}
						}
			return best;
		},
	};
}

/**
 * How dense points are by the distance from the nearest place or line: as the curve says (metres, share), never none at
 * all. `lines`: 3 numbers per point.
 */
export function clusterDensity(
	places: ArrayLike<number>,
	lines: readonly (readonly number[])[],
	curve: Curve,
): (x: number, y: number, z: number) => number {
	const height = makeCurve(curve);
	return (x, y, z) => {
		let nearest = Infinity;
		for (let i = 0; i < places.length; i += 3)
			nearest = Math.min(nearest, (places[i]! - x) ** 2 + (places[i + 1]! - y) ** 2 + (places[i + 2]! - z) ** 2);
		for (const line of lines) nearest = Math.min(nearest, squaredToLine(line, x, y, z));
		return Math.max(LEAST_DENSITY, height(Math.sqrt(nearest)));
	};
}

/** Squared distance from a place to a line of 3 numbers per point; a line of one point is that point. */
export function squaredToLine(line: readonly number[], x: number, y: number, z: number): number {
	let best = (line[0]! - x) ** 2 + (line[1]! - y) ** 2 + (line[2]! - z) ** 2;
	for (let i = 3; i < line.length; i += 3) {
		const [ax, ay, az] = [line[i - 3]!, line[i - 2]!, line[i - 1]!];
		const [dx, dy, dz] = [line[i]! - ax, line[i + 1]! - ay, line[i + 2]! - az];
		const length = dx * dx + dy * dy + dz * dz;
		const t = length > 0 ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy + (z - az) * dz) / length)) : 0;
		best = Math.min(best, (ax + t * dx - x) ** 2 + (ay + t * dy - y) ** 2 + (az + t * dz - z) ** 2);
	}
	return best;
}
