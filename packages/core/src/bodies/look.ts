import { type CrackTime, type InsideOptions, insideOptions, methodById, planarUv, roughen } from "../fracture";
import { type Mesh, transformMesh } from "../mesh";
import { type AssetRef, fractureOf, type Id, optionDefaults, type Shot } from "../shot";
import type { Body } from "./build";
import { insideMaterialOf, materialOf } from "./material";

/** A picture on faces of a body. */
export interface BodyPicture {
	readonly picture: AssetRef;
	/** Metres that the picture covers; undefined where the mesh's own coordinates say where it lies. */
	readonly size: number | undefined;
}

/** What a body looks like beyond its mesh; nothing of it collides or weighs. */
export interface BodyLook {
	readonly outside: BodyPicture | undefined;
	readonly inside: BodyPicture | undefined;
	readonly rough: InsideOptions | undefined;
}

/** On the outside the picture that it was broken by, where that is shown on the front, else its material's; within, that of the inside material. */
export function lookOf(shot: Shot, body: Pick<Body, "object" | "source" | "origin" | "mesh">): BodyLook {
	const fracture = body.origin === "piece" ? shot.fractures[fractureOf(shot, body.object) ?? ""] : undefined;
	const { texture } = insideMaterialOf(shot, body);
	const rough = fracture && insideOptions(fracture.options);
	return {
		outside: paintedBy(fracture) ?? outsidePicture(shot, body),
		inside: fracture && texture && { picture: texture.picture, size: texture.size },
		rough: rough && rough.rough > 0 ? rough : undefined,
	};
}

function paintedBy(fracture: Shot["fractures"][Id] | undefined): BodyPicture | undefined {
	for (const [name, spec] of Object.entries(methodById(fracture?.method ?? "")?.options ?? {})) {
		const picture = fracture!.options[name];
		if (spec.kind === "picture" && typeof picture === "string" && (fracture!.options.paint ?? "picture") === "picture")
			return { picture: picture as AssetRef, size: undefined };
	}
	return undefined;
}

function outsidePicture(shot: Shot, body: Pick<Body, "source" | "mesh">): BodyPicture | undefined {
	const { texture } = materialOf(shot, body);
	// Opened meshes may bring coordinates that somebody has laid with care.
	const laid = shot.objects[body.source]!.source.kind === "mesh" && body.mesh.uv.length > 0;
	return texture && { picture: texture.picture, size: laid ? undefined : texture.size };
}

/** The picture that bodies take their colours from; undefined where they do not. */
export const colouringPicture = ({ colouring }: Shot): AssetRef | undefined =>
	colouring?.by === "picture" ? colouring.picture?.picture : undefined;

/** Every picture that bodies wear or take their colours from, each once. */
export const picturesOf = (shot: Shot, bodies: readonly Body[]): AssetRef[] => [
	...new Set([
		...[colouringPicture(shot) ?? []].flat(),
		...bodies.flatMap((body) => {
			const { outside, inside } = lookOf(shot, body);
			return [outside, inside].flatMap((worn) => worn?.picture ?? []);
		}),
	]),
];

/**
 * The body's mesh as it is drawn and written: rough where it was laid open, and with texture coordinates (u to the
 * right, v down, 1 is the whole picture) where it wears pictures: its own, or places in its object seen along the axis
 * that each triangle faces most, so that a picture goes on from piece to piece.
 */
export function drawnMesh(body: Pick<Body, "mesh" | "offset" | "turn" | "opening">, { outside, inside, rough }: BodyLook): Mesh {
	// Beside a crack the faces are as the crack has made them, and have to shut again.
	const mesh = rough && !body.opening ? roughen(body.mesh, rough, body) : body.mesh;
	const own = outside && outside.size === undefined;
	if ((!outside || own) && !inside) return mesh;
	const planar = planarUv(transformMesh(mesh, { translation: body.offset }));
	const uv = own && mesh.uv.length > 0 ? mesh.uv.slice() : new Float32Array(planar.length);
	for (let f = 0; f < planar.length / 6; f++) {
		const size = mesh.inside[f] === 1 ? inside?.size : outside?.size;
		if (size === undefined) continue;
		for (let i = 6 * f; i < 6 * f + 6; i++) uv[i] = (planar[i]! * (i % 2 === 0 ? 1 : -1)) / size;
	}
	return { ...mesh, uv };
}

/** When and how far the crack of a broken object is open; undefined where it has none. */
export function crackOf(shot: Shot, object: Id): CrackTime | undefined {
	const fracture = shot.fractures[fractureOf(shot, object) ?? ""];
	const method = methodById(fracture?.method ?? "");
	return fracture && method?.crack?.({ ...optionDefaults(method), ...fracture.options });
}
