import { type Pose, worldPose } from "../animation";
import { compose, inverse, type Quat, rotate, type Vec3, vec3 } from "../maths";
import type { Id, Shot } from "../shot";

/** Where something stands in its object: a piece's pivot, a copy's place and turn. */
export interface PlaceInObject {
	readonly object: Id;
	readonly offset: Vec3;
	readonly turn: Quat;
	/** Where it stands instead, in its object, because an earlier run left it there. */
	readonly kept?: Pose | undefined;
}

/** Where the body stands before it moves by itself: its object's pose, at its own place. */
export function bodyPose(shot: Shot, body: PlaceInObject, tick: number): Pose {
	return placedIn(worldPose(shot, body.object, tick), body);
}

/** The same, from the object's pose. */
export const placedIn = (object: Pose, { offset, turn, kept }: Omit<PlaceInObject, "object">): Pose =>
	poseOutside(object, kept ?? { translation: offset, rotation: turn });

/** A pose in an object as one of the world. */
export const poseOutside = ({ translation, rotation }: Pose, inside: Pose): Pose => ({
	translation: vec3.add(translation, rotate(rotation, inside.translation)),
	rotation: compose(rotation, inside.rotation),
});

/** Points in an object as ones of the world, 3 numbers each. */
export function pointsOutside({ translation, rotation }: Pose, points: ArrayLike<number>): Float32Array {
	const placed = new Float32Array(points.length);
	for (let v = 0; v < points.length; v += 3)
		placed.set(vec3.add(translation, rotate(rotation, [points[v]!, points[v + 1]!, points[v + 2]!])), v);
	return placed;
}

/** A pose of the world as one in an object. */
export function poseInside({ translation, rotation }: Pose, pose: Pose): Pose {
	const back = inverse(rotation);
	return { translation: rotate(back, vec3.subtract(pose.translation, translation)), rotation: compose(back, pose.rotation) };
}

/** Where another object stands at the first frame, in the frame of this one. */
export const poseIn = (shot: Shot, object: Id, other: Id): Pose => poseInside(worldPose(shot, object, 0), worldPose(shot, other, 0));
