import { degrees, type Quat } from "@rubble/core/maths";
import { Euler, Quaternion } from "three";

const quaternion = new Quaternion();
const euler = new Euler();

/** Turns about x, then y, then z of the world, in degrees: the inverse of the core's `fromEuler`. */
export function toEulerDegrees(rotation: Quat): [number, number, number] {
	euler.setFromQuaternion(quaternion.set(...rotation), "ZYX");
	return [euler.x, euler.y, euler.z].map((angle) => Number(degrees(angle).toFixed(4)) + 0) as [number, number, number];
}
