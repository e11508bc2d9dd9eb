import type { Material } from "@rubble/core/shot";
import type { Color, Intersection, Matrix4, Object3D, Raycaster, Sphere } from "three";
import { MeshStandardMaterial } from "three";
import type { Drawing } from "~/workers/messages";

/** The material of what is outside, and of what a fracture has laid open. */
export interface Look {
	readonly outside: Material;
	readonly inside: Material;
}

/** All bodies of one object as the view draws them. */
export interface Batch {
	readonly drawing: Drawing;
	readonly root: Object3D;
	/** One look per mesh of the drawing. */
	readonly setLooks: (looks: readonly Look[]) => void;
	readonly setMatrix: (body: number, matrix: Matrix4) => void;
	readonly getMatrix: (body: number, into: Matrix4) => void;
	readonly setColour: (body: number, colour: Color) => void;
	/** The sphere around the body's mesh, in its frame; false where it has none. */
	readonly sphereOf: (body: number, into: Sphere) => boolean;
	readonly pick: (raycaster: Raycaster) => { readonly body: number; readonly hit: Intersection } | undefined;
	readonly dispose: () => void;
}

/** Vertex colours carry the material, outside and inside; the body's colour tints both. */
export function paintVertices(
	{ inside, vertexStart }: Drawing,
	mesh: number,
	{ outside, inside: within }: Look,
	colour: Color,
	write: (vertex: number, r: number, g: number, b: number) => void,
): void {
	const out = colour.clone().set(outside.colour);
	const open = colour.clone().set(within.colour);
	for (let v = vertexStart[mesh]!; v < vertexStart[mesh + 1]!; v++) {
		const { r, g, b } = inside[v] === 1 ? open : out;
		write(v, r, g, b);
	}
}

export const makeMaterial = (): MeshStandardMaterial => new MeshStandardMaterial({ vertexColors: true });

/** Everything of a look but its colours. */
export function dress(material: MeshStandardMaterial, { roughness, metalness, opacity }: Material): void {
	material.roughness = roughness;
	material.metalness = Math.min(metalness, 0.35); // nothing to mirror here but a plain backdrop
	material.opacity = opacity;
	material.transparent = opacity < 1;
	material.depthWrite = opacity >= 1;
}
