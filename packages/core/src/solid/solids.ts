import manifoldModule, { type Manifold, type ManifoldToplevel } from "manifold-3d";
import { type Mesh, makeMesh } from "../mesh";

/**
 * The only file that loads the solid-geometry library (a WASM build of Manifold). Everyone else gets `Solids`.
 * Objects of the library live in its heap, which only grows: each one must be deleted.
 */
export interface Solids {
	readonly Manifold: ManifoldToplevel["Manifold"];
	readonly Mesh: ManifoldToplevel["Mesh"];
	readonly CrossSection: ManifoldToplevel["CrossSection"];
}
export type { Manifold } from "manifold-3d";

let loading: Promise<Solids> | undefined;

/** Loads the library once. In a browser `wasmUrl` says where its binary is served. */
export function loadSolids(wasmUrl?: string): Promise<Solids> {
	loading ??= manifoldModule(wasmUrl ? { locateFile: () => wasmUrl } : undefined).then((module) => {
		module.setup();
		return { Manifold: module.Manifold, Mesh: module.Mesh, CrossSection: module.CrossSection };
	});
	return loading;
}

/** How triangles of a mesh are tagged inside the library, so that they can be told apart after a boolean. */
export interface SolidTag {
	/** From `Manifold.reserveIDs`. */
	readonly id: number;
	/** 1 per triangle; comes back for every part of that triangle. */
	readonly faces?: Uint32Array;
}

/**
 * The mesh as a solid, with UVs as two more properties where it has them. Vertices must be unique by place.
 * Throws where the mesh is not closed and oriented: check `topology` first.
 */
export function toSolid(solids: Solids, mesh: Mesh, tag?: SolidTag): Manifold {
	const corners = mesh.triangles.length;
	const hasUv = mesh.uv.length > 0;
	const options = hasUv ? { ...splitCorners(mesh), numProp: 5 } : { vertProperties: mesh.positions, triVerts: mesh.triangles, numProp: 3 };
	return new solids.Manifold(
		new solids.Mesh({
			...options,
			...(tag && {
				runOriginalID: new Uint32Array([tag.id]),
				runIndex: new Uint32Array([0, corners]),
				...(tag.faces && { faceID: tag.faces }),
			}),
		}),
	);
}

/** One vertex per different (place, uv), merged again by place through the merge lists. */
function splitCorners(mesh: Mesh) {
	const properties: number[] = [];
	const triVerts = new Uint32Array(mesh.triangles.length);
	const mergeFrom: number[] = [];
	const mergeTo: number[] = [];
	const first = new Map<number, number>();
	const made = new Map<string, number>();
	for (let h = 0; h < triVerts.length; h++) {
		const v = mesh.triangles[h]!;
		const u = mesh.uv[2 * h]!;
		const w = mesh.uv[2 * h + 1]!;
		const key = `${v},${u},${w}`;
		let index = made.get(key);
		if (index === undefined) {
			index = properties.length / 5;
			made.set(key, index);
			properties.push(mesh.positions[3 * v]!, mesh.positions[3 * v + 1]!, mesh.positions[3 * v + 2]!, u, w);
			const twin = first.get(v);
			if (twin === undefined) first.set(v, index);
			else {
				mergeFrom.push(index);
				mergeTo.push(twin);
			}
		}
		triVerts[h] = index;
	}
	return {
		vertProperties: Float32Array.from(properties),
		triVerts,
		mergeFromVert: Uint32Array.from(mergeFrom),
		mergeToVert: Uint32Array.from(mergeTo),
	};
}

/** The solid as a mesh; `visit` is told each triangle's tag, to fill attributes of its own. */
export function fromSolid(solid: Manifold, visit?: (triangle: number, id: number, face: number) => void): Mesh {
	const raw = solid.getMesh();
	const stride = raw.numProp;
	const vertices = raw.vertProperties.length / stride;
	const target = Uint32Array.from({ length: vertices }, (_, i) => i);
	for (let i = 0; i < raw.mergeFromVert.length; i++) target[raw.mergeFromVert[i]!] = raw.mergeToVert[i]!;
	const index = new Int32Array(vertices).fill(-1);
	const positions: number[] = [];
	const triangles = new Uint32Array(raw.triVerts.length);
	const uv = stride >= 5 ? new Float32Array(raw.triVerts.length * 2) : undefined;
	for (let h = 0; h < triangles.length; h++) {
		const corner = raw.triVerts[h]!;
		let v = target[corner]!;
		while (target[v] !== v) v = target[v]!;
		if (index[v]! < 0) {
			index[v] = positions.length / 3;
			positions.push(raw.vertProperties[v * stride]!, raw.vertProperties[v * stride + 1]!, raw.vertProperties[v * stride + 2]!);
		}
		triangles[h] = index[v]!;
		if (uv) {
			uv[2 * h] = raw.vertProperties[corner * stride + 3]!;
			uv[2 * h + 1] = raw.vertProperties[corner * stride + 4]!;
		}
	}
	if (visit)
		for (let run = 0; run < raw.runOriginalID.length; run++)
			for (let f = raw.runIndex[run]! / 3; f < raw.runIndex[run + 1]! / 3; f++) visit(f, raw.runOriginalID[run]!, raw.faceID[f] ?? -1);
	return makeMesh(Float32Array.from(positions), triangles, uv ? { uv } : {});
}

/** Runs `work` and deletes what `keep` was given, whatever happens. */
export function scoped<T>(work: (keep: <M extends Manifold>(solid: M) => M) => T): T {
	const kept: Manifold[] = [];
	try {
		return work((solid) => {
			kept.push(solid);
			return solid;
		});
	} finally {
		for (const solid of kept) solid.delete();
	}
}
