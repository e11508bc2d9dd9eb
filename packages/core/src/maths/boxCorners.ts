import { type Quat, rotate } from "./quaternion";
import type { Vec3 } from "./vector";
import * as vec3 from "./vector";

/** The eight corners of a box about its centre, x first, then y, then z. `half`: half sizes, metres; `turn`: from the box's axes. */
export const boxCorners = (centre: Vec3, half: Vec3, turn: Quat): Vec3[] =>
	[0, 1, 2, 3, 4, 5, 6, 7].map((k) =>
		vec3.add(centre, rotate(turn, [0, 1, 2].map((axis) => (k & (1 << axis) ? half[axis]! : -half[axis]!)) as unknown as Vec3)),
	);
