import { rotate, type Vec3 } from "../maths";
import { buildShape, shapeById } from "../shapes";
import type { Command, Id, SceneObject } from "../shot";

/** What is no farther from height 0 stands on it. m */
const TOUCHES = 1e-5;

/** Meshes are single precision: what is kept of a height. */
const DIGITS = 6;

/** A change of an object's sizes that keeps its lowest point at height 0 where it was there: what stands goes on standing. */
export const keepStanding = (id: Id, change: Command): Command => ({
	name: change.name,
	apply: (shot) => {
		const before = lowestOf(shot.objects[id]);
		change.apply(shot);
		const after = lowestOf(shot.objects[id]);
		if (before === undefined || after === undefined || Math.abs(before) > TOUCHES) return;
		const item = shot.objects[id]!;
		const [x, y, z] = item.translation;
		item.translation = [x, Number((y - after).toFixed(DIGITS)), z];
	},
});

/** Height of the lowest point of a shape that stands for itself, m; undefined for what hangs on others, goes by keys or is ground. */
function lowestOf(item: SceneObject | undefined): number | undefined {
	if (item?.source.kind !== "shape" || item.parent !== null || item.keys.translation.length > 0 || item.bend) return undefined;
	const shape = shapeById(item.source.shape);
	if (!shape || shape.ground || shape.endless) return undefined;
	const { positions } = buildShape(shape, item.source.parameters, item.source.texts);
	const up = rotate([-item.rotation[0], -item.rotation[1], -item.rotation[2], item.rotation[3]], [0, 1, 0]);
	const along: Vec3 = [up[0] * item.scale[0], up[1] * item.scale[1], up[2] * item.scale[2]];
	let lowest = Number.POSITIVE_INFINITY;
	for (let v = 0; v < positions.length; v += 3)
		lowest = Math.min(lowest, along[0] * positions[v]! + along[1] * positions[v + 1]! + along[2] * positions[v + 2]!);
	return item.translation[1] + lowest;
}
