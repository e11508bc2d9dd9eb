import { POSE_STRIDE } from "../cache";
import { inverse, quatAt, rotate, tripleAt, type Vec3, vec3 } from "../maths";
import type { SimScene } from "./scene";

/** Where a body has carried a place of the first frame (world, m) in a frame with these poses; −1, the world, leaves it where it is. */
export function carriedPlace(scene: Pick<SimScene, "position" | "rotation">, poses: Float32Array, i: number, place: Vec3): Vec3 {
	if (i < 0) return place;
	const pose = poses.subarray(POSE_STRIDE * i);
	const local = rotate(inverse(quatAt(scene.rotation, i)), vec3.subtract(place, tripleAt(scene.position, i)));
	return vec3.add(tripleAt(pose, 0), rotate(quatAt(pose.subarray(3), 0), local));
}
