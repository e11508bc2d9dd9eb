import type { Vec3 } from "../maths";
import { bounds, type Mesh } from "../mesh";
import { changesShape, meshAt } from "../shaping";
import type { Id, Shot, Ticks } from "../shot";
import type { LinkedObject } from "./links";

/** Whether links show in an object: broken ones and copies stay as they are; what simulates moves by itself. */
export const followsLinks = (shot: Shot, id: Id): boolean =>
	shot.objects[id]?.source.kind === "shape" && (shot.bodies[id]?.kind ?? "none") === "none" && isWhole(shot, id);

/** Whether an object's shape goes by its own keys: what is broken, or moves by itself, stays as it is at the first frame. */
export const followsShapeKeys = (shot: Shot, id: Id): boolean =>
	changesShape(shot, id) &&
	(shot.objects[id]?.source.kind === "shape" || shot.objects[id]?.source.kind === "mesh") &&
	(shot.bodies[id]?.kind ?? "none") !== "active" &&
	isWhole(shot, id);

const isWhole = (shot: Shot, id: Id): boolean => !Object.values(shot.fractures).some(({ object }) => object === id);

/** What an object is where no link changes it. */
export const UNLINKED: LinkedObject = { parameters: undefined, moved: [0, 0, 0] satisfies Vec3, keeps: "middle" };

/**
 * The object's mesh in its own frame with the numbers that links and keys give it at a tick; one of its ends stays where
 * it would be without the links. `straight`: see `meshAt`.
 */
export function changedMesh(shot: Shot, id: Id, { parameters, keeps }: LinkedObject, tick: Ticks, straight?: Mesh): Mesh {
	const mesh = meshAt(shot, id, tick, straight, parameters);
	if (!parameters || keeps === "middle") return mesh;
	const was = bounds(meshAt(shot, id, tick, straight));
	const now = bounds(mesh);
	const lift = keeps === "top" ? was.max[1] - now.max[1] : was.min[1] - now.min[1];
	const positions = mesh.positions.slice();
	for (let v = 1; v < positions.length; v += 3) positions[v]! += lift;
	return { ...mesh, positions };
}
