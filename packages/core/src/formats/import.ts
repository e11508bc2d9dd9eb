import { bad, good, type Outcome } from "../common";
import { fromAxisAngle } from "../maths";
import { joinMeshes, type Mesh, makeMesh, transformMesh, triangleCount } from "../mesh";
import { MOST_BYTES } from "./geometry";
import { gltf } from "./gltf";
import { obj } from "./obj";
import { ply } from "./ply";
import { stl } from "./stl";
import type { MeshFormat, ReadModel } from "./types";
import { UNITS, type Unit } from "./units";

/** Every mesh format that can be opened. A new one is a file beside this and a line here. */
export const MESH_FORMATS: readonly MeshFormat[] = [obj, stl, ply, gltf];

export interface ImportChoices {
	/** What one unit of the file is. */
	readonly unit: Unit;
	/** Which axis of the file points up. */
	readonly up: "y" | "z";
}

export const formatOfFile = (name: string): MeshFormat | undefined => {
	const extension = name.slice(name.lastIndexOf(".") + 1).toLowerCase();
	return MESH_FORMATS.find((format) => format.extensions.includes(extension));
};

/** Reads a mesh file of any known kind, in its own units. Never throws; a sentence says what is wrong. */
export async function readModel(name: string, bytes: Uint8Array): Promise<Outcome<ReadModel>> {
	const format = formatOfFile(name);
	if (!format) return bad(`“${name}” is of no kind that can be opened. OBJ, STL, PLY, GLB and glTF can.`);
	if (bytes.length === 0) return bad(`“${name}” is empty.`);
	if (bytes.length > MOST_BYTES)
		return bad(`“${name}” is ${Math.round(bytes.length / 1048576)} MB; up to ${MOST_BYTES / 1048576} MB can be opened.`);
	try {
		return await format.read(bytes);
	} catch {
		// Whatever a library stumbles over, what is to be done about it is the same.
		return bad(
			`“${name}” could not be read as ${format.label}: it is damaged, cut short or of another kind. Save it again, or as another format.`,
		);
	}
}

/** A mesh of the file in metres with y up. */
export function placeModel(mesh: Mesh, { unit, up }: ImportChoices): Mesh {
	const s = UNITS[unit];
	return transformMesh(mesh, { scale: [s, s, s], ...(up === "z" && { rotation: fromAxisAngle([1, 0, 0], -Math.PI / 2) }) });
}

/** All parts of a file as one mesh. */
export const joinParts = (parts: readonly { readonly mesh: Mesh }[]): Mesh => joinMeshes(parts.map(({ mesh }) => mesh));

const MAGIC = 0x314d524d; // "MRM1"

/** An asset's bytes: header (magic, vertices, triangles, uv or not), positions, triangles, uv; little-endian. */
export function encodeMesh(mesh: Mesh): Uint8Array {
	const bytes = new Uint8Array(16 + mesh.positions.byteLength + mesh.triangles.byteLength + mesh.uv.byteLength);
	const view = new DataView(bytes.buffer);
	[MAGIC, mesh.positions.length / 3, triangleCount(mesh), mesh.uv.length > 0 ? 1 : 0].forEach((value, i) => {
		view.setUint32(4 * i, value, true);
	});
	let at = 16;
	for (const array of [mesh.positions, mesh.triangles, mesh.uv]) {
		bytes.set(new Uint8Array(array.buffer, array.byteOffset, array.byteLength), at);
		at += array.byteLength;
	}
	return bytes;
}

export function decodeMesh(bytes: Uint8Array): Outcome<Mesh> {
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	if (bytes.length < 16 || view.getUint32(0, true) !== MAGIC) return bad("These bytes are no stored mesh.");
	const vertices = view.getUint32(4, true);
	const triangles = view.getUint32(8, true);
	const hasUv = view.getUint32(12, true) === 1;
	const size = 16 + 12 * vertices + 12 * triangles + (hasUv ? 24 * triangles : 0);
	if (bytes.length !== size) return bad("The stored mesh is cut short.");
	const buffer = bytes.slice(16).buffer as ArrayBuffer;
	const index = new Uint32Array(buffer, 12 * vertices, 3 * triangles);
	if (index.some((v) => v >= vertices)) return bad("The stored mesh refers to vertices that it does not have.");
	const numbers = new Float32Array(buffer, 0, 3 * vertices);
	if (!numbers.every(Number.isFinite)) return bad("The stored mesh has corners that are not numbers.");
	return good(makeMesh(numbers, index, hasUv ? { uv: new Float32Array(buffer, 12 * (vertices + triangles), 6 * triangles) } : {}));
}
