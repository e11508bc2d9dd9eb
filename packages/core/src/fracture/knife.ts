import { type Mesh, shells } from "../mesh";
import { fromSolid, type Manifold, type Solids, scoped, toSolid } from "../solid";
import { withPlanarInside } from "./planarUv";

/** What lies inside a knife and what lies outside it, each in connected parts; faces are tagged with the knife's triangles. */
export interface Parted {
	readonly inside: readonly Mesh[];
	readonly outside: readonly Mesh[];
}

/**
 * Parts a closed mesh by a closed knife. Undefined where the knife does not pass through it. With several knives
 * after one another, `firstTag` is how many triangles the earlier ones had.
 */
export function partByKnife(solids: Solids, mesh: Mesh, knife: Mesh, firstTag = 0): Parted | undefined {
	const id = solids.Manifold.reserveIDs(2);
	return scoped((hold) => {
		const own = Uint32Array.from({ length: mesh.triangles.length / 3 }, (_, f) => f);
		const source = hold(toSolid(solids, mesh, { id: id + 1, faces: own }));
		// The triangles of the knife get numbers of their own, the same on both sides of the cut.
		const faces = Uint32Array.from({ length: knife.triangles.length / 3 }, (_, f) => f);
		const blade = hold(toSolid(solids, { ...knife, uv: new Float32Array(0) }, { id, faces }));
		const inside = hold(source.intersect(blade));
		const outside = hold(source.subtract(blade));
		if (inside.isEmpty() || outside.isEmpty()) return undefined;
		return { inside: tagged(inside, mesh, id, firstTag), outside: tagged(outside, mesh, id, firstTag) };
	});
}

function tagged(side: Manifold, source: Mesh, id: number, firstTag: number): Mesh[] {
	const triangles = side.numTri();
	const neighbour = new Int32Array(triangles).fill(-1);
	const inside = new Uint8Array(triangles);
	const raw = fromSolid(side, (triangle, from, face) => {
		if (from === id) {
			inside[triangle] = 1;
			neighbour[triangle] = firstTag + face;
		} else {
			// What was laid open before stays so.
			inside[triangle] = source.inside[face] ?? 0;
			neighbour[triangle] = source.neighbour[face] ?? -1;
		}
	});
	const cut = { ...raw, inside, neighbour };
	return shells(raw.uv.length > 0 ? { ...cut, uv: withPlanarInside(cut) } : cut);
}
