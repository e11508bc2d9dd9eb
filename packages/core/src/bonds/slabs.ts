import { type Body, bodyPose } from "../bodies";
import { random, type Vec3, vec3 } from "../maths";
import type { Id, Shot } from "../shot";
import type { BondOptions } from "./specs";

/** Which larger part each body belongs to; −1 for none. Numbers count over all objects. */
export interface Slabs {
	readonly slab: Int32Array;
	/** The part inside the slab; counts over all slabs. */
	readonly chunk: Int32Array;
}

/**
 * Groups the pieces of each object into slabs, and the pieces of each slab into parts: a coarse Voronoi whose seeds are
 * pieces, the first by chance, each further one far from those before it, with some chance in it.
 */
export function groupPieces(
	shot: Shot,
	bodies: readonly Body[],
	members: readonly number[],
	{ slabs, chunks, seed }: Pick<BondOptions, "slabs" | "chunks" | "seed">,
): Slabs {
	const slab = new Int32Array(bodies.length).fill(-1);
	const chunk = new Int32Array(bodies.length).fill(-1);
	const byObject = new Map<Id, number[]>();
	for (const i of members) {
		const list = byObject.get(bodies[i]!.object);
		if (list) list.push(i);
		else byObject.set(bodies[i]!.object, [i]);
	}
	const place = (i: number): Vec3 => bodyPose(shot, bodies[i]!, 0).translation;
	let slabsBefore = 0;
	let chunksBefore = 0;
	for (const list of byObject.values()) {
		const groups = split(list, place, slabs, seed);
		for (const [n, group] of groups.entries()) {
			for (const i of group) slab[i] = slabsBefore + n;
			if (chunks === 0) continue;
			const parts = split(group, place, chunks, seed + 1 + n);
			for (const [m, part] of parts.entries()) for (const i of part) chunk[i] = chunksBefore + m;
			chunksBefore += parts.length;
		}
		slabsBefore += groups.length;
	}
	return { slab, chunk };
}

function split(list: readonly number[], place: (i: number) => Vec3, wanted: number, seed: number): number[][] {
	const places = list.map(place);
	const count = Math.min(wanted, list.length);
	const distance = new Float64Array(list.length).fill(Infinity);
	const owner = new Int32Array(list.length);
	let next = Math.floor(random(seed, 0, 11) * list.length);
	for (let n = 0; n < count; n++) {
		const centre = places[next]!;
		let best = -1;
		for (const [k, p] of places.entries()) {
			const d = vec3.length(vec3.subtract(p, centre));
			if (d < distance[k]!) {
				distance[k] = d;
				owner[k] = n;
			}
			const far = distance[k]! * (0.5 + random(seed, k, 12 + n));
			if (far > best) {
				best = far;
				next = k;
			}
		}
	}
	const groups: number[][] = Array.from({ length: count }, () => []);
	for (const [k, i] of list.entries()) groups[owner[k]!]!.push(i);
	return groups.filter((group) => group.length > 0);
}
