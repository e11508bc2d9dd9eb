import type { Pose } from "@rubble/core/animation";
import { compose, inverse, rotate, vec3 } from "@rubble/core/maths";

/** Where something that stood at `pose` comes to stand as the handles that hold it went from `from` to `to`. */
export function carried(pose: Pose, from: Pose, to: Pose): Pose {
	const turn = compose(to.rotation, inverse(from.rotation));
	return {
		translation: vec3.add(to.translation, rotate(turn, vec3.subtract(pose.translation, from.translation))),
		rotation: compose(turn, pose.rotation),
	};
}
