import {
	type Accessor,
	Document,
	type Material as GltfMaterial,
	type Mesh as GltfMesh,
	type Node,
	type Texture,
	WebIO,
} from "@gltf-transform/core";
import { type CrackTime, openShare } from "../fracture";
import { type DrawMesh, drawMesh, type Mesh } from "../mesh";
import type { Material } from "../shot";
import type { ExportItem, ExportScene, ItemOpening, TakeFormat } from "./types";

/** glTF binary: objects as groups, pieces as named nodes under them, materials, and one animation in seconds. */
export const glb: TakeFormat = {
	id: "glb",
	label: "GLB",
	extension: "glb",
	mime: "model/gltf-binary",
	help: "Meshes, materials and keys in one file that most programs open",
	write: async (scene) => new WebIO().writeBinary(buildDocument(scene)),
};

function buildDocument(scene: ExportScene): Document {
	const document = new Document();
	document.getRoot().getAsset().generator = "Mighty Rubble";
	const buffer = document.createBuffer();
	const root = document.createNode(scene.name || "Shot");
	document.createScene(scene.name || "Shot").addChild(root);
	const groups = new Map<string, Node>();
	const materials = new Map<Material, Map<Uint8Array | undefined, GltfMaterial>>();
	const textures = new Map<Uint8Array, Texture>();
	const materialOf = (material: Material, picture?: Uint8Array) => {
		const looks = materials.get(material) ?? new Map<Uint8Array | undefined, GltfMaterial>();
		materials.set(material, looks);
		const known = looks.get(picture);
		if (known) return known;
		const made = makeMaterial(document, material);
		if (picture) {
			const texture = textures.get(picture) ?? makeTexture(document, picture, `Picture ${textures.size + 1}`);
			textures.set(picture, texture);
			// The picture brings its own colours.
			made.setBaseColorTexture(texture).setBaseColorFactor([1, 1, 1, material.opacity]);
		}
		looks.set(picture, made);
		return made;
	};
	// Copies share one mesh.
	const meshes = new Map<Mesh, { outside: Material; inside: Material; made: GltfMesh }[]>();
	const meshOf = (item: ExportItem) => {
		const looks = meshes.get(item.mesh) ?? [];
		meshes.set(item.mesh, looks);
		const known = looks.find(({ outside, inside }) => outside === item.outside && inside === item.inside);
		if (known) return known.made;
		const made = makeGltfMesh(document, item, scene.firstFrame, materialOf);
		looks.push({ outside: item.outside, inside: item.inside, made });
		return made;
	};
	const nodes = scene.items.map((item) => {
		let group = groups.get(item.group);
		if (!group && item.path !== item.group) {
			group = document.createNode(item.group);
			root.addChild(group);
			groups.set(item.group, group);
		}
		const node = document
			.createNode(item.path)
			.setTranslation([...item.translation])
			.setRotation([...item.rotation]);
		(group ?? root).addChild(node);
		if (item.scale !== 1) node.setScale([item.scale, item.scale, item.scale]);
		if (item.mesh.triangles.length > 0) node.setMesh(meshOf(item));
		return node;
	});
	if (scene.baked) animate(document, scene, nodes);
	openCracks(document, scene, nodes);
	for (const accessor of document.getRoot().listAccessors()) accessor.setBuffer(buffer);
	return document;
}

function makeTexture(document: Document, bytes: Uint8Array, name: string): Texture {
	return document
		.createTexture(name)
		.setImage(bytes as Uint8Array<ArrayBuffer>)
		.setMimeType(bytes[0] === 0xff ? "image/jpeg" : "image/png");
}

function makeMaterial(document: Document, { name, colour, roughness, metalness, opacity }: Material): GltfMaterial {
	const channel = (at: number) => srgbToLinear(Number.parseInt(colour.slice(at, at + 2), 16) / 255);
	const made = document
		.createMaterial(name)
		.setBaseColorFactor([channel(1), channel(3), channel(5), opacity])
		.setRoughnessFactor(roughness)
		.setMetallicFactor(metalness);
	return opacity < 1 ? made.setAlphaMode("BLEND") : made;
}

/** The sRGB transfer function's power 2.4, by square roots and a cube: x^2.4 = x² · x^0.4; exact enough for 8 bits. */
function srgbToLinear(value: number): number {
	if (value <= 0.04045) return value / 12.92;
	const x = (value + 0.055) / 1.055;
	// x^0.4 = (x²)^(1/5), by Newton's iteration.
	let root = x;
	for (let i = 0; i < 40; i++) root -= (root ** 5 - x * x) / (5 * root ** 4);
	return Number((x * x * root).toPrecision(7));
}

