import { compose, type Quat, rotate, slerp, type Vec3, vec3 } from "../maths";
import type { Easing, Id, Key, SceneObject, Shot, Ticks } from "../shot";

/** A place and a turn in the world or relative to a parent. */
export interface Pose {
	readonly translation: Vec3;
	readonly rotation: Quat;
}

/** Whether it moves or turns by keys. */
export const isKeyed = (item: SceneObject): boolean => item.keys.translation.length + item.keys.rotation.length > 0;

/** A keyed number of an object at a tick; undefined where it has no keys. */
export const numberAt = (item: SceneObject, name: string, tick: Ticks): number | undefined =>
	evaluateKeys(item.keys.numbers?.[name] ?? [], tick, (a, b, t) => a + (b - a) * t);

/** The object's pose relative to its parent: its keys where it has any, else where it stands. */
export const localPose = (item: SceneObject, tick: Ticks): Pose => ({
	translation: evaluateKeys(item.keys.translation, tick, vec3.mix) ?? item.translation,
	rotation: evaluateKeys(item.keys.rotation, tick, slerp) ?? item.rotation,
});

/** The object's pose in the world at a tick; parents' scale moves children, turning included. */
export function worldPose(shot: Shot, id: Id, tick: Ticks): Pose {
	const item = shot.objects[id]!;
	const local = localPose(item, tick);
	if (item.parent === null) return local;
	const parent = worldPose(shot, item.parent, tick);
	const parentScale = worldScale(shot, item.parent);
	return {
		translation: vec3.add(parent.translation, rotate(parent.rotation, vec3.multiply(local.translation, parentScale))),
		rotation: compose(parent.rotation, local.rotation),
	};
}

/** The scale that the object's mesh is evaluated at. `shearProblem` tells where this is not exact. */
export function worldScale(shot: Shot, id: Id): Vec3 {
	const item = shot.objects[id]!;
	return item.parent === null ? item.scale : vec3.multiply(worldScale(shot, item.parent), item.scale);
}

/** A sentence where a parent's uneven scale would shear this turned object; else undefined. */
export function shearProblem(shot: Shot, id: Id): string | undefined {
	const item = shot.objects[id]!;
	if (item.parent === null) return undefined;
	const s = worldScale(shot, item.parent);
	const even = Math.abs(s[0] - s[1]) < 1e-9 * Math.abs(s[0]) && Math.abs(s[1] - s[2]) < 1e-9 * Math.abs(s[1]);
	const turned = Math.abs(item.rotation[3]) < 1 - 1e-9 || item.keys.rotation.length > 0;
	return even || !turned
		? undefined
		: `“${item.name}” is turned under a parent that is scaled unevenly, which would shear it. Scale the object itself, or make its parent's scale even.`;
}

/** Whether this object or one of its parents moves by keys. */
export function moves(shot: Shot, id: Id): boolean {
	const item = shot.objects[id]!;
	return isKeyed(item) || (item.parent !== null && moves(shot, item.parent));
}

function evaluateKeys<T>(keys: readonly Key<T>[], tick: Ticks, between: (a: T, b: T, t: number) => T): T | undefined {
	if (keys.length === 0) return undefined;
	if (tick <= keys[0]!.tick) return keys[0]!.value;
	for (let i = 1; i < keys.length; i++) {
		const right = keys[i]!;
		if (tick >= right.tick) continue;
		const left = keys[i - 1]!;
		return between(left.value, right.value, ease(left.easing, (tick - left.tick) / (right.tick - left.tick)));
	}
	return keys[keys.length - 1]!.value;
}

/** `eased` is the smoothstep 3t² − 2t³: no speed at either key. */
function ease(easing: Easing, t: number): number {
	if (easing === "stepped") return 0;
	return easing === "eased" ? t * t * (3 - 2 * t) : t;
}
