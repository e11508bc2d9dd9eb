import { worldPose } from "@rubble/core/animation";
import { rotate, type Vec3, vec3 } from "@rubble/core/maths";
import type { Shot } from "@rubble/core/shot";
import type { WorkbenchState } from "../store/store";

/** Lines of an object's frame in the world, where the object stands at the start. */
export function guideLines(shot: Shot, { object, lines }: NonNullable<WorkbenchState["guides"]>): Vec3[][] {
	if (!shot.objects[object]) return [];
	const { translation, rotation } = worldPose(shot, object, 0);
	return lines.map((line) =>
		Array.from({ length: line.length / 3 }, (_, i) =>
			vec3.add(translation, rotate(rotation, [line[3 * i]!, line[3 * i + 1]!, line[3 * i + 2]!])),
		),
	);
}
