import {
	type Accessor,
	type Animation,
	Document,
	type Material as GltfMaterial,
	type Mesh as GltfMesh,
	type Node,
	type Texture,
	WebIO,
} from "@gltf-transform/core";
import { linearOf } from "../colouring";
import { type DrawMesh, drawMesh, type Mesh } from "../mesh";
import type { Material } from "../shot";
import type { ChangingShape } from "./changing";
import { type Dress, dressOf } from "./dress";
import { pictureExtension } from "./picture";
import { presence } from "./posed";
import type { ExportItem, ExportScene, OneFileFormat } from "./types";

/** glTF binary: objects as groups, pieces as named nodes under them, materials, and one animation in seconds. */
export const glb: OneFileFormat = {
	id: "glb",
	label: "GLB",
	extension: "glb",
	mime: "model/gltf-binary",
	colours: "first",
	help: "Meshes, materials and keys in one file that most programs open",
	options: {},
	write: async (scene) => new WebIO().writeBinary(buildDocument(scene)),
};

export function buildDocument(scene: ExportScene): Document {
	const document = new Document();
	document.getRoot().getAsset().generator = "Mighty Rubble";
	const buffer = document.createBuffer();
	const root = document.createNode(scene.name || "Shot");
	document.createScene(scene.name || "Shot").addChild(root);
	const groups = new Map<string, Node>();
	const materialOf = makeMaterials(document);
	// Copies share one mesh.
	const meshes = new Map<Mesh, { outside: Material; inside: Material; made: GltfMesh }[]>();
	const meshOf = (item: ExportItem) => {
		const looks = meshes.get(item.mesh) ?? [];
		meshes.set(item.mesh, looks);
		// Colours of a gradient are in the vertices, so each item has a mesh of its own.
		const known = item.colourAt ? undefined : looks.find(({ outside, inside }) => outside === item.outside && inside === item.inside);
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
	if (scene.tracks.length > 0) animate(document, scene, nodes);
	changeShapes(document, scene, nodes);
	for (const accessor of document.getRoot().listAccessors()) accessor.setBuffer(buffer);
	return document;
}

/** Materials by what they are and what gives them their colours, each once. */
export function makeMaterials(document: Document): (material: Material, dress: Dress) => GltfMaterial {
	const materials = new Map<Material, Map<Dress, GltfMaterial>>();
	const textures = new Map<Uint8Array, Texture>();
	return (material, dress) => {
		const looks = materials.get(material) ?? new Map<Dress, GltfMaterial>();
		materials.set(material, looks);
		const known = looks.get(dress);
		if (known) return known;
		const made = makeMaterial(document, material);
		// All of them are multiplied: what brings its own colours must not be tinted by the material's.
		if (dress) made.setBaseColorFactor([1, 1, 1, material.opacity]);
		if (dress === "gradient") made.setName(`${material.name}, coloured`);
		else if (dress) {
			const texture = textures.get(dress) ?? makeTexture(document, dress, `Picture ${textures.size + 1}`);
			textures.set(dress, texture);
			made.setBaseColorTexture(texture);
		}
		looks.set(dress, made);
		return made;
	};
}

function makeTexture(document: Document, bytes: Uint8Array, name: string): Texture {
	return document
		.createTexture(name)
		.setImage(bytes as Uint8Array<ArrayBuffer>)
		.setMimeType(pictureExtension(bytes) === "jpg" ? "image/jpeg" : "image/png");
}

function makeMaterial(document: Document, { name, colour, roughness, metalness, opacity }: Material): GltfMaterial {
	const made = document
		.createMaterial(name)
		.setBaseColorFactor([...linearOf(colour), opacity])
		.setRoughnessFactor(roughness)
		.setMetallicFactor(metalness);
	return opacity < 1 ? made.setAlphaMode("BLEND") : made;
}

function makeGltfMesh(
	document: Document,
	item: ExportItem,
	firstFrame: number,
	materialOf: (material: Material, dress: Dress) => GltfMaterial,
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
	const targets = shapesOf(item).map(({ mesh: shape }) => attribute(departure(drawn, item.mesh, shape), "VEC3"));
	if (targets.length > 0) mesh.setWeights(targets.map((_, n) => (n === 0 && shapesOf(item)[0]!.first ? 1 : 0)));
	const rgb = item.colourAt?.(firstFrame);
	const colours =
		rgb &&
		attribute(
			Float32Array.from({ length: drawn.positions.length }, (_, i) => rgb[i % 3]!),
			"VEC3",
		);
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
		if (colours) primitive.setAttribute("COLOR_0", colours);
		if (uv) primitive.setAttribute("TEXCOORD_0", uv);
		for (const [n, target] of targets.entries())
			primitive.addTarget(document.createPrimitiveTarget(`${item.path} ${n + 1}`).setAttribute("POSITION", target));
		mesh.addPrimitive(primitive);
	};
	part(drawn.indices.subarray(0, drawn.outsideIndices), materialOf(item.outside, dressOf(item, false)));
	part(drawn.indices.subarray(drawn.outsideIndices), materialOf(item.inside, dressOf(item, true)));
	return mesh;
}

