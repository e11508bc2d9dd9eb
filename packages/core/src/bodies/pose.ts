import { type Pose, worldPose } from "../animation";
import { compose, inverse, type Quat, rotate, type Vec3, vec3 } from "../maths";
import type { Id, Shot } from "../shot";

/** Where something stands in its object: a piece's pivot, a copy's place and turn. */
export interface PlaceInObject {
	readonly object: Id;
	readonly offset: Vec3;
	readonly turn: Quat;
}

/** Where the body stands before it moves by itself: its object's pose, at its own place. */
export function bodyPose(shot: Shot, body: PlaceInObject, tick: number): Pose {
	return placedIn(worldPose(shot, body.object, tick), body);
}

/** The same, from the object's pose. */
export const placedIn = ({ translation, rotation }: Pose, { offset, turn }: Pick<PlaceInObject, "offset" | "turn">): Pose => ({
	translation: vec3.add(translation, rotate(rotation, offset)),
	rotation: compose(rotation, turn),
});

/** Where another object stands at the first frame, in the frame of this one. */
export function poseIn(shot: Shot, object: Id, other: Id): Pose {
	const own = worldPose(shot, object, 0);
	const { translation, rotation } = worldPose(shot, other, 0);
	const back = inverse(own.rotation);
	return { translation: rotate(back, vec3.subtract(translation, own.translation)), rotation: compose(back, rotation) };
}
