import { type Accessor, type Document, type Mesh as GltfMesh, type Node, WebIO } from "@gltf-transform/core";
import { EXTMeshoptCompression, KHRMeshQuantization } from "@gltf-transform/extensions";
import { MeshoptEncoder } from "meshoptimizer";
import { buildDocument } from "./glb";
import type { OneFileFormat } from "./types";

/**
 * The same as GLB with vertices in whole numbers (KHR_mesh_quantization: places to 1/32,767 of half a mesh's extent, normals
 * to 1/127, turns to 1/32,767) and packed buffers (EXT_meshopt_compression): for the web and game engines, which read both.
 */
export const glbSmall: OneFileFormat = {
	id: "glb-small",
	label: "GLB, packed",
	extension: "glb",
	mime: "model/gltf-binary",
	colours: "first",
	help: "Less than half the size, for the web and game engines that read meshopt compression",
	options: {},
	async write(scene) {
		await MeshoptEncoder.ready;
		const document = buildDocument(scene);
		quantise(document);
		document
			.createExtension(EXTMeshoptCompression)
			.setRequired(true)
			.setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.QUANTIZE });
		return new WebIO()
			.registerExtensions([EXTMeshoptCompression, KHRMeshQuantization])
			.registerDependencies({ "meshopt.encoder": MeshoptEncoder })
			.writeBinary(document);
	},
};

/** Whole numbers for all vertices and turns; meshes hang under nodes that size them back. */
function quantise(document: Document): void {
	document.createExtension(KHRMeshQuantization).setRequired(true);
	const homes = new Map(
		document
			.getRoot()
			.listMeshes()
			.map((mesh) => [mesh, quantiseMesh(mesh)]),
	);
	const carriers = new Map<Node, Node>();
	for (const node of document.getRoot().listNodes()) {
		const mesh = node.getMesh();
		const home = mesh && homes.get(mesh);
		if (!mesh || !home) continue;
		const carrier = document
			.createNode(`${node.getName()} mesh`)
			.setMesh(mesh)
			.setTranslation([...home.middle])
			.setScale([home.reach, home.reach, home.reach]);
		node.setMesh(null).addChild(carrier);
		carriers.set(node, carrier);
	}
	const turns = new Set<Accessor>();
	for (const animation of document.getRoot().listAnimations())
		for (const channel of animation.listChannels()) {
			const node = channel.getTargetNode();
			// Shapes go with the mesh.
			if (channel.getTargetPath() === "weights" && node) channel.setTargetNode(carriers.get(node) ?? node);
			const output = channel.getTargetPath() === "rotation" && channel.getSampler()?.getOutput();
			if (output) turns.add(output);
		}
	for (const turn of turns) toWhole(turn, 32_767, [0, 0, 0, 0], 1);
}

/** Its places become shares of its reach about its middle, metres. */
function quantiseMesh(mesh: GltfMesh): { readonly middle: readonly [number, number, number]; readonly reach: number } {
	const primitives = mesh.listPrimitives();
	const places = [...new Set(primitives.flatMap((primitive) => primitive.getAttribute("POSITION") ?? []))];
	const moves = [...new Set(primitives.flatMap((one) => one.listTargets().flatMap((target) => target.getAttribute("POSITION") ?? [])))];
	const low = [0, 1, 2].map((k) => Math.min(...places.map((place) => place.getMin([])[k]!)));
	const high = [0, 1, 2].map((k) => Math.max(...places.map((place) => place.getMax([])[k]!)));
	const middle = [0, 1, 2].map((k) => (low[k]! + high[k]!) / 2) as [number, number, number];
	const farthest = moves.flatMap((move) => [...move.getMin([]), ...move.getMax([])].map(Math.abs));
	const reach = Math.max(1e-9, ...[0, 1, 2].map((k) => (high[k]! - low[k]!) / 2), ...farthest);
	for (const place of places) toWhole(place, 32_767, middle, reach);
	for (const move of moves) toWhole(move, 32_767, [0, 0, 0], reach);
	const normals = new Set(
		primitives.flatMap((one) => [one, ...one.listTargets()].flatMap((holder) => holder.getAttribute("NORMAL") ?? [])),
	);
	for (const normal of normals) toWhole(normal, 127, [0, 0, 0], 1);
	return { middle, reach };
}

/** Numbers less `middle`, as shares of `reach`, in 16 bits or 8. */
function toWhole(accessor: Accessor, most: 127 | 32_767, middle: readonly number[], reach: number): void {
	const from = accessor.getArray()!;
	const size = accessor.getElementSize();
	const values = most === 127 ? new Int8Array(from.length) : new Int16Array(from.length);
	for (let i = 0; i < from.length; i++)
		values[i] = Math.max(-most, Math.min(most, Math.round(((from[i]! - middle[i % size]!) / reach) * most)));
	accessor.setArray(values).setNormalized(true);
}
