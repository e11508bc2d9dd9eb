import { convexPlanes, type Mesh, volume as volumeOf } from "../mesh";
import { fromSolid, type Solids, scoped, toSolid } from "../solid";

/** Pieces of more planes are treated as concave. */
const MOST_PLANES = 64;

export interface Wear {
	/** A piece, closed. */
	readonly mesh: Mesh;
	/** Edge length of the fine mesh, metres. */
	readonly length: number;
	readonly rounding: number;
	readonly keep: number;
}

/** A piece worn round, within the piece; undefined where nothing is left of it. */
export function wearStone(solids: Solids, { mesh, length, rounding, keep }: Wear): Mesh | undefined {
	return scoped((hold) => {
		const piece = hold(toSolid(solids, { ...mesh, uv: new Float32Array(0) }));
		const fine = fromSolid(hold(piece.refineToLength(length)));
		let positions = fine.positions;
		for (let round = 0; round < rounding; round++) positions = relax(fine, positions);
		let stone = hold(toSolid(solids, { ...fine, positions }));
		// A concave piece may bulge where it was hollow.
		if (!convexPlanes(mesh, MOST_PLANES) && hold(piece.hull()).volume() > 1.001 * piece.volume()) stone = hold(stone.intersect(piece));
		if (stone.isEmpty()) return undefined;
		const full = stone.numTri();
		// The tolerance is doubled until few enough triangles are left.
		let coarse = stone;
		for (let tolerance = 0.01 * length; coarse.numTri() > keep * full && tolerance < length; tolerance *= 2)
			coarse = hold(stone.simplify(tolerance));
		const worn = fromSolid(coarse);
		if (worn.triangles.length === 0 || volumeOf(worn) <= 0) return undefined;
		return {
			...worn,
			inside: new Uint8Array(worn.triangles.length / 3).fill(1),
			neighbour: new Int32Array(worn.triangles.length / 3).fill(-1),
		};
	});
}

/** Every vertex moved to the mean of its neighbours. */
function relax({ triangles }: Mesh, positions: Float32Array): Float32Array {
	const sums = new Float64Array(positions.length);
	const counts = new Int32Array(positions.length / 3);
	for (let c = 0; c < triangles.length; c++) {
		// Each edge is met once from each side: the next corner of this triangle.
		const from = triangles[c]!;
		const to = triangles[c - (c % 3) + ((c + 1) % 3)]!;
		for (let k = 0; k < 3; k++) sums[3 * from + k]! += positions[3 * to + k]!;
		counts[from]!++;
	}
	return Float32Array.from(sums, (sum, i) => sum / counts[Math.floor(i / 3)]!);
}
