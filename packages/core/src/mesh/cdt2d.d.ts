declare module "cdt2d" {
	/** Constrained Delaunay triangulation; `exterior: false` leaves out what lies outside of the edges' loops. */
	export default function cdt2d(
		points: readonly (readonly [number, number])[],
		edges: readonly (readonly [number, number])[],
		options?: { readonly delaunay?: boolean; readonly interior?: boolean; readonly exterior?: boolean; readonly infinity?: boolean },
	): [number, number, number][];
}
