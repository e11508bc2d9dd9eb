import { type Body, type BodyTexture, texturedMesh } from "@rubble/core/bodies";
import type { Hash } from "@rubble/core/common";
import { drawMesh, type Mesh } from "@rubble/core/mesh";
import type { Id } from "@rubble/core/shot";
import type { Drawing } from "./messages";

/** All bodies of one object in one set of arrays, as the view wants them. */
/** `texture`: a picture that all of them wear. */
export function draw(object: Id, hash: Hash, bodies: readonly Body[], texture?: BodyTexture): Drawing {
	const meshes: Body[] = [];
	const known = new Map<Mesh, number>();
	const meshOf = Uint32Array.from(bodies, (body) => {
		let index = known.get(body.mesh);
		if (index === undefined) {
			index = meshes.push(body) - 1;
			known.set(body.mesh, index);
		}
		return index;
	});
	const parts = meshes.map((body) => drawMesh(texturedMesh(body, texture)));
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
		picture: texture?.picture,
		uv: new Float32Array(texture ? 2 * vertexStart[parts.length]! : 0),
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
		if (texture) drawing.uv.set(part.uv, 2 * vertexStart[i]!);
		drawing.inside.set(part.inside, vertexStart[i]!);
		drawing.indices.set(part.indices, indexStart[i]!);
	});
	return drawing;
}

export const drawingBuffers = (drawing: Drawing): ArrayBuffer[] =>
	Object.values(drawing).flatMap((value) => (ArrayBuffer.isView(value) ? [value.buffer as ArrayBuffer] : []));
