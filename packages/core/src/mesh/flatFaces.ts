import { type Vec3, vec3 } from "../maths";
import { edgeTable, find, unite } from "./topology";
import type { Mesh } from "./types";

export interface FlatFace {
	/** m, of its area. */
	readonly middle: Vec3;
	/** m² */
	readonly area: number;
}

/** Triangles that turn by less than this against each other are of one face, as the cosine. */
const FLAT = 0.99995;

/**
 * The flat faces of a mesh that are worth a place each, largest first: neighbours that lie in one plane, together. Those of less than
 * `share` of the whole surface are left out, as are the facets of what is round.
 */
export function flatFaces(mesh: Pick<Mesh, "positions" | "triangles">, share = 0.02): FlatFace[] {
	const { positions, triangles } = mesh;
	const count = triangles.length / 3;
	const corner = (h: number): Vec3 => {
		const at = 3 * triangles[h]!;
		return [positions[at]!, positions[at + 1]!, positions[at + 2]!];
	};
	const facets = Array.from({ length: count }, (_, t) => {
		const [a, b, c] = [corner(3 * t), corner(3 * t + 1), corner(3 * t + 2)];
		const across = vec3.cross(vec3.subtract(b, a), vec3.subtract(c, a));
		const double = vec3.length(across);
		return {
			normal: double > 0 ? vec3.scale(across, 1 / double) : vec3.ZERO,
			area: double / 2,
			middle: vec3.scale(vec3.add(vec3.add(a, b), c), 1 / 3),
		};
	});
	const parent = Int32Array.from({ length: count }, (_, t) => t);
	const { order, groups } = edgeTable(mesh);
	for (let g = 0; g + 1 < groups.length; g++) {
		const first = Math.floor(order[groups[g]!]! / 3);
		for (let k = groups[g]! + 1; k < groups[g + 1]!; k++) {
			const other = Math.floor(order[k]! / 3);
			if (vec3.dot(facets[first]!.normal, facets[other]!.normal) > FLAT) unite(parent, first, other);
		}
	}
	const faces = new Map<number, { sum: Vec3; area: number }>();
	let whole = 0;
	for (const [t, { area, middle }] of facets.entries()) {
		const root = find(parent, t);
		const known = faces.get(root) ?? { sum: vec3.ZERO, area: 0 };
		faces.set(root, { sum: vec3.add(known.sum, vec3.scale(middle, area)), area: known.area + area });
		whole += area;
	}
	return [...faces.values()]
		.filter(({ area }) => area > 0 && area >= share * whole)
		.map(({ sum, area }) => ({ middle: vec3.scale(sum, 1 / area), area }))
		.sort((a, b) => b.area - a.area);
}
