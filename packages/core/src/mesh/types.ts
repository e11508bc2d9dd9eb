/**
 * An indexed triangle mesh. Vertices are unique by place, so that closedness is a fact of the index.
 * Triangles are counter-clockwise seen from outside.
 */
export interface Mesh {
	/** 3 per vertex, metres. */
	readonly positions: Float32Array;
	/** 3 per triangle, vertex indices. */
	readonly triangles: Uint32Array;
	/** 6 per triangle (u, v of each corner, v down as in glTF); empty where the mesh has none. */
	readonly uv: Float32Array;
	/** 1 per triangle: 1 = laid open by a fracture; empty where all are outside. */
	readonly inside: Uint8Array;
	/** 1 per triangle: the cell beyond this inside face, −1 outside; empty where not broken. */
	readonly neighbour: Int32Array;
}

const NO_FLOATS = new Float32Array(0);
const NO_BYTES = new Uint8Array(0);
const NO_INTS = new Int32Array(0);

export const makeMesh = (
	positions: Float32Array | readonly number[],
	triangles: Uint32Array | readonly number[],
	attributes: { uv?: Float32Array; inside?: Uint8Array; neighbour?: Int32Array } = {},
): Mesh => ({
	positions: positions instanceof Float32Array ? positions : Float32Array.from(positions),
	triangles: triangles instanceof Uint32Array ? triangles : Uint32Array.from(triangles),
	uv: attributes.uv ?? NO_FLOATS,
	inside: attributes.inside ?? NO_BYTES,
	neighbour: attributes.neighbour ?? NO_INTS,
});

export const vertexCount = (mesh: Mesh): number => mesh.positions.length / 3;
export const triangleCount = (mesh: Mesh): number => mesh.triangles.length / 3;

/** The buffers of a mesh, for handing it to another thread without a copy. */
export const meshBuffers = (mesh: Mesh): ArrayBuffer[] =>
	[mesh.positions, mesh.triangles, mesh.uv, mesh.inside, mesh.neighbour].map((array) => array.buffer as ArrayBuffer);
