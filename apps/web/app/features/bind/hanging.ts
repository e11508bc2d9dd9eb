import { WORLD } from "@rubble/core/connectors";
import { type Vec3, vec3 } from "@rubble/core/maths";
import { type Bounds, boundsCentre } from "@rubble/core/mesh";
import type { Id, Shot } from "@rubble/core/shot";
import { type Sizes, worldBox } from "~/workbench/worldBox";

/** Room for an upper end that touches what it hangs from. m */
const TOUCHES = 0.01;

/**
 * What a chain of this link most likely hangs from and carries: the lowest thing straight above it, the world where there is none, and
 * the highest active one straight below it. `drop`: from the link's middle to that one's top, m.
 */
export function hangsBetween(shot: Shot, sizes: Sizes, link: Id): { readonly top: string; readonly hero: string; readonly drop: number } {
	const own = worldBox(shot, sizes, link);
	if (!own) return { top: WORLD, hero: "", drop: 0 };
	const at = boundsCentre(own);
	let [top, hero] = [WORLD, ""];
	let [lowest, highest] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
	for (const id of Object.keys(shot.objects)) {
		const kind = shot.bodies[id]?.kind ?? "none";
		const box = id === link || kind === "none" || shot.objects[id]!.hidden ? undefined : worldBox(shot, sizes, id);
		if (!box || at[0] < box.min[0] || at[0] > box.max[0] || at[2] < box.min[2] || at[2] > box.max[2]) continue;
		if (box.min[1] >= at[1] - TOUCHES && box.min[1] < lowest) [top, lowest] = [id, box.min[1]];
		else if (kind === "active" && box.max[1] <= at[1] + TOUCHES && box.max[1] > highest) [hero, highest] = [id, box.max[1]];
	}
	return { top, hero, drop: hero === "" ? 0 : at[1] - highest };
}

/** Two ends that a chain or a rope is hung between, in the world. */
export interface Ends {
	readonly from: Vec3;
	readonly to: Vec3;
}

/**
 * Where a chain from one object to another begins and ends, on the sides of their boxes that face each other; undefined where the second one
 * is straight below the link, or below the first where there is no link, and where either is not known.
 */
export function endsBetween(shot: Shot, sizes: Sizes, top: string, hero: string, link?: Id): Ends | undefined {
	const [one, other] = [worldBox(shot, sizes, top), worldBox(shot, sizes, hero)];
	const first = link === undefined ? one : worldBox(shot, sizes, link);
	if (!one || !other || !first) return undefined;
	const way = vec3.subtract(boundsCentre(other), boundsCentre(one));
	const [x, y, z] = boundsCentre(first);
	const isAbove = x >= other.min[0] && x <= other.max[0] && z >= other.min[2] && z <= other.max[2] && y > other.max[1];
	if (isAbove) return undefined;
	return { from: exitOf(one, way), to: exitOf(other, vec3.scale(way, -1)) };
}

/** Where the way out of a box's middle leaves it. */
function exitOf(box: Bounds, way: Vec3): Vec3 {
	const half = vec3.scale(vec3.subtract(box.max, box.min), 0.5);
	const share = Math.min(...way.map((w, d) => (w === 0 ? Number.POSITIVE_INFINITY : half[d]! / Math.abs(w))));
	return vec3.add(boundsCentre(box), vec3.scale(way, share));
}
