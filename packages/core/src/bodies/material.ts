import type { Material, Shot } from "../shot";
import type { Body } from "./build";

export const materialOf = (shot: Shot, { source }: Pick<Body, "source">): Material => shot.materials[shot.objects[source]!.material]!;

/** The material of faces that a fracture laid open. */
export const insideMaterialOf = (shot: Shot, body: Pick<Body, "source">): Material => {
	const outside = materialOf(shot, body);
	return shot.materials[outside.inside ?? ""] ?? outside;
};
