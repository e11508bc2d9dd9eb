import type { Vec3 } from "../maths";
import { area, type Mesh, solid, transformMesh } from "../mesh";
import type { Contact, Piece, Pieces } from "./types";

/** A closed mesh about its own centroid: the pivot that it had in the frame it was given in, and its measures. */
export function centred(mesh: Mesh): Pick<Piece, "mesh" | "pivot" | "volume" | "area"> {
	const { volume, centroid } = solid(mesh);
	const [x, y, z]: Vec3 = centroid;
	return { mesh: transformMesh(mesh, { translation: [-x, -y, -z] }), pivot: centroid, volume, area: area(mesh) };
}

/** Pieces with what they lack of their source. */
export const collect = (pieces: readonly Piece[], contacts: readonly Contact[], sourceVolume: number): Pieces => ({
	pieces,
	contacts,
	sourceVolume,
	lacking: sourceVolume - pieces.reduce((sum, piece) => sum + piece.volume, 0),
});

/** How many pieces each piece shares a face with. */
export function countNeighbours({ pieces, contacts }: Pick<Pieces, "pieces" | "contacts">): Int32Array {
	const counts = new Int32Array(pieces.length);
	for (const { a, b } of contacts) {
		counts[a]!++;
		counts[b]!++;
	}
	return counts;
}
