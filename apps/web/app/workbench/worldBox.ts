import { worldPose } from "@rubble/core/animation";
import { boxCorners, rotate, type Vec3, vec3 } from "@rubble/core/maths";
import type { Bounds } from "@rubble/core/mesh";
import type { Id, Shot } from "@rubble/core/shot";

/** What is known of objects' meshes at their real size: how large they are, and where their middle is from their origin, metres. */
export type Sizes = Readonly<Record<Id, { readonly size: Vec3; readonly middle: Vec3 } | undefined>>;

/** The box of the world in which an object stands at the start, by the box of its mesh; undefined where that is not known. */
export function worldBox(shot: Shot, sizes: Sizes, id: Id): Bounds | undefined {
	const known = sizes[id];
	if (!known) return undefined;
	const { translation, rotation } = worldPose(shot, id, 0);
	const centre = vec3.add(translation, rotate(rotation, known.middle));
	const corners = boxCorners(centre, vec3.scale(known.size, 0.5), rotation);
	const most = (of: typeof Math.max) => [0, 1, 2].map((d) => of(...corners.map((corner) => corner[d]!))) as unknown as Vec3;
	return { min: most(Math.min), max: most(Math.max) };
}
