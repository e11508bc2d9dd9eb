import type { BufferGeometry } from "three";
import { bad, good, type Outcome } from "../common";
import { type Mesh, makeMesh, weld } from "../mesh";

/** Files above this are refused before they are read. */
export const MOST_BYTES = 400 * 1024 * 1024;
export const MOST_TRIANGLES = 5_000_000;

/** A loader's geometry as a mesh: equal places welded, collapsed triangles dropped; problems are said in words. */
export function meshOfGeometry(geometry: BufferGeometry, what: string): Outcome<Mesh> {
	const position = geometry.getAttribute("position");
	if (!position || position.count === 0) return bad(`${what} holds no triangles.`);
	const index = geometry.getIndex();
	const corners = index ? index.count : position.count;
	if (corners < 3) return bad(`${what} holds no triangles.`);
	if (corners / 3 > MOST_TRIANGLES)
		return bad(
			`${what} has ${Math.round(corners / 3).toLocaleString("en")} triangles; up to ${MOST_TRIANGLES.toLocaleString("en")} can be opened. Reduce it first.`,
		);
	const positions = new Float32Array(position.count * 3);
	for (let v = 0; v < position.count; v++) {
		positions[3 * v] = position.getX(v);
		positions[3 * v + 1] = position.getY(v);
		positions[3 * v + 2] = position.getZ(v);
	}
	const triangles = new Uint32Array(corners - (corners % 3));
	for (let c = 0; c < triangles.length; c++) {
		const v = index ? index.getX(c) : c;
		if (v >= position.count)
			return bad(`${what}: triangle ${Math.floor(c / 3) + 1} refers to vertex ${v + 1}, but there are ${position.count}.`);
		triangles[c] = v;
	}
	for (let c = 0; c < triangles.length; c++)
		for (let k = 0; k < 3; k++)
			if (!Number.isFinite(positions[3 * triangles[c]! + k]!))
				return bad(`${what}: triangle ${Math.floor(c / 3) + 1} has a corner that is not a number; the file is damaged there.`);
	const texture = geometry.getAttribute("uv");
	let uv: Float32Array | undefined;
	if (texture && texture.count === position.count) {
		uv = new Float32Array(triangles.length * 2);
		for (let c = 0; c < triangles.length; c++) {
			uv[2 * c] = texture.getX(triangles[c]!);
			uv[2 * c + 1] = 1 - texture.getY(triangles[c]!); // these formats count v upwards
		}
		if (uv.some((value) => !Number.isFinite(value))) uv = undefined;
	}
	const mesh = weld(makeMesh(positions, triangles, uv ? { uv } : {}), 0);
	return mesh.triangles.length === 0 ? bad(`${what}: all triangles have no area.`) : good(mesh);
}
