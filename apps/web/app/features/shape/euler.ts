import { degrees, type Quat, toEuler } from "@rubble/core/maths";

/** Turns about x, then y, then z of the world, in degrees: the inverse of the core's `fromEuler`. */
export const toEulerDegrees = (rotation: Quat): [number, number, number] =>
	toEuler(rotation).map((angle) => Number(degrees(angle).toFixed(4)) + 0) as [number, number, number];