function makeGltfMesh(
	document: Document,
	item: ExportItem,
	firstFrame: number,
	materialOf: (material: Material, picture?: Uint8Array) => GltfMaterial,
) {
	const drawn = drawMesh(item.mesh);
	const attribute = (array: Float32Array, type: "VEC2" | "VEC3") =>
		document
			.createAccessor()
			.setArray(array as Float32Array<ArrayBuffer>)
			.setType(type);
	const mesh = document.createMesh(item.path);
	const position = attribute(drawn.positions, "VEC3");
	const normal = attribute(drawn.normals, "VEC3");
	const targets = item.opening
		? crackFrames(item.opening.time, firstFrame).map((frame) => attribute(departure(drawn, item.opening!, frame), "VEC3"))
		: [];
	if (targets.length > 0) mesh.setWeights(targets.map((_, n) => (n === 0 ? 1 : 0)));
	const uv = drawn.uv.length > 0 ? attribute(drawn.uv, "VEC2") : undefined;
	const part = (indices: Uint32Array, material: GltfMaterial) => {
		if (indices.length === 0) return;
		const small = drawn.positions.length / 3 < 65_535 ? Uint16Array.from(indices) : indices.slice();
		const primitive = document
			.createPrimitive()
			.setIndices(
				document
					.createAccessor()
					.setArray(small as Uint16Array<ArrayBuffer>)
					.setType("SCALAR"),
			)
			.setAttribute("POSITION", position)
			.setAttribute("NORMAL", normal)
			.setMaterial(material);
		if (uv) primitive.setAttribute("TEXCOORD_0", uv);
		for (const [n, target] of targets.entries())
			primitive.addTarget(document.createPrimitiveTarget(`${item.path} ${n + 1}`).setAttribute("POSITION", target));
		mesh.addPrimitive(primitive);
	};
	part(drawn.indices.subarray(0, drawn.outsideIndices), materialOf(item.outside, item.picture));
	part(drawn.indices.subarray(drawn.outsideIndices), materialOf(item.inside, item.insidePicture));
	return mesh;
}

/** A crack is written as shapes at this many frames at most, blended between. */
const MOST_SHAPES = 12;

/** Frames of a crack's shapes, from the whole solid on; the last frame is the mesh itself. */
function crackFrames({ first, last }: CrackTime, sceneFirst: number): number[] {
	const begin = Math.max(first, sceneFirst);
	const count = Math.max(0, Math.min(MOST_SHAPES, last - begin));
	return Array.from({ length: count }, (_, n) => begin + Math.round(((last - begin) * n) / count));
}

/** How far each vertex is from where it ends up, 3 per vertex. */
function departure({ source }: DrawMesh, { closed, reached, time }: ItemOpening, frame: number): Float32Array {
	const state = time.at(frame);
	return Float32Array.from({ length: 3 * source.length }, (_, i) => {
		const v = source[Math.floor(i / 3)]!;
		return (1 - openShare(reached[v]!, state)) * closed[3 * v + (i % 3)]!;
	});
}

/** Weights of the shapes over time: one after the other, then none. */
function openCracks(document: Document, scene: ExportScene, nodes: readonly Node[]): void {
	scene.items.forEach((item, n) => {
		if (!item.opening) return;
		const frames = [...crackFrames(item.opening.time, scene.firstFrame), item.opening.time.last];
		const shapes = frames.length - 1;
		if (shapes === 0) return;
		const accessor = (array: Float32Array) =>
			document
				.createAccessor()
				.setArray(array as Float32Array<ArrayBuffer>)
				.setType("SCALAR");
		const weights = Float32Array.from({ length: frames.length * shapes }, (_, i) => (Math.floor(i / shapes) === i % shapes ? 1 : 0));
		const sampler = document
			.createAnimationSampler()
			.setInput(accessor(Float32Array.from(frames, (frame) => (frame - scene.firstFrame) / scene.fps)))
			.setOutput(accessor(weights))
			.setInterpolation("LINEAR");
		const animation = document.getRoot().listAnimations()[0] ?? document.createAnimation(scene.name || "Shot");
		animation
			.addSampler(sampler)
			.addChannel(document.createAnimationChannel().setSampler(sampler).setTargetNode(nodes[n]!).setTargetPath("weights"));
	});
}

function animate(document: Document, scene: ExportScene, nodes: readonly Node[]): void {
	const animation = document.createAnimation(scene.name || "Shot");
	// Tracks with keys at the same frames share one list of times.
	const times = new Map<string, Accessor>();
	scene.items.forEach((item, n) => {
		const track = scene.baked!.tracks[item.track];
		if (!track) return;
		const key = track.frames.join();
		let input = times.get(key);
		if (!input) {
			const seconds = Float32Array.from(track.frames, (frame) => (frame - scene.firstFrame) / scene.fps);
			input = document.createAccessor().setArray(seconds).setType("SCALAR");
			times.set(key, input);
		}
		const channel = (values: Float32Array, type: "VEC3" | "VEC4", path: "translation" | "rotation") => {
			const sampler = document
				.createAnimationSampler()
				.setInput(input)
				.setOutput(
					document
						.createAccessor()
						.setArray(values.slice() as Float32Array<ArrayBuffer>)
						.setType(type),
				)
				.setInterpolation("LINEAR");
			animation
				.addSampler(sampler)
				.addChannel(document.createAnimationChannel().setSampler(sampler).setTargetNode(nodes[n]!).setTargetPath(path));
		};
		channel(track.translations, "VEC3", "translation");
		channel(track.rotations, "VEC4", "rotation");
	});
}
