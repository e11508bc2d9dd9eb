import { cos, sin } from "../maths";
import { bounds } from "./measure";
import { splitAlong } from "./slabs";
import type { Mesh } from "./types";

export interface BendAxes {
	/** The axis that becomes an arc, and the one that its ends go towards: 0 x, 1 y, 2 z. */
	readonly along: 0 | 1 | 2;
	readonly toward: 0 | 1 | 2;
}

/** So many radians of an arc at most between two rows of vertices; what is lost to chords is a sixth of its square. */
const ARC_STEP = Math.PI / 64;
const LEAST_SLABS = 8;

/** The mesh with rows of vertices across the axis, enough for a bend of so many radians. */
export function readyToBend(mesh: Mesh, { along }: BendAxes, mostAngle: number): Mesh {
	const { min, max } = bounds(mesh);
	// Even, so that one row stands in the middle.
	const count = Math.max(LEAST_SLABS, 2 * Math.ceil(Math.abs(mostAngle) / ARC_STEP / 2));
	return splitAlong(
		mesh,
		along,
		Array.from({ length: count - 1 }, (_, i) => min[along] + ((max[along] - min[along]) * (i + 1)) / count),
	);
}

/**
 * The mesh bent to an arc of so many radians from end to end. What lies in the middle across the axis keeps its length,
 * and the middle of the axis its place; cross-sections stay flat and as they are (the pure bending of beam theory), so
 * that a shape which is even about its middle keeps its volume.
 */
export function bendMesh(mesh: Mesh, { along, toward }: BendAxes, angle: number): Mesh {
	if (angle === 0) return mesh;
	const { min, max } = bounds(mesh);
	const middle = (min[along] + max[along]) / 2;
	const level = (min[toward] + max[toward]) / 2;
	const radius = (max[along] - min[along]) / angle;
	const positions = mesh.positions.slice();
	for (let v = 0; v < positions.length; v += 3) {
		const turn = (positions[v + along]! - middle) / radius;
		const arm = radius - (positions[v + toward]! - level);
		positions[v + along] = middle + arm * sin(turn);
		positions[v + toward] = level + radius - arm * cos(turn);
	}
	return { ...mesh, positions };
}

/** The largest angle, radians, before the inner side folds over itself. */
export function mostBend(mesh: Mesh, { along, toward }: BendAxes): number {
	const { min, max } = bounds(mesh);
	const half = (max[toward] - min[toward]) / 2;
	return half > 0 ? Math.min(2 * Math.PI, (max[along] - min[along]) / half) : 2 * Math.PI;
}
