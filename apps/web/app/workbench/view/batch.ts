import type { AssetRef, Material } from "@rubble/core/shot";
import type { Color, Intersection, Matrix4, Object3D, Raycaster, Sphere, Texture } from "three";
import { BufferAttribute, BufferGeometry, FrontSide, MeshStandardMaterial, RepeatWrapping, SRGBColorSpace, TextureLoader } from "three";
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
	/** How far the crack beside its bodies is open; see `CrackTime` of the core. */
	readonly setCrack?: (state: { readonly tip: number; readonly width: number }) => void;
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
	{ inside, picture, insidePicture, vertexStart }: Drawing,
	mesh: number,
	{ outside, inside: within }: Look,
	colour: Color,
	write: (vertex: number, r: number, g: number, b: number) => void,
): void {
	// A picture brings its own colours.
	const out = colour.clone().set(picture ? "#ffffff" : outside.colour);
	const open = colour.clone().set(insidePicture ? "#ffffff" : within.colour);
	for (let v = vertexStart[mesh]!; v < vertexStart[mesh + 1]!; v++) {
		const { r, g, b } = inside[v] === 1 ? open : out;
		write(v, r, g, b);
	}
}

/** How far the cracks of a batch are open, as the shader reads it. */
export interface CrackUniforms {
	readonly crackTip: { value: number };
	readonly crackWidth: { value: number };
}

/** Behind its tip a crack widens as `openShare` of the core says. */
const OPENING = `
	float behind = crackTip * 1.35 - reached;
	float share = behind <= 0.0 ? 0.0 : crackWidth * min(1.0, sqrt(behind / 0.35));
	transformed += (1.0 - share) * closed;`;

/**
 * Faces between pieces that are seen edge-on run deeper within a pixel than it can tell, and would show through the seams of
 * what is still whole: they are drawn as lying about a pixel's worth of their slope farther away, on the same spot.
 */
const STEEP = `
	if (open > 0.5) {
		vec3 eye = normalize(mvPosition.xyz);
		float facing = max(0.02, abs(dot(normalize(transformedNormal), eye)));
		float pixel = -mvPosition.z * 0.003 / projectionMatrix[1][1];
		float back = min(0.1, pixel * sqrt(1.0 - facing * facing) / facing);
		gl_Position = projectionMatrix * vec4(mvPosition.xyz + eye * back, 1.0);
	}`;

/** Whether a fracture has laid faces open. */
const isBroken = ({ inside }: Drawing): boolean => inside.includes(1);

/**
 * The material of a drawing: its pictures on the outside and on the inside faces, and vertices that give way beside
 * cracks.
 */
export function makeMaterial(drawing: Drawing, onLoad: () => void): { material: MeshStandardMaterial; crack: CrackUniforms } {
	const { picture, insidePicture, closed } = drawing;
	const broken = isBroken(drawing);
	// Faces that look at the light cast the shadows: those inside a solid end where its outside begins and would draw its seams.
	const material = new MeshStandardMaterial({ vertexColors: true, shadowSide: FrontSide });
	const crack: CrackUniforms = { crackTip: { value: 1 }, crackWidth: { value: 1 } };
	const [outer, inner] = [picture, insidePicture].map((asset) => (asset ? loadPicture(asset, onLoad) : null));
	const pictured = picture !== undefined || insidePicture !== undefined;
	const cracked = closed.length > 0;
	if (!pictured && !cracked && !broken) return { material, crack };
	material.map = outer ?? inner ?? null;
	// The program's own text is what it is kept by: it must tell these apart.
	material.customProgramCacheKey = () => `${picture !== undefined} ${insidePicture !== undefined} ${cracked} ${broken}`;
	material.onBeforeCompile = (shader) => {
		if (cracked) {
			Object.assign(shader.uniforms, crack);
			shader.vertexShader = shader.vertexShader
				.replace(
					"void main() {",
					"attribute vec3 closed;\nattribute float reached;\nuniform float crackTip;\nuniform float crackWidth;\nvoid main() {",
				)
				.replace("#include <begin_vertex>", `#include <begin_vertex>${OPENING}`);
		}
		if (broken || pictured) shader.vertexShader = shader.vertexShader.replace("void main() {", "attribute float open;\nvoid main() {");
		if (broken) shader.vertexShader = shader.vertexShader.replace("#include <project_vertex>", `#include <project_vertex>${STEEP}`);
		if (!pictured) return;
		shader.uniforms.insideMap = { value: inner };
		shader.vertexShader = shader.vertexShader.replace("void main() {", "varying float vOpen;\nvoid main() {\n\tvOpen = open;");
		const texel = (map: string, there: boolean) => (there ? `texture2D(${map}, vMapUv).rgb` : "vec3(1.0)");
		shader.fragmentShader = shader.fragmentShader
			.replace("void main() {", "varying float vOpen;\nuniform sampler2D insideMap;\nvoid main() {")
			.replace(
				"#include <map_fragment>",
				`diffuseColor.rgb *= mix(${texel("map", outer !== null)}, ${texel("insideMap", inner !== null)}, vOpen);`,
			);
	};
	material.addEventListener("dispose", () => {
		outer?.dispose();
		inner?.dispose();
	});
	return { material, crack };
}

function loadPicture(asset: AssetRef, onLoad: () => void): Texture {
	const texture = new TextureLoader().load(assetUrl(asset), onLoad);
	texture.flipY = false; // v runs down
	texture.colorSpace = SRGBColorSpace;
	texture.wrapS = texture.wrapT = RepeatWrapping;
	texture.anisotropy = 4;
	return texture;
}

/** The attributes of one mesh of a drawing. */
export function makeGeometry(drawing: Drawing, mesh: number): BufferGeometry {
	const [v0, v1] = [drawing.vertexStart[mesh]!, drawing.vertexStart[mesh + 1]!];
	const geometry = new BufferGeometry();
	geometry.setAttribute("position", new BufferAttribute(drawing.positions.subarray(3 * v0, 3 * v1), 3));
	geometry.setAttribute("normal", new BufferAttribute(drawing.normals.subarray(3 * v0, 3 * v1), 3));
	geometry.setAttribute("color", new BufferAttribute(new Float32Array(3 * (v1 - v0)).fill(1), 3));
	if (drawing.closed.length > 0) {
		geometry.setAttribute("closed", new BufferAttribute(drawing.closed.subarray(3 * v0, 3 * v1), 3));
		geometry.setAttribute("reached", new BufferAttribute(drawing.reached.subarray(v0, v1), 1));
	}
	if (drawing.uv.length > 0 || isBroken(drawing))
		geometry.setAttribute("open", new BufferAttribute(Float32Array.from(drawing.inside.subarray(v0, v1)), 1));
	if (drawing.uv.length > 0) {
		geometry.setAttribute("uv", new BufferAttribute(drawing.uv.subarray(2 * v0, 2 * v1), 2));
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
