/** The package ships its types as source, which strict checking does not pass. */
declare module "@kninnug/constrainautor" {
	interface Triangulation {
		readonly coords: ArrayLike<number>;
		readonly triangles: Uint32Array;
		readonly halfedges: Int32Array;
	}
	/** Flips edges of a Delaunay triangulation until it has these ones; throws where they cross. */
	export default class Constrainautor {
		constructor(triangulation: Triangulation, edges: readonly (readonly [number, number])[]);
	}
}
