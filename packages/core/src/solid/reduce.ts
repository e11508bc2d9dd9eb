import { cubeRoot, vec3 } from "../maths";
import { type Mesh, solid, topology, transformMesh } from "../mesh";
import { fromSolid, type Solids, scoped, toSolid } from "./solids";

/** Steps of coarseness, as shares of the size. */
const TOLERANCES = [0.004, 0.008, 0.012, 0.02, 0.03, 0.045, 0.06, 0.08, 0.1, 0.13, 0.16];

/**
 * A closed mesh with fewer triangles for drawing thousands of copies: the least coarse one that stays within `most`,
 * or the coarsest there is. Open meshes come back as they are. Keeps volume and centre, not the shape: never for physics.
 */
export function reduceForView(solids: Solids, mesh: Mesh, most: number, size: number): Mesh {
	if (mesh.triangles.length / 3 <= most || !topology(mesh).closed) return mesh;
	return scoped((keep) => {
		const whole = keep(toSolid(solids, { ...mesh, uv: new Float32Array(0) }));
		let best = whole;
		for (const tolerance of TOLERANCES) {
			const simple = keep(whole.simplify(tolerance * size));
			if (simple.isEmpty()) break;
			best = simple;
			if (simple.numTri() <= most) break;
		}
		// Corners cut off make it smaller: it is sized up about its middle to the volume it had.
		const simple = fromSolid(best);
		const [was, is] = [solid(mesh), solid(simple)];
		const k = cubeRoot(was.volume / is.volume);
		return transformMesh(simple, { scale: [k, k, k], translation: vec3.subtract(was.centroid, vec3.scale(is.centroid, k)) });
	});
}
