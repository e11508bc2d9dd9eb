import { localPose, moves, type Pose, worldPose, worldScale } from "../animation";
import { compose, inverse, type Quat, rotate, type Vec3, vec3 } from "../maths";
import { type Id, objectOf, type Shot } from "../shot";

/** Where something stands in its object: a piece's pivot, a copy's place and turn. */
export interface PlaceInObject {
	/** A body's id, where it may have keys of its own. */
	readonly id?: string | undefined;
	readonly object: Id;
	readonly offset: Vec3;
	readonly turn: Quat;
	/** Where it stands instead, in its object, because an earlier run left it there. */
	readonly kept?: Pose | undefined;
}

/** Where the body stands before it moves by itself: its object's pose, at its own place. */
export function bodyPose(shot: Shot, body: PlaceInObject, tick: number): Pose {
	return poseOutside(worldPose(shot, body.object, tick), poseInObject(shot, body, tick));
}

/** The same, in its object's frame. */
export function poseInObject({ motions }: Shot, { id, offset, turn, kept }: Omit<PlaceInObject, "object">, tick: number): Pose {
	const motion = id === undefined ? undefined : motions?.[id];
	return motion ? localPose(motion, tick) : (kept ?? { translation: offset, rotation: turn });
}

/** Whether the body moves by keys: its own, its object's or those of a parent. */
export const bodyMoves = (shot: Shot, { id, object }: Pick<PlaceInObject, "id" | "object">): boolean =>
	(id !== undefined && shot.motions?.[id] !== undefined) || moves(shot, object);

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

/** Where an object, or a piece or copy with keys of its own, has itself in the world at a tick. */
export const keyedPose = (shot: Shot, id: string, tick: number): Pose =>
	shot.objects[id]
		? worldPose(shot, id, tick)
		: poseOutside(worldPose(shot, objectOf(shot, id)!, tick), localPose(shot.motions![id]!, tick));

/** A pose of the world as its keys would have it: of an object in its parent, of a piece or copy in its object. */
export function keyedInside(shot: Shot, id: string, pose: Pose, tick: number): Pose {
	if (!shot.objects[id]) return poseInside(worldPose(shot, objectOf(shot, id)!, tick), pose);
	const { parent } = shot.objects[id];
	if (parent === null) return pose;
	const inside = poseInside(worldPose(shot, parent, tick), pose);
	return { ...inside, translation: vec3.divide(inside.translation, worldScale(shot, parent)) };
}

/** Where another object stands at the first frame, in the frame of this one. */
export const poseIn = (shot: Shot, object: Id, other: Id): Pose => poseInside(worldPose(shot, object, 0), worldPose(shot, other, 0));
