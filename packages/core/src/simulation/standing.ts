import { POSE_STRIDE } from "../cache";
import { tickOfFrame } from "../shot";
import { hullsOf, type SimScene } from "./scene";

/** The same scene, standing where `poses` of a frame (7 per body that is shown) have its bodies, at rest. */
export function standingAt(scene: SimScene, poses: ArrayLike<number>, frame: number): SimScene {
	const position = scene.position.slice();
	const rotation = scene.rotation.slice();
	const colliders = scene.colliders.slice();
	const tick = tickOfFrame(scene.settings, frame);
	for (let i = 0; i < scene.shown; i++) {
		const from = POSE_STRIDE * i;
		for (let k = 0; k < 3; k++) position[3 * i + k] = poses[from + k]!;
		for (let k = 0; k < 4; k++) rotation[4 * i + k] = poses[from + 3 + k]!;
	}
	for (let i = scene.shown; i < scene.count; i++) {
		const pose = scene.poseAt(i, tick);
		position.set(pose.translation, 3 * i);
		rotation.set(pose.rotation, 4 * i);
		colliders[i] = hullsOf([scene.pointsAt(i, tick)]);
	}
	return { ...scene, position, rotation, colliders };
}
