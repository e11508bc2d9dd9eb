import type { Body } from "@rubble/core/bodies";
import type { Hash } from "@rubble/core/common";
import { drawMesh, type Mesh } from "@rubble/core/mesh";
import type { Id } from "@rubble/core/shot";
import type { Drawing } from "./messages";

/** All bodies of one object in one set of arrays, as the view wants them. */
export function draw(object: Id, hash: Hash, bodies: readonly Body[]): Drawing {
	const meshes: { mesh: Mesh; source: Id }[] = [];
	const known = new Map<Mesh, number>();
	const meshOf = Uint32Array.from(bodies, ({ mesh, source }) => {
		let index = known.get(mesh);
		if (index === undefined) {
			index = meshes.push({ mesh, source }) - 1;
			known.set(mesh, index);
		}
		return index;
	});
	const parts = meshes.map(({ mesh }) => drawMesh(mesh));
	const vertexStart = new Uint32Array(parts.length + 1);
	const indexStart = new Uint32Array(parts.length + 1);
	parts.forEach((part, i) => {
		vertexStart[i + 1] = vertexStart[i]! + part.positions.length / 3;
		indexStart[i + 1] = indexStart[i]! + part.indices.length;
	});
	const drawing: Drawing = {
		object,
		hash,
		ids: bodies.map((body) => body.id),
		mesh: meshOf,
		scale: Float32Array.from(bodies, (body) => body.scale),
		sources: meshes.map(({ source }) => source),
		positions: new Float32Array(3 * vertexStart[parts.length]!),
		normals: new Float32Array(3 * vertexStart[parts.length]!),
		inside: new Uint8Array(vertexStart[parts.length]!),
		indices: new Uint32Array(indexStart[parts.length]!),
		vertexStart,
		indexStart,
	};
	parts.forEach((part, i) => {
		drawing.positions.set(part.positions, 3 * vertexStart[i]!);
		drawing.normals.set(part.normals, 3 * vertexStart[i]!);
		drawing.inside.set(part.inside, vertexStart[i]!);
		drawing.indices.set(part.indices, indexStart[i]!);
	});
	return drawing;
}

export const drawingBuffers = (drawing: Drawing): ArrayBuffer[] =>
	Object.values(drawing).flatMap((value) => (ArrayBuffer.isView(value) ? [value.buffer as ArrayBuffer] : []));
