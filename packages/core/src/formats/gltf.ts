import { BufferUtils, type Node, Primitive, WebIO } from "@gltf-transform/core";
import { bad, good, type Outcome } from "../common";
import { type Mesh, makeMesh, weld } from "../mesh";
import { MOST_TRIANGLES } from "./geometry";
import { gltfProblem } from "./gltfBudget";
import { textOf } from "./text";
import type { MeshFormat, ReadModel } from "./types";

/** The members that are looked at before the library reads the document. */
interface GltfText {
	readonly asset?: unknown;
	readonly buffers?: readonly { readonly uri?: string }[];
	readonly meshes?: readonly { readonly primitives: readonly { readonly material?: number }[] }[];
}

/** glTF 2.0: GLB, or glTF text with embedded data. Geometry and UVs of all meshes, placed as their nodes say. */
export const gltf: MeshFormat = {
	id: "gltf",
	label: "GLB / glTF",
	extensions: ["glb", "gltf"],
	metres: true,
	read: async (bytes) => {
		const isBinary = bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46;
		const json = documentIn(isBinary ? textChunk(bytes) : bytes);
		if (!json) return bad("This is neither a GLB nor a glTF file; it is damaged, cut short or of another kind.");
		if (!json.asset) return bad("This is not a glTF file: it has no “asset”.");
		const problem = gltfProblem(json as Parameters<typeof gltfProblem>[0]);
		if (problem) return bad(problem);
		const apart = !isBinary && json.buffers?.find((buffer) => buffer.uri !== undefined && !buffer.uri.startsWith("data:"));
		if (apart)
			return bad(`The glTF file keeps its data in “${apart.uri}”, which cannot be reached from here. Save it as GLB, or embed the data.`);
		let document: Awaited<ReturnType<WebIO["readBinary"]>>;
		try {
			const io = new WebIO();
			document = isBinary
				? await io.readBinary(bytes)
				: await io.readJSON({
						json: { ...json, images: [], textures: [], materials: [], meshes: stripMaterials(json) } as never,
						resources: embedded(json),
					});
		} catch {
			return bad("The glTF file could not be read. It is damaged or cut short, or needs an extension that this program does not read.");
		}
		const parts: { name: string; mesh: Mesh }[] = [];
		let total = 0;
		for (const scene of document.getRoot().listScenes())
			for (const problem of collect(scene.listChildren(), parts)) {
				if (!problem.ok) return problem;
				total += problem.value;
				if (total > MOST_TRIANGLES)
					return bad(`The glTF file has more than ${MOST_TRIANGLES.toLocaleString("en")} triangles. Reduce it first.`);
			}
		if (parts.length === 0) return bad("The glTF file holds no triangles.");
		return good({
			parts,
			notes: document.getRoot().listMaterials().length > 0 ? ["Materials and textures of the file are not read."] : [],
		} satisfies ReadModel);
	},
};

/** The JSON of a GLB: its first chunk. */
function textChunk(bytes: Uint8Array): Uint8Array {
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	const length = bytes.length >= 20 ? view.getUint32(12, true) : 0;
	return bytes.subarray(20, 20 + length);
}

function documentIn(bytes: Uint8Array): GltfText | undefined {
	try {
		const json: unknown = JSON.parse(textOf(bytes) ?? "");
		return typeof json === "object" && json !== null && !Array.isArray(json) ? (json as GltfText) : undefined;
	} catch {
		return undefined;
	}
}

/** Materials refer to textures, which are not read; without them nothing dangles. */
function stripMaterials(json: GltfText): unknown[] {
	return (json.meshes ?? []).map((mesh) => ({ ...mesh, primitives: mesh.primitives.map(({ material: _, ...primitive }) => primitive) }));
}

function embedded(json: GltfText): Record<string, Uint8Array<ArrayBuffer>> {
	const resources: Record<string, Uint8Array<ArrayBuffer>> = {};
	for (const buffer of json.buffers ?? [])
		if (buffer.uri) resources[buffer.uri] = BufferUtils.createBufferFromDataURI(buffer.uri) as Uint8Array<ArrayBuffer>;
	return resources;
}

function* collect(nodes: readonly Node[], parts: { name: string; mesh: Mesh }[]): Generator<Outcome<number>> {
	for (const node of nodes) {
		const source = node.getMesh();
		if (source) {
			const mesh = placedMesh(node, source.listPrimitives());
			if (!mesh.ok) yield mesh;
			else if (mesh.value.triangles.length > 0) {
				parts.push({ name: node.getName() || source.getName(), mesh: mesh.value });
				yield good(mesh.value.triangles.length / 3);
			}
		}
		yield* collect(node.listChildren(), parts);
	}
}

function placedMesh(node: Node, primitives: readonly Primitive[]): Outcome<Mesh> {
	const matrix = node.getWorldMatrix();
	const positions: number[] = [];
	const triangles: number[] = [];
	const uv: number[] = [];
	for (const primitive of primitives) {
		if (primitive.getMode() !== Primitive.Mode.TRIANGLES) continue;
		const place = primitive.getAttribute("POSITION");
		if (!place) continue;
		const base = positions.length / 3;
		const point = [0, 0, 0];
		for (let v = 0; v < place.getCount(); v++) {
			place.getElement(v, point);
			for (let k = 0; k < 3; k++)
				positions.push(matrix[k]! * point[0]! + matrix[4 + k]! * point[1]! + matrix[8 + k]! * point[2]! + matrix[12 + k]!);
		}
		const texture = primitive.getAttribute("TEXCOORD_0");
		const indices = primitive.getIndices();
		const corners = indices ? indices.getCount() : place.getCount();
		const pair = [0, 0];
		for (let c = 0; c + 2 < corners; c += 3)
			for (let k = 0; k < 3; k++) {
				const v = indices ? indices.getScalar(c + k) : c + k;
				if (v >= place.getCount())
					return bad(`“${node.getName()}” refers to vertex ${v}, but has ${place.getCount()}; the file is damaged.`);
				triangles.push(base + v);
				if (texture) texture.getElement(v, pair);
				uv.push(texture ? pair[0]! : 0, texture ? pair[1]! : 0);
			}
	}
	if (positions.some((value) => !Number.isFinite(value)))
		return bad(`“${node.getName()}” has corners that are not numbers; the file is damaged.`);
	const hasUv = uv.some((value) => value !== 0);
	return good(weld(makeMesh(Float32Array.from(positions), Uint32Array.from(triangles), hasUv ? { uv: Float32Array.from(uv) } : {}), 0));
}
