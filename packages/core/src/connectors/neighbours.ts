import { type Vec3, vec3 } from "../maths";

type Pair = readonly [number, number];

/** Places in pairs in which at least one is the nearest to the other, each pair once, the lower number first. */
export function nearestPairs(places: readonly Vec3[]): Pair[] {
	const pairs = new Map<string, Pair>();
	for (const m of places.keys()) {
		const n = nearestTo(places, m);
		if (n >= 0) pairs.set(`${Math.min(m, n)} ${Math.max(m, n)}`, [Math.min(m, n), Math.max(m, n)]);
	}
	return [...pairs.values()];
}

function nearestTo(places: readonly Vec3[], m: number): number {
	let best = -1;
	let least = Number.POSITIVE_INFINITY;
	for (const [n, to] of places.entries()) {
		const distance = vec3.length(vec3.subtract(to, places[m]!));
		if (n === m || distance >= least) continue;
		best = n;
		least = distance;
	}
	return best;
}

/** So many of the nearest are looked at: more neighbours nobody has in room. */
const MOST_LOOKED_AT = 48;
/** Farther from each other than this, as a multiple of the usual distance to the nearest, are no neighbours. */
const FAR = 2;
/** A place on the rim, by rounding, counts as between. */
const RIM = 1e-6;

/**
 * Places that lie beside each other, each pair once, the lower number first: no third one is in the ball that has the two as its poles
 * (Gabriel and Sokal 1969). In a grid these are the neighbours along its lines, and not those across.
 */
export function neighbourPairs(places: readonly Vec3[]): Pair[] {
	const apart = (m: number, n: number): number => vec3.length(vec3.subtract(places[n]!, places[m]!));
	const usual = places.flatMap((_, m) => (places.length > 1 ? [apart(m, nearestTo(places, m))] : [])).sort((a, b) => a - b);
	const far = FAR * (usual[usual.length >> 1] ?? 0);
	const pairs: Pair[] = [];
	for (const m of places.keys()) {
		const near = Array.from(places.keys())
			.filter((n) => n !== m && apart(m, n) <= far)
			.sort((x, y) => apart(m, x) - apart(m, y) || x - y)
			.slice(0, MOST_LOOKED_AT);
		for (const [k, n] of near.entries()) {
			if (n < m) continue;
			const middle = vec3.mix(places[m]!, places[n]!, 0.5);
			const radius = (apart(m, n) / 2) * (1 + RIM);
			// Whatever is in that ball is nearer to one of its poles than the other pole is.
			const isBetween = (c: number): boolean => vec3.length(vec3.subtract(places[c]!, middle)) <= radius;
			if (!near.slice(0, k).some(isBetween)) pairs.push([m, n]);
		}
	}
	return pairs;
}
