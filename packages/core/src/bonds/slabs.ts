import { type Body, bodyPose, membersOf } from "../bodies";
import { noise3, random, type Vec3, vec3 } from "../maths";
import type { BondSet, Id, Shot } from "../shot";
import { activeBondSets, type BondOptions } from "./specs";

/** Which larger part each body belongs to; −1 for none. Numbers count over all objects. */
export interface Slabs {
	readonly slab: Int32Array;
	/** The part inside the slab; counts over all slabs. */
	readonly chunk: Int32Array;
}

/** How pieces are grouped, and groups that were made by hand: bodies (ids) each. */
export type Grouping = Pick<BondOptions, "slabs" | "grouped" | "chunks" | "seed"> & { readonly made: NonNullable<BondSet["slabs"]> };

/**
 * Groups the pieces of each object into slabs, and the pieces of each slab into parts. What was made by hand is a slab of its own.
 * `members`: the bodies that are meant.
 */
export function groupPieces(
	shot: Shot,
	bodies: readonly Body[],
	members: readonly number[],
	{ slabs, grouped, chunks, seed, made }: Grouping,
): Slabs {
	const slab = new Int32Array(bodies.length).fill(-1);
	const chunk = new Int32Array(bodies.length).fill(-1);
	const place = (i: number): Vec3 => bodyPose(shot, bodies[i]!, 0).translation;
	const split = (list: readonly number[], count: number, own: number): number[][] =>
		divide(list, list.map(place), count, own, grouped === "noise");
	let slabsBefore = 0;
	let chunksBefore = 0;
	const add = (group: readonly number[], own: number): void => {
		for (const i of group) slab[i] = slabsBefore;
		slabsBefore++;
		if (chunks === 0) return;
		for (const part of split(group, chunks, own)) {
			for (const i of part) chunk[i] = chunksBefore;
			chunksBefore++;
		}
	};
	const numbers = new Map(members.map((i) => [bodies[i]!.id, i]));
	const byHand = made.map((ids) => ids.flatMap((id) => numbers.get(id) ?? [])).filter((group) => group.length > 0);
	const taken = new Set(byHand.flat());
	const byObject = new Map<Id, number[]>();
	for (const i of slabs > 0 ? members : []) {
		if (taken.has(i)) continue;
		const list = byObject.get(bodies[i]!.object);
		if (list) list.push(i);
		else byObject.set(bodies[i]!.object, [i]);
	}
	for (const list of byObject.values()) for (const [n, group] of split(list, slabs, seed).entries()) add(group, seed + 1 + n);
	for (const [n, group] of byHand.entries()) add(group, seed + 1 + n);
	return { slab, chunk };
}

/** What the bond sets of a shot group; a body that several sets mean is in a slab of the first. */
export function slabsOf(shot: Shot, bodies: readonly Body[]): Slabs {
	const all: Slabs = { slab: new Int32Array(bodies.length).fill(-1), chunk: new Int32Array(bodies.length).fill(-1) };
	const next = { slab: 0, chunk: 0 };
	for (const { id, options } of activeBondSets(shot)) {
		const groups = groupPieces(shot, bodies, membersOf(shot, bodies, options.on ?? ""), {
			...options,
			made: shot.bondSets[id]!.slabs ?? [],
		});
		for (const level of ["slab", "chunk"] as const) {
			const own = groups[level];
			for (const [i, n] of own.entries()) if (n >= 0 && all[level][i] === -1) all[level][i] = next[level] + n;
			next[level] += own.reduce((most, n) => Math.max(most, n + 1), 0);
		}
	}
	return all;
}

/** How far noise shifts the border of a group, and how long its waves are, as shares of how wide groups are. */
const RAGGED = 1.5;
const WAVE = 2;

/**
 * A coarse Voronoi whose seeds are pieces, the first by chance. Each further one is far from those before it, with some chance in it; by
 * noise it is any, and distances are between places that noise has shifted: groups wind, and are of many sizes.
 */
function divide(list: readonly number[], places: readonly Vec3[], wanted: number, seed: number, byNoise: boolean): number[][] {
	const even = assign(places, wanted, seed, false);
	if (!byNoise) return groupsOf(list, even.owner);
	const wide = even.distance.reduce((sum, d) => sum + d, 0) / places.length;
	const shifted = places.map((place): Vec3 => {
		const [x, y, z] = vec3.scale(place, wide > 0 ? 1 / (WAVE * wide) : 0);
		return vec3.add(place, vec3.scale([noise3(x, y, z, seed), noise3(x, y, z, seed + 1), noise3(x, y, z, seed + 2)], RAGGED * wide));
	});
	return groupsOf(list, assign(shifted, wanted, seed, true).owner);
}

/** By place: the nearest of so many seeds, and how far that is. `byChance`: seeds are any places, not such that are far from each other. */
function assign(places: readonly Vec3[], wanted: number, seed: number, byChance: boolean): { owner: Int32Array; distance: Float64Array } {
	const distance = new Float64Array(places.length).fill(Infinity);
	const owner = new Int32Array(places.length);
	let next = Math.floor(random(seed, 0, 11) * places.length);
	for (let n = 0; n < Math.min(wanted, places.length); n++) {
		const centre = places[next]!;
		let best = -1;
		for (const [k, p] of places.entries()) {
			const d = vec3.length(vec3.subtract(p, centre));
			if (d < distance[k]!) {
				distance[k] = d;
				owner[k] = n;
			}
			const chance = random(seed, k, 12 + n);
			const far = byChance ? (distance[k]! > 0 ? chance : 0) : distance[k]! * (0.5 + chance);
			if (far > best) {
				best = far;
				next = k;
			}
		}
	}
	return { owner, distance };
}

function groupsOf(list: readonly number[], owner: Int32Array): number[][] {
	const groups = new Map<number, number[]>();
	for (const [k, i] of list.entries()) {
		const group = groups.get(owner[k]!);
		if (group) group.push(i);
		else groups.set(owner[k]!, [i]);
	}
	return [...groups].sort(([m], [n]) => m - n).map(([, group]) => group);
}
