import { bounds, transformMesh } from "../mesh";
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
		if (before === undefined || Math.abs(before) > TOUCHES) return;
		const after = lowestOf(shot.objects[id]);
		if (after === undefined) return;
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
	return bounds(transformMesh(buildShape(shape, item.source.parameters, item.source.texts), item)).min[1];
}
