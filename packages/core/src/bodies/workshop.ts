import { worldScale } from "../animation";
import { type Copies, layoutById } from "../arrays";
import { bad, good, type Hash, hashValue, type Outcome } from "../common";
import type { Crew, Picture, Pieces, PiecesShelf } from "../fracture";
import { type Mesh, makeMesh } from "../mesh";
import { shapeById, shapeProblem, shapeTexts } from "../shapes";
import { changesShape, meshAt, shapedAt, shapingProblem, sized, straightShape } from "../shaping";
import type { AssetRef, Described, Id, OptionValues, Shot } from "../shot";
import { applyRepairs, inspectMesh, type MeshReport, type Solids } from "../solid";
import type { FittedCollider } from "./collider";
import type { FillFacts } from "./fill";
import type { KeptPlaces } from "./kept";
import type { Patches } from "./patches";
import { poseIn } from "./pose";

/** What everything derived from a shot is made with, and the store of what was made already. */
export interface Workshop {
	readonly solids: Solids;
	/** The mesh of an asset; throws where it is not there. */
	readonly loadAsset: (asset: AssetRef) => Promise<Mesh>;
	/** The picture of an asset; throws where it is not there or damaged. */
	readonly loadPicture: (asset: AssetRef) => Promise<Picture>;
	/** Kept places; throws where they are not there or damaged. None can be had where absent. */
	readonly loadPlaces?: ((asset: AssetRef) => Promise<KeptPlaces>) | undefined;
	/** Where pieces are kept beyond this thread; nowhere where absent. */
	readonly shelf?: PiecesShelf | undefined;
	/** Other threads that break things along; none where absent. */
	readonly crew?: Crew | undefined;
	readonly meshes: Map<Hash, Mesh>;
	readonly reports: Map<Hash, MeshReport>;
	readonly pieces: Map<Hash, Outcome<Pieces>>;
	readonly copies: Map<Hash, Copies>;
	readonly fills: Map<Hash, { readonly facts: FillFacts | undefined }>;
	readonly colliders: Map<string, FittedCollider>;
	readonly patches: Map<string, Patches>;
	readonly places: Map<AssetRef, KeptPlaces>;
}

export const makeWorkshop = (
	solids: Solids,
	{ loadAsset, loadPicture, loadPlaces, shelf, crew }: Pick<Workshop, "loadAsset" | "loadPicture" | "loadPlaces" | "shelf" | "crew">,
): Workshop => ({
	shelf,
	crew,
	loadPlaces,
	solids,
	loadAsset,
	loadPicture,
	meshes: new Map(),
	reports: new Map(),
	pieces: new Map(),
	copies: new Map(),
	fills: new Map(),
	colliders: new Map(),
	patches: new Map(),
	places: new Map(),
});

/** The hash of everything that an object's evaluated mesh depends on; of an array, its copies. */
export function meshHash(shot: Shot, object: Id): Hash {
	const item = shot.objects[object]!;
	const { source, frame, bend } = shapedAt(item, 0);
	const scale = worldScale(shot, object);
	if (source.kind !== "array")
		return hashValue({
			source,
			scale,
			...(frame && { frame }),
			...(bend && { bend }),
			// How finely it is divided depends on all of them.
			...(changesShape(shot, object) && { keys: item.keys.numbers }),
		});
	const layout = layoutById(source.layout);
	return hashValue({
		source,
		scale,
		sources: source.sources.map((id) => meshHash(shot, id)),
		targets: layout ? namedObjects(shot, object, layout, source.options).map((id) => [meshHash(shot, id), poseIn(shot, object, id)]) : [],
	});
}

/** The objects that options name and that are there; never the object itself, and never an array. */
export const namedObjects = (
	shot: Shot,
	object: Id,
	{ options: specs }: Pick<Described, "options">,
	options: OptionValues,
	kind: "objects" | "places" = "objects",
): Id[] =>
	Object.entries(specs)
		.filter(([, spec]) => spec.kind === kind)
		.flatMap(([name]) => (options[name] ?? []) as readonly Id[])
		.filter((id) => id !== object && shot.objects[id] && shot.objects[id].source.kind !== "array");

/** Keeps the caches of long sessions from growing without end. */
export function remember<T>(store: Map<string, T>, hash: string, value: T, most: number): T {
	if (store.size >= most) store.delete(store.keys().next().value!);
	store.set(hash, value);
	return value;
}

/** The object's mesh at its real size, in its own frame. Endless shapes, arrays and helpers have an empty one. */
export async function buildMesh(workshop: Workshop, shot: Shot, object: Id): Promise<Outcome<Mesh>> {
	const hash = meshHash(shot, object);
	const known = workshop.meshes.get(hash);
	if (known) return good(known);
	const item = shot.objects[object]!;
	const { source } = item;
	if (source.kind !== "shape" && source.kind !== "mesh") return good(makeMesh([], []));
	const straight = await straightMesh(workshop, shot, object);
	if (!straight.ok) return straight;
	const problem = shapingProblem(shot, object, straight.value);
	if (problem) return bad(`“${item.name}”: ${problem}`);
	return good(remember(workshop.meshes, hash, meshAt(shot, object, 0, straight.value), 300));
}

/** A shape or an imported mesh at its real size, before it bends. */
export async function straightMesh(workshop: Workshop, shot: Shot, object: Id): Promise<Outcome<Mesh>> {
	const item = shot.objects[object]!;
	const { source } = shapedAt(item, 0);
	if (source.kind === "shape") {
		const shape = shapeById(source.shape);
		if (!shape) return bad(`“${item.name}” is a “${source.shape}”, a shape this version does not know.`);
		const problem = shapeProblem(shape, source.parameters, source.texts ?? shapeTexts(shape));
		return problem ? bad(`“${item.name}”: ${problem}`) : good(straightShape(shot, object, 0));
	}
	if (source.kind !== "mesh") return good(makeMesh([], []));
	try {
		return good(sized(shot, object, applyRepairs(workshop.solids, await workshop.loadAsset(source.asset), source.repairs)));
	} catch (error) {
		return bad(
			`“${item.name}” could not be read or repaired: ${error instanceof Error ? error.message : error}. Undo the last repair, or import the file again.`,
		);
	}
}

/** Size and faults of an object's mesh. */
export function reportMesh(workshop: Workshop, shot: Shot, object: Id, mesh: Mesh): MeshReport {
	const hash = meshHash(shot, object);
	return workshop.reports.get(hash) ?? remember(workshop.reports, hash, inspectMesh(workshop.solids, mesh), 300);
}
