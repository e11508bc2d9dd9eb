import { worldScale } from "../animation";
import type { Vec3 } from "../maths";
import { bounds, type Mesh, transformMesh } from "../mesh";
import { buildShape, shapeById } from "../shapes";
import type { Id, Shot } from "../shot";
import type { LinkedObject } from "./links";

/** Whether links show in an object: broken ones and copies stay as they are; what simulates moves by itself. */
export const followsLinks = (shot: Shot, id: Id): boolean =>
	shot.objects[id]?.source.kind === "shape" &&
	(shot.bodies[id]?.kind ?? "none") === "none" &&
	!Object.values(shot.fractures).some(({ object }) => object === id);

/** The object's mesh in its own frame with the numbers that links gave it; one of its ends stays where it was. */
export function linkedMesh(shot: Shot, id: Id, { parameters, keeps }: LinkedObject): Mesh {
	const item = shot.objects[id]!;
	const source = item.source as Extract<typeof item.source, { kind: "shape" }>;
	const shape = shapeById(source.shape)!;
	const build = (values: Readonly<Record<string, number>>) => {
		const mesh = buildShape(shape, values, source.texts);
		const framed = item.frame
			? transformMesh(mesh, { scale: item.frame.scale, translation: item.frame.pivot.map((v) => -v) as unknown as Vec3 })
			: mesh;
		return transformMesh(framed, { scale: worldScale(shot, id) });
	};
	const mesh = build(parameters ?? source.parameters);
	const was = bounds(build(source.parameters));
	const now = bounds(mesh);
	const lift = keeps === "top" ? was.max[1] - now.max[1] : keeps === "bottom" ? was.min[1] - now.min[1] : 0;
	const positions = mesh.positions.slice();
	for (let v = 1; v < positions.length; v += 3) positions[v]! += lift;
	return { ...mesh, positions };
}
