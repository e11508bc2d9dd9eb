import { lookAlong, vec3 } from "../maths";
import type { CameraSource, Id, Shot, Ticks } from "../shot";
import { numberAt, type Pose, worldPose } from "./evaluate";

/** Where a camera is and how it is turned: as its keys or its aim say. It looks along its own −z axis. */
export function cameraPose(shot: Shot, id: Id, tick: Ticks): Pose {
	const pose = worldPose(shot, id, tick);
	const { source } = shot.objects[id]!;
	if (source.kind !== "camera" || source.aim === null || !shot.objects[source.aim]) return pose;
	const at = worldPose(shot, source.aim, tick).translation;
	return { ...pose, rotation: lookAlong(vec3.subtract(at, pose.translation)) };
}

/** The name under which a camera's field of view is keyed. */
export const FIELD_OF_VIEW = "fieldOfView";

/** A camera's field of view at a tick, degrees: as its keys or its setting say. */
export function fieldOfViewAt(shot: Shot, id: Id, tick: Ticks): number {
	const item = shot.objects[id]!;
	return numberAt(item, FIELD_OF_VIEW, tick) ?? (item.source as CameraSource).fieldOfView;
}
