import { type Body, type BodyLook, drawnMesh, measuresOf } from "@rubble/core/bodies";
import type { Hash } from "@rubble/core/common";
import { drawMesh, type Mesh } from "@rubble/core/mesh";
import type { Id } from "@rubble/core/shot";
import { reduceForView, type Solids } from "@rubble/core/solid";
import type { Drawing } from "./messages";

/** What one object may take to draw; beyond it copies are drawn simpler than they are. */
const MOST_TRIANGLES = 1_200_000;
/** Crease angle of what is drawn simpler: few flat faces stand for a round thing. */
const ROUNDED = 1.2;

/** All bodies of one object in one set of arrays, as the view wants them; they all look alike. */
export function draw(solids: Solids, object: Id, hash: Hash, bodies: readonly Body[], look: BodyLook): Drawing {
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
	const pictured = look.outside !== undefined || look.inside !== undefined;
	const cracked = meshes.some(({ opening }) => opening);
	const most = Math.floor(MOST_TRIANGLES / bodies.length);
	let reduced = 0;
	const parts = meshes.map((body) => {
		const full = drawnMesh(body, look);
		const { size } = measuresOf(body.mesh);
		// Only copies: pieces are what the work is about, and there is one of each.
		const simple = meshes.length < bodies.length && !pictured ? reduceForView(solids, full, most, Math.max(...size)) : full;
		if (simple !== full) reduced = Math.max(reduced, simple.triangles.length / 3);
		return drawMesh(simple, simple === full ? undefined : ROUNDED);
	});
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
		reduced,
		straight: bodies[0]?.straight,
		picture: look.outside?.picture,
		insidePicture: look.inside?.picture,
		uv: new Float32Array(pictured ? 2 * vertexStart[parts.length]! : 0),
		closed: new Float32Array(cracked ? 3 * vertexStart[parts.length]! : 0),
		reached: new Float32Array(cracked ? vertexStart[parts.length]! : 0),
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
		if (pictured) drawing.uv.set(part.uv, 2 * vertexStart[i]!);
		const { opening } = meshes[i]!;
		if (opening)
			part.source.forEach((v, k) => {
				drawing.closed.set(opening.closed.subarray(3 * v, 3 * v + 3), 3 * (vertexStart[i]! + k));
				drawing.reached[vertexStart[i]! + k] = opening.reached[v]!;
			});
		drawing.inside.set(part.inside, vertexStart[i]!);
		drawing.indices.set(part.indices, indexStart[i]!);
	});
	return drawing;
}

export const drawingBuffers = (drawing: Drawing): ArrayBuffer[] =>
	Object.values(drawing).flatMap((value) => (ArrayBuffer.isView(value) ? [value.buffer as ArrayBuffer] : []));
