import { worldPose, worldScale } from "../animation";
import { inverse, rotate, type Vec3, vec3 } from "../maths";
import type { Id, Shot, Ticks } from "../shot";

/** A test whether a place lies in a region at a tick; undefined where the object is none. */
export function regionAt(shot: Shot, id: Id, tick: Ticks): ((point: Vec3) => boolean) | undefined {
	const source = shot.objects[id]?.source;
	if (source?.kind !== "region") return undefined;
	const { translation, rotation } = worldPose(shot, id, tick);
	const back = inverse(rotation);
	const half = vec3.scale(worldScale(shot, id), 0.5).map((s) => 1 / Math.abs(s)) as unknown as Vec3;
	return (point) => {
		const [x, y, z] = vec3.multiply(rotate(back, vec3.subtract(point, translation)), half);
		return source.form === "ball" ? x * x + y * y + z * z <= 1 : Math.max(Math.abs(x), Math.abs(y), Math.abs(z)) <= 1;
	};
}

/** Whether a place lies in a region of this name (or part of a name) at the first frame. */
export function inRegions(shot: Shot, point: Vec3): (name: string) => boolean {
	return (name) =>
		Object.entries(shot.objects).some(
			([id, item]) => item.source.kind === "region" && item.name.toLowerCase().includes(name) && regionAt(shot, id, 0)!(point),
		);
}
