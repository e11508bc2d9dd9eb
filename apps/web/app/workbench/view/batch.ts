import type { Material } from "@rubble/core/shot";
import type { Color, Intersection, Matrix4, Object3D, Raycaster, Sphere } from "three";
import { BufferAttribute, BufferGeometry, MeshStandardMaterial, RepeatWrapping, SRGBColorSpace, TextureLoader } from "three";
import { assetUrl } from "~/workers/assetUrl";
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
	{ inside, picture, vertexStart }: Drawing,
	mesh: number,
	{ outside, inside: within }: Look,
	colour: Color,
	write: (vertex: number, r: number, g: number, b: number) => void,
): void {
	// A picture brings its own colours.
	const out = colour.clone().set(picture ? "#ffffff" : outside.colour);
	const open = colour.clone().set(within.colour);
	for (let v = vertexStart[mesh]!; v < vertexStart[mesh + 1]!; v++) {
		const { r, g, b } = inside[v] === 1 ? open : out;
		write(v, r, g, b);
	}
}

/** The material of a drawing; where that wears a picture, it is on the outside faces alone. */
export function makeMaterial({ picture }: Drawing, onLoad: () => void): MeshStandardMaterial {
	const material = new MeshStandardMaterial({ vertexColors: true });
	if (!picture) return material;
	const texture = new TextureLoader().load(assetUrl(picture), onLoad);
	texture.flipY = false; // v runs down
	texture.colorSpace = SRGBColorSpace;
	texture.wrapS = texture.wrapT = RepeatWrapping;
	texture.anisotropy = 4;
	material.map = texture;
	material.onBeforeCompile = (shader) => {
		shader.vertexShader = shader.vertexShader.replace(
			"void main() {",
			"attribute float open;\nvarying float vOpen;\nvoid main() {\n\tvOpen = open;",
		);
		shader.fragmentShader = shader.fragmentShader
			.replace("void main() {", "varying float vOpen;\nvoid main() {")
			.replace("#include <map_fragment>", "diffuseColor.rgb *= mix(texture2D(map, vMapUv).rgb, vec3(1.0), vOpen);");
	};
	return material;
}

/** The attributes of one mesh of a drawing. */
export function makeGeometry(drawing: Drawing, mesh: number): BufferGeometry {
	const [v0, v1] = [drawing.vertexStart[mesh]!, drawing.vertexStart[mesh + 1]!];
	const geometry = new BufferGeometry();
	geometry.setAttribute("position", new BufferAttribute(drawing.positions.subarray(3 * v0, 3 * v1), 3));
	geometry.setAttribute("normal", new BufferAttribute(drawing.normals.subarray(3 * v0, 3 * v1), 3));
	geometry.setAttribute("color", new BufferAttribute(new Float32Array(3 * (v1 - v0)).fill(1), 3));
	if (drawing.picture) {
		geometry.setAttribute("uv", new BufferAttribute(drawing.uv.subarray(2 * v0, 2 * v1), 2));
		geometry.setAttribute("open", new BufferAttribute(Float32Array.from(drawing.inside.subarray(v0, v1)), 1));
	}
	geometry.setIndex(new BufferAttribute(drawing.indices.subarray(drawing.indexStart[mesh]!, drawing.indexStart[mesh + 1]!), 1));
	return geometry;
}

/** Everything of a look but its colours. */
export function dress(material: MeshStandardMaterial, { roughness, metalness, opacity }: Material): void {
	material.roughness = roughness;
	material.metalness = Math.min(metalness, 0.35); // nothing to mirror here but a plain backdrop
	material.opacity = opacity;
	material.transparent = opacity < 1;
	material.depthWrite = opacity >= 1;
}
