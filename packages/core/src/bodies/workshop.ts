import { worldScale } from "../animation";
import { bad, good, type Hash, hashValue, type Outcome } from "../common";
import type { Picture, Pieces } from "../fracture";
import { area, bounds, boundsSize, type Mesh, transformMesh } from "../mesh";
import { shapeById, shapeProblem } from "../shapes";
import type { AssetRef, Id, Shot } from "../shot";
import { applyRepairs, inspectMesh, type MeshReport, type Solids } from "../solid";
import type { FittedCollider } from "./collider";

/** What everything derived from a shot is made with, and the store of what was made already. */
export interface Workshop {
	readonly solids: Solids;
	/** The mesh of an asset; throws where it is not there. */
	readonly loadAsset: (asset: AssetRef) => Promise<Mesh>;
	/** The picture of an asset; throws where it is not there or damaged. */
	readonly loadPicture: (asset: AssetRef) => Promise<Picture>;
	readonly meshes: Map<Hash, Mesh>;
	readonly reports: Map<Hash, MeshReport>;
	readonly pieces: Map<Hash, Outcome<Pieces>>;
	readonly colliders: Map<Hash, FittedCollider>;
}

export const makeWorkshop = (solids: Solids, { loadAsset, loadPicture }: Pick<Workshop, "loadAsset" | "loadPicture">): Workshop => ({
	solids,
	loadAsset,
	loadPicture,
	meshes: new Map(),
	reports: new Map(),
	pieces: new Map(),
	colliders: new Map(),
});

/** The hash of everything that an object's evaluated mesh depends on. */
export const meshHash = (shot: Shot, object: Id): Hash =>
	hashValue({ source: shot.objects[object]!.source, scale: worldScale(shot, object) });

/** Keeps the caches of long sessions from growing without end. */
export function remember<T>(store: Map<Hash, T>, hash: Hash, value: T, most: number): T {
	if (store.size >= most) store.delete(store.keys().next().value!);
	store.set(hash, value);
	return value;
}

/** The object's mesh at its real size, in its own frame. Endless shapes have an empty one. */
export async function buildMesh(workshop: Workshop, shot: Shot, object: Id): Promise<Outcome<Mesh>> {
	const hash = meshHash(shot, object);
	const known = workshop.meshes.get(hash);
	if (known) return good(known);
	const item = shot.objects[object]!;
	const { source } = item;
	let mesh: Mesh;
	if (source.kind === "shape") {
		const shape = shapeById(source.shape);
		if (!shape) return bad(`“${item.name}” is a “${source.shape}”, a shape this version does not know.`);
		const problem = shapeProblem(shape, source.parameters);
		if (problem) return bad(`“${item.name}”: ${problem}`);
		mesh = shape.build(source.parameters);
	} else {
		try {
			mesh = applyRepairs(workshop.solids, await workshop.loadAsset(source.asset), source.repairs);
		} catch (error) {
			return bad(
				`“${item.name}” could not be read or repaired: ${error instanceof Error ? error.message : error}. Undo the last repair, or import the file again.`,
			);
		}
	}
	return good(remember(workshop.meshes, hash, transformMesh(mesh, { scale: worldScale(shot, object) }), 300));
}

/** Size and faults of an object's mesh. */
export function reportMesh(workshop: Workshop, shot: Shot, object: Id, mesh: Mesh): MeshReport {
	const hash = meshHash(shot, object);
	return (
		workshop.reports.get(hash) ??
		remember(workshop.reports, hash, inspectMesh(workshop.solids, mesh, { size: boundsSize(bounds(mesh)), area: area(mesh) }), 300)
	);
}
