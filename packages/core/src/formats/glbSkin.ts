import { type Accessor, Document, type Node, WebIO } from "@gltf-transform/core";
import { rotate, type Vec3 } from "../maths";
import { drawMesh } from "../mesh";
import type { Material } from "../shot";
import { type Dress, dressOf } from "./dress";
import { animate, makeMaterials } from "./glb";
import type { ExportItem, ExportScene, OneFileFormat } from "./types";

/** glTF binary for game engines: one skinned mesh with a bone for each piece, drawn in one call for each material. */
export const glbSkin: OneFileFormat = {
	id: "glb-skin",
	label: "GLB, one skin",
	extension: "glb",
	mime: "model/gltf-binary",
	colours: "first",
	help: "One mesh with a bone for each piece, for game engines; cracks and linked shapes stay as at first",
	options: {},
	write: async (scene) => new WebIO().writeBinary(buildDocument(scene)),
};

/** What is drawn with one material: the sides of all items that wear it. */
interface Side {
	readonly material: Material;
	readonly dress: Dress;
	readonly parts: { readonly bone: number; readonly item: ExportItem; readonly inside: boolean }[];
}

function buildDocument(scene: ExportScene): Document {
	const document = new Document();
	document.getRoot().getAsset().generator = "Mighty Rubble";
	const buffer = document.createBuffer();
	const name = scene.name || "Shot";
	const root = document.createNode(name);
	const bones = scene.items.map((item) =>
		document
			.createNode(item.path)
			.setTranslation([...item.translation])
			.setRotation([...item.rotation]),
	);
	// Bones stand in the world, under a root that does not move.
	for (const bone of bones) root.addChild(bone);
	const skin = document.createSkin(name).setSkeleton(root);
	for (const bone of bones) skin.addJoint(bone);
	skin.setInverseBindMatrices(
		document
			.createAccessor()
			.setType("MAT4")
			.setArray(Float32Array.from(scene.items.flatMap(inverseOf))),
	);
	const materialOf = makeMaterials(document);
	const mesh = document.createMesh(name);
	for (const side of sidesOf(scene)) addSide(document, mesh, side, materialOf(side.material, side.dress), scene.firstFrame);
	const skinned: Node = document.createNode(`${name} mesh`).setMesh(mesh).setSkin(skin);
	document.createScene(name).addChild(root).addChild(skinned);
	if (scene.tracks.length > 0) animate(document, scene, bones);
	for (const accessor of document.getRoot().listAccessors()) accessor.setBuffer(buffer);
	return document;
}

/** Takes a vertex of the world at the first key into the item's frame; columns one after the other. */
function inverseOf({ translation, rotation: [x, y, z, w] }: ExportItem): number[] {
	const back = (v: Vec3): Vec3 => rotate([-x, -y, -z, w], v);
	const [a, b, c] = [back([1, 0, 0]), back([0, 1, 0]), back([0, 0, 1])];
	const t = back([-translation[0], -translation[1], -translation[2]]);
	return [...a, 0, ...b, 0, ...c, 0, ...t, 1];
}

function sidesOf({ items }: ExportScene): Side[] {
	const sides: Side[] = [];
	items.forEach((item, bone) => {
		for (const inside of [false, true]) {
			const [material, dress] = [inside ? item.inside : item.outside, dressOf(item, inside)];
			const known = sides.find((side) => side.material === material && side.dress === dress);
			const side = known ?? { material, dress, parts: [] };
			if (!known) sides.push(side);
			side.parts.push({ bone, item, inside });
		}
	});
	return sides;
}

function addSide(
	document: Document,
	mesh: ReturnType<Document["createMesh"]>,
	{ parts }: Side,
	material: ReturnType<ReturnType<typeof makeMaterials>>,
	firstFrame: number,
): void {
	const positions: number[] = [];
	const normals: number[] = [];
	const uv: number[] = [];
	const colours: number[] = [];
	const joints: number[] = [];
	const weights: number[] = [];
	const indices: number[] = [];
	for (const { bone, item, inside } of parts) {
		const drawn = drawMesh(item.mesh);
		const own = inside ? drawn.indices.subarray(drawn.outsideIndices) : drawn.indices.subarray(0, drawn.outsideIndices);
		const rgb = item.colourAt?.(firstFrame);
		const known = new Map<number, number>();
		for (const v of own) {
			let at = known.get(v);
			if (at === undefined) {
				at = joints.length / 4;
				known.set(v, at);
				const triple = (a: Float32Array): Vec3 => [a[3 * v]!, a[3 * v + 1]!, a[3 * v + 2]!];
				const placed = rotate(item.rotation, triple(drawn.positions).map((p) => p * item.scale) as unknown as Vec3);
				positions.push(...placed.map((p, k) => p + item.translation[k]!));
				normals.push(...rotate(item.rotation, triple(drawn.normals)));
				uv.push(drawn.uv[2 * v] ?? 0, drawn.uv[2 * v + 1] ?? 0);
				if (rgb) colours.push(...rgb);
				joints.push(bone, 0, 0, 0);
				weights.push(1, 0, 0, 0);
			}
			indices.push(at);
		}
	}
	if (indices.length === 0) return;
	const accessor = (array: Float32Array | Uint16Array | Uint32Array, type: "SCALAR" | "VEC2" | "VEC3" | "VEC4"): Accessor =>
		document
			.createAccessor()
			.setType(type)
			.setArray(array as Float32Array<ArrayBuffer>);
	const count = joints.length / 4;
	const primitive = document
		.createPrimitive()
		.setIndices(accessor(count < 65_535 ? Uint16Array.from(indices) : Uint32Array.from(indices), "SCALAR"))
		.setAttribute("POSITION", accessor(Float32Array.from(positions), "VEC3"))
		.setAttribute("NORMAL", accessor(Float32Array.from(normals), "VEC3"))
		.setAttribute("TEXCOORD_0", accessor(Float32Array.from(uv), "VEC2"))
		.setAttribute("JOINTS_0", accessor(Uint16Array.from(joints), "VEC4"))
		.setAttribute("WEIGHTS_0", accessor(Float32Array.from(weights), "VEC4"))
		.setMaterial(material);
	if (colours.length === 3 * count) primitive.setAttribute("COLOR_0", accessor(Float32Array.from(colours), "VEC3"));
	mesh.addPrimitive(primitive);
}
