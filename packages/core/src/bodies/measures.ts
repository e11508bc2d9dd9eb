import type { Vec3 } from "../maths";
import { bounds, boundsSize, type Mesh, type Solid, solid } from "../mesh";

export interface Measures extends Solid {
	/** Of the box around it, metres. */
	readonly size: Vec3;
}

const known = new WeakMap<Mesh, Measures>();

/** Volume, centroid, moments and size of a mesh; found once, because thousands of copies share one. */
export function measuresOf(mesh: Mesh): Measures {
	const found = known.get(mesh);
	if (found) return found;
	const made = { ...solid(mesh), size: boundsSize(bounds(mesh)) };
	known.set(mesh, made);
	return made;
}
