import { methodById, planarUv } from "../fracture";
import { type Mesh, transformMesh } from "../mesh";
import { type AssetRef, fractureOf, type Shot } from "../shot";
import { type Body, materialOf } from "./build";

/** A picture on the outside faces of a body. */
export interface BodyTexture {
	readonly picture: AssetRef;
	/** Metres that the picture covers; undefined where the mesh's own coordinates say where it lies. */
	readonly size: number | undefined;
}

/** The picture that a body was broken by, where it is shown on the front; else its material's. */
export function textureOf(shot: Shot, body: Pick<Body, "object" | "source" | "origin" | "mesh">): BodyTexture | undefined {
	const fracture = body.origin === "piece" ? shot.fractures[fractureOf(shot, body.object) ?? ""] : undefined;
	const method = methodById(fracture?.method ?? "");
	for (const [name, spec] of Object.entries(method?.options ?? {})) {
		const picture = fracture!.options[name];
		if (spec.kind === "picture" && typeof picture === "string" && (fracture!.options.paint ?? "picture") === "picture")
			return { picture: picture as AssetRef, size: undefined };
	}
	const { texture } = materialOf(shot, body);
	// Opened meshes may bring coordinates that somebody has laid with care.
	const laid = shot.objects[body.source]!.source.kind === "mesh" && body.mesh.uv.length > 0;
	return texture && { picture: texture.picture, size: laid ? undefined : texture.size };
}

/** Every picture that bodies wear, each once. */
export const picturesOf = (shot: Shot, bodies: readonly Body[]): AssetRef[] => [
	...new Set(bodies.flatMap((body) => textureOf(shot, body)?.picture ?? [])),
];

/**
 * The body's mesh with texture coordinates (u to the right, v down, 1 is the whole picture) where it wears a picture:
 * its own, or places in its object seen along the axis that each triangle faces most, so that a picture goes on from
 * piece to piece.
 */
export function texturedMesh(body: Pick<Body, "mesh" | "offset">, texture: BodyTexture | undefined): Mesh {
	const { mesh, offset } = body;
	if (!texture || texture.size === undefined) return mesh;
	const uv = planarUv(transformMesh(mesh, { translation: offset }));
	for (let i = 0; i < uv.length; i++) uv[i]! *= (i % 2 === 0 ? 1 : -1) / texture.size;
	return { ...mesh, uv };
}
