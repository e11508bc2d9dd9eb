import { lookAlong, vec3 } from "../maths";
import type { Id, Shot, Ticks } from "../shot";
import { type Pose, worldPose } from "./evaluate";

/** Where a camera is and how it is turned: as its keys or its aim say. It looks along its own −z axis. */
export function cameraPose(shot: Shot, id: Id, tick: Ticks): Pose {
	const pose = worldPose(shot, id, tick);
	const { source } = shot.objects[id]!;
	if (source.kind !== "camera" || source.aim === null || !shot.objects[source.aim]) return pose;
	const at = worldPose(shot, source.aim, tick).translation;
	return { ...pose, rotation: lookAlong(vec3.subtract(at, pose.translation)) };
}
