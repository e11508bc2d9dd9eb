import { WORLD } from "@rubble/core/connectors";
import { boundsCentre } from "@rubble/core/mesh";
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
