import type { Body } from "@rubble/core/bodies";
import type { Hash } from "@rubble/core/common";
import { drawMesh } from "@rubble/core/mesh";
import type { Id } from "@rubble/core/shot";
import type { Drawing } from "./messages";

/** All bodies of one object in one set of arrays, as the view wants them. */
export function draw(object: Id, hash: Hash, bodies: readonly Body[]): Drawing {
	const parts = bodies.map((body) => drawMesh(body.mesh));
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
