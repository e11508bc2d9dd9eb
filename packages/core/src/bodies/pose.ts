import { type Pose, worldPose } from "../animation";
import { rotate, vec3 } from "../maths";
import type { Shot } from "../shot";
import type { Body } from "./build";

/** Where the body stands before it moves by itself: its object's pose, at its own pivot. */
export function bodyPose(shot: Shot, body: Pick<Body, "object" | "offset">, tick: number): Pose {
	const { translation, rotation } = worldPose(shot, body.object, tick);
	return { translation: vec3.add(translation, rotate(rotation, body.offset)), rotation };
}
