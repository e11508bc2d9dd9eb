import { worldPose } from "@rubble/core/animation";
import { WORLD } from "@rubble/core/connectors";
import { boxCorners, rotate, type Vec3, vec3 } from "@rubble/core/maths";
import type { Id, Shot } from "@rubble/core/shot";

/** What is known of an object's mesh: its size, and its middle from its origin, metres. */
type Sizes = Readonly<Record<Id, { readonly size: Vec3; readonly middle: Vec3 } | undefined>>;

/** Room for an upper end that touches what it hangs from. m */
const TOUCHES = 0.01;

/**
 * What a chain of this link most likely hangs from and carries: the lowest thing straight above it, the world where there is none, and
 * the highest active one straight below it. `drop`: from the link's middle to that one's top, m.
 */
export function hangsBetween(shot: Shot, sizes: Sizes, link: Id): { readonly top: string; readonly hero: string; readonly drop: number } {
	const own = boxOf(shot, sizes, link);
	if (!own) return { top: WORLD, hero: "", drop: 0 };
	const at = middle(own);
	let [top, hero] = [WORLD, ""];
	let [lowest, highest] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
	for (const id of Object.keys(shot.objects)) {
		const kind = shot.bodies[id]?.kind ?? "none";
		const box = id === link || kind === "none" || shot.objects[id]!.hidden ? undefined : boxOf(shot, sizes, id);
		if (!box || at[0] < box.min[0] || at[0] > box.max[0] || at[2] < box.min[2] || at[2] > box.max[2]) continue;
		if (box.min[1] >= at[1] - TOUCHES && box.min[1] < lowest) [top, lowest] = [id, box.min[1]];
		else if (kind === "active" && box.max[1] <= at[1] + TOUCHES && box.max[1] > highest) [hero, highest] = [id, box.max[1]];
	}
	return { top, hero, drop: hero === "" ? 0 : at[1] - highest };
}

interface Box {
	readonly min: Vec3;
	readonly max: Vec3;
}

const middle = ({ min, max }: Box): Vec3 => vec3.scale(vec3.add(min, max), 0.5);

/** The box of the world in which an object stands, by the box of its mesh. */
function boxOf(shot: Shot, sizes: Sizes, id: Id): Box | undefined {
	const known = sizes[id];
	if (!known) return undefined;
	const { translation, rotation } = worldPose(shot, id, 0);
	const centre = vec3.add(translation, rotate(rotation, known.middle));
	const corners = boxCorners(centre, vec3.scale(known.size, 0.5), rotation);
	const most = (of: typeof Math.max) => [0, 1, 2].map((d) => of(...corners.map((corner) => corner[d]!))) as unknown as Vec3;
	return { min: most(Math.min), max: most(Math.max) };
}
