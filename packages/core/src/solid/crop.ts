import type { Quat, Vec3 } from "../maths";
import type { Mesh } from "../mesh";
import { fromSolid, type Solids, scoped, toSolid } from "./solids";

/** Strips around a ball. */
const BALL_SEGMENTS = 48;

/** What of a closed mesh lies in a box or a ball that is one metre across before `size`, or in another closed mesh. Empty where nothing does. */
export function cropSolid(
	solids: Solids,
	mesh: Mesh,
	tool: "box" | "ball" | Mesh,
	{ translation, rotation }: { readonly translation: Vec3; readonly rotation: Quat },
	size: Vec3,
): Mesh {
	return scoped((keep) => {
		const unit = keep(
			tool === "ball"
				? solids.Manifold.sphere(0.5, BALL_SEGMENTS)
				: tool === "box"
					? solids.Manifold.cube([1, 1, 1], true)
					: toSolid(solids, { ...tool, uv: new Float32Array(0) }),
		);
		const [x, y, z, w] = rotation;
		const [a, b, c] = size;
		// Columns of the turn, each times the size along it; then the place.
		const placed = keep(
			unit.transform([
				(1 - 2 * (y * y + z * z)) * a,
				2 * (x * y + w * z) * a,
				2 * (x * z - w * y) * a,
				0,
				2 * (x * y - w * z) * b,
				(1 - 2 * (x * x + z * z)) * b,
				2 * (y * z + w * x) * b,
				0,
				2 * (x * z + w * y) * c,
				2 * (y * z - w * x) * c,
				(1 - 2 * (x * x + y * y)) * c,
				0,
				...translation,
				1,
			]),
		);
		return fromSolid(keep(keep(toSolid(solids, { ...mesh, uv: new Float32Array(0) })).intersect(placed)));
	});
}
