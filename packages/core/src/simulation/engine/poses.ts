import type RAPIER from "@dimforge/rapier3d-simd-compat";
import type { KeyedPose } from "./types";

/** Poses as the library has them, and back. */
export const xyz = ({ translation: [x, y, z] }: KeyedPose) => ({ x, y, z });
export const xyzw = ({ rotation: [x, y, z, w] }: KeyedPose) => ({ x, y, z, w });

export function setPose(body: RAPIER.RigidBody, pose: KeyedPose): void {
	body.setTranslation(xyz(pose), false);
	body.setRotation(xyzw(pose), false);
}

export function poseOfBody(body: RAPIER.RigidBody): KeyedPose {
	const [t, q] = [body.translation(), body.rotation()];
	return { translation: [t.x, t.y, t.z], rotation: [q.x, q.y, q.z, q.w] };
}
