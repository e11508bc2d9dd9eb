import { type Vec3, vec3 } from "../maths";
import { type Manifold, scoped } from "../solid";

/** Pockets below this share of the hull are rounding. */
const SPECK = 1e-7;
/** A pocket is looked at in so many places along its extent. */
const LOOKS = 24;

/**
 * How deep a hull buries the surface that it stands for, metres: in each pocket between the two, the place that lies farthest
 * behind all of the pocket's openings (the concavity of Mamou & Ghorbel 2009, exactly instead of at the corners). 0 where it
 * follows the surface.
 */
export function buriedDepth(solid: Manifold, hull: Manifold): number {
	return scoped((keep) => {
		const marked = keep(hull.asOriginal());
		const pockets = keep(marked.subtract(solid)).decompose().map(keep);
		const least = SPECK * hull.volume();
		let deepest = 0;
		for (const pocket of pockets) {
			if (pocket.volume() <= least) continue;
			const openings = openingsOf(pocket, marked.originalID());
			const { min, max } = pocket.boundingBox();
			const extent = Math.max(...[0, 1, 2].map((k) => max[k]! - min[k]!));
			const { vertProperties: p, numProp } = keep(pocket.refineToLength(extent / LOOKS)).getMesh();
			for (let v = 0; v < p.length; v += numProp) {
				let behind = Number.POSITIVE_INFINITY;
				for (let k = 0; k < openings.length && behind > deepest; k += 4)
					behind = Math.min(
						behind,
						openings[k + 3]! - (openings[k]! * p[v]! + openings[k + 1]! * p[v + 1]! + openings[k + 2]! * p[v + 2]!),
					);
				if (behind > deepest && behind !== Number.POSITIVE_INFINITY) deepest = behind;
			}
		}
		return deepest;
	});
}

/** The planes n·x = d in which a pocket is closed by the hull alone: 4 numbers each. */
function openingsOf(pocket: Manifold, hull: number): number[] {
	const { triVerts: t, vertProperties: p, numProp, runIndex, runOriginalID } = pocket.getMesh();
	const at = (v: number): Vec3 => [p[v * numProp]!, p[v * numProp + 1]!, p[v * numProp + 2]!];
	const planes = new Map<string, readonly number[]>();
	for (const [run, id] of runOriginalID.entries()) {
		if (id !== hull) continue;
		for (let f = runIndex[run]!; f < runIndex[run + 1]!; f += 3) {
			const [a, b, c] = [at(t[f]!), at(t[f + 1]!), at(t[f + 2]!)];
			const normal = vec3.cross(vec3.subtract(b, a), vec3.subtract(c, a));
			const size = vec3.length(normal);
			if (size === 0) continue;
			const n = vec3.scale(normal, 1 / size);
			const offset = vec3.dot(n, a);
			planes.set([...n, offset].map((value) => Math.round(value * 1e4)).join(), [...n, offset]);
		}
	}
	return [...planes.values()].flat();
}