/** The shapes that differ from the mesh itself; `key` is the place among the key frames. */
function shapesOf({ changing, mesh }: ExportItem): { key: number; first: boolean; mesh: Mesh }[] {
	if (!changing) return [];
	return changing.frames
		.map((frame, key) => ({ key, first: key === 0, mesh: changing.meshAt(frame) }))
		.filter((shape) => shape.mesh.positions.some((v, i) => v !== mesh.positions[i]));
}

/** How far each vertex of a shape is from where the mesh has it, 3 per vertex. */
const departure = ({ source }: DrawMesh, mesh: Mesh, shape: Mesh): Float32Array =>
	Float32Array.from({ length: 3 * source.length }, (_, i) => {
		const at = 3 * source[Math.floor(i / 3)]! + (i % 3);
		return shape.positions[at]! - mesh.positions[at]!;
	});

/** Weights of the shapes over time, one after the other; none where it is the mesh itself. */
function changeShapes(document: Document, scene: ExportScene, nodes: readonly Node[]): void {
	scene.items.forEach((item, n) => {
		const shapes = shapesOf(item);
		if (shapes.length === 0) return;
		const { frames } = item.changing as ChangingShape;
		const accessor = (array: Float32Array) =>
			document
				.createAccessor()
				.setArray(array as Float32Array<ArrayBuffer>)
				.setType("SCALAR");
		const weights = Float32Array.from({ length: frames.length * shapes.length }, (_, i) =>
			shapes[i % shapes.length]!.key === Math.floor(i / shapes.length) ? 1 : 0,
		);
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

/** Sizes a node down to nothing while it is not there. */
function showWhileThere(document: Document, animation: Animation, scene: ExportScene, node: Node, item: ExportItem): void {
	const changes = presence(item, scene);
	if (changes.length === 0) return;
	const sampler = document
		.createAnimationSampler()
		.setInput(
			document
				.createAccessor()
				.setType("SCALAR")
				.setArray(Float32Array.from(changes, ({ frame }) => (frame - scene.firstFrame) / scene.fps)),
		)
		.setOutput(
			document
				.createAccessor()
				.setType("VEC3")
				.setArray(Float32Array.from(changes.flatMap(({ there }) => Array<number>(3).fill(there ? item.scale : 0)))),
		)
		.setInterpolation("STEP");
	animation
		.addSampler(sampler)
		.addChannel(document.createAnimationChannel().setSampler(sampler).setTargetNode(node).setTargetPath("scale"));
}

/** The tracks of a scene as one animation of its nodes, in seconds. */
export function animate(document: Document, scene: ExportScene, nodes: readonly Node[]): void {
	const animation = document.createAnimation(scene.name || "Shot");
	// Tracks with keys at the same frames share one list of times.
	const times = new Map<string, Accessor>();
	scene.items.forEach((item, n) => {
		const track = scene.tracks[item.track];
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
		showWhileThere(document, animation, scene, nodes[n]!, item);
	});
}
