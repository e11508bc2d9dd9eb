import type { Body, FillFacts } from "@rubble/core/bodies";
import {
	type BuiltShot,
	buildBodies,
	buildMesh,
	buildPieces,
	colliderOf,
	estimateArrayFill,
	keptPlaces,
	livePatches,
	lookOf,
	makeWorkshop,
	mergeObjects,
	meshHash,
	piecesHash,
	pointsOutside,
	reportMesh,
	rowOf,
	splitObject,
	type Workshop,
} from "@rubble/core/bodies";
import { buildCrumbs, crumbRow, isCrumb, withCrumbs } from "@rubble/core/bonds";
import type { FrameEvents, FrameStore } from "@rubble/core/cache";
import { type Hash, hashValue, type Progress, report } from "@rubble/core/common";
import { encodeMesh, readSvg } from "@rubble/core/formats";
import { drawingToStrokes } from "@rubble/core/fracture";
import { edit, fractureOf, type Id, objectPath, orderedObjects, type Shot, tickOfFrame } from "@rubble/core/shot";
import {
	findStartOverlaps,
	frameHashes,
	hullsOf,
	makeScene,
	rapierEngine,
	runChecks,
	type SimScene,
	sunkAtEnd,
} from "@rubble/core/simulation";
import { loadSolids, type MeshReport } from "@rubble/core/solid";
import { transfer } from "comlink";
import { group } from "d3-array";
import manifoldWasm from "manifold-3d/manifold.wasm?url";
import { colliderLines as linesOf } from "./colliderLines";
import { makeCrew } from "./crew";
import { draw, drawingBuffers } from "./drawing";
import type { BuildResult, ColliderLines, Drawing, InspectResult, NeighbourRow, ReworkedPart, TakeScene, Ties } from "./messages";
import { keepAsset, loadAsset, loadPicture, loadPlaces, piecesShelf } from "./network";
import { begin, letMessagesIn, signalOf } from "./progress";
import { tiesOf } from "./ties";

const workshop: Promise<Workshop> = loadSolids(manifoldWasm).then((solids) =>
	makeWorkshop(solids, { loadAsset, loadPicture, loadPlaces, shelf: piecesShelf, crew: makeCrew(navigator.hardwareConcurrency) }),
);

/** A shot and what was made of it. The scene belongs to just this shot, so it lives and dies with its entry. */
interface Built {
	readonly shot: Shot;
	readonly result: BuiltShot;
	scene?: Promise<SimScene>;
}
let last: Built | undefined;

/** The bodies of this very shot; made anew where the last build was of another. */
async function entryFor(shot: Shot, progress: Progress = {}): Promise<Built> {
	// Each message brings a copy of the shot, so equal means equal in content.
	if (last && JSON.stringify(last.shot) === JSON.stringify(shot)) return last;
	const entry = { shot, result: await buildBodies(await workshop, shot, progress) };
	last = entry;
	return entry;
}

/** The bodies of a shot that is not the one being worked on (a take's snapshot); what is kept stays. */
export async function builtAside(shot: Shot): Promise<BuiltShot> {
	const kept = last;
	const { result } = await entryFor(shot);
	last = kept;
	return result;
}

/** Everything that a take of such a shot can hold frames of. */
export const bodiesOfTake = async (shot: Shot): Promise<readonly Body[]> =>
	withCrumbs(await workshop, shot, (await builtAside(shot)).bodies);

/** The scene of such a shot. */
export async function sceneAside(shot: Shot, progress: Progress = {}): Promise<{ built: BuiltShot; scene: SimScene }> {
	const made = await workshop;
	const built = await buildBodies(made, shot, progress);
	return { built, scene: await makeScene(made, shot, built.bodies, progress) };
}

/** Bodies of such a shot, and the places that it keeps. */
export async function bodiesAndPlaces(shot: Shot) {
	const places = await keptPlaces(await workshop, shot);
	return { bodies: (await builtAside(shot)).bodies, before: places.ok ? places.value : undefined };
}

/** Everything that is drawn of such a shot. */
export async function drawAside(shot: Shot): Promise<Pick<TakeScene, "bodies" | "crumbs" | "drawings">> {
	const { bodies } = await builtAside(shot);
	const crumbs = await buildCrumbs(await workshop, shot, bodies);
	const drawings: Record<Id, Drawing> = {};
	for (const [object, own] of group([...bodies, ...crumbs], (body) => body.object)) {
		const look = lookOf(shot, own[0]!);
		drawings[object] = draw(
			(await workshop).solids,
			object,
			hashValue([meshHash(shot, object), piecesHash(shot, object), look]),
			own,
			look,
		);
	}
	return { bodies: bodies.map(rowOf), crumbs: crumbs.map(crumbRow), drawings };
}

export async function sceneFor(shot: Shot, progress: Progress = {}): Promise<{ built: BuiltShot; scene: SimScene }> {
	const entry = await entryFor(shot, progress);
	for (;;) {
		entry.scene ??= workshop.then((made) => makeScene(made, shot, entry.result.bodies, progress));
		const scene = entry.scene;
		try {
			return { built: entry.result, scene: await scene };
		} catch (error) {
			if (entry.scene === scene) delete entry.scene;
			// Made for somebody else, who gave up: we still want it.
			if (progress.signal?.aborted || !(error instanceof Error && error.message === "cancelled")) throw error;
		}
	}
}

export async function build(
	shot: Shot,
	known: Readonly<Record<Id, Hash>>,
	onProgress: (fraction: number, what: string) => void,
): Promise<BuildResult> {
	const made = await workshop;
	const result = await buildBodies(made, shot, letMessagesIn(begin("build"), onProgress));
	last = { shot, result };
	const hashes: Record<Id, Hash> = {};
	const drawings: Drawing[] = [];
	const crumbs = await buildCrumbs(made, shot, result.bodies);
	const byObject = group([...result.bodies, ...crumbs], (body) => body.object);
	for (const object of orderedObjects(shot)) {
		const broken = piecesHash(shot, object);
		const own = byObject.get(object);
		const look = own?.[0] && lookOf(shot, own[0]);
		hashes[object] = hashValue([meshHash(shot, object), broken, look, own?.filter(isCrumb).map(({ id }) => id)]);
		if (known[object] !== hashes[object] && own && look) drawings.push(draw(made.solids, object, hashes[object], own, look));
	}
	return transfer(
		{
			bodies: result.bodies.map(rowOf),
			crumbs: crumbs.map(crumbRow),
			drawings,
			hashes,
			problems: result.problems,
			reports: withArrays(shot, Object.fromEntries(await reportsOf(shot))),
			pieces: result.pieces,
			kept: result.kept,
			frameHashes: frameHashes(shot),
		},
		drawings.flatMap(drawingBuffers),
	);
}

/** An array is told about as one of its copies. */
function withArrays(shot: Shot, reports: Record<Id, MeshReport>): Record<Id, MeshReport> {
	for (const [id, { source }] of Object.entries(shot.objects)) {
		const one = source.kind === "array" ? reports[source.sources[0]!] : undefined;
		if (one) reports[id] = one;
	}
	return reports;
}

export const estimate = async (shot: Shot, array: Id): Promise<FillFacts | undefined> => estimateArrayFill(await workshop, shot, array);

/** Several objects made into one, or one into its connected parts; the meshes are stored. */
export async function rework(shot: Shot, ids: readonly Id[], how: "merge" | "split"): Promise<readonly ReworkedPart[]> {
	const made = await workshop;
	const result = how === "merge" ? await mergeObjects(made, shot, ids) : await splitObject(made, shot, ids[0]!);
	if (!result.ok) throw new Error(result.problems[0]!.message);
	const parts = Array.isArray(result.value) ? result.value : [result.value];
	return Promise.all(parts.map(async ({ mesh, translation }) => ({ asset: await keepAsset(encodeMesh(mesh)), translation })));
}

/** Size and faults of every object that has a mesh. */
async function reportsOf(shot: Shot): Promise<Map<Id, MeshReport>> {
	const made = await workshop;
	const reports = new Map<Id, MeshReport>();
	for (const object of orderedObjects(shot)) {
		const mesh = await buildMesh(made, shot, object);
		if (mesh.ok && mesh.value.triangles.length > 0) reports.set(object, reportMesh(made, shot, object, mesh.value));
	}
	return reports;
}

export async function inspect(
	shot: Shot,
	events: FrameEvents | undefined,
	run: FrameStore | undefined,
	onProgress: (fraction: number, what: string) => void = () => undefined,
): Promise<InspectResult> {
	const progress = letMessagesIn(signalOf("build"), onProgress);
	const { built, scene } = await sceneFor(shot, progress);
	const reports = await reportsOf(shot);
	await report(progress, 1, "Checking");
	const overlaps = scene.count > 0 ? await findStartOverlaps(scene, rapierEngine) : [];
	const sunk = run && run.bodies === scene.shown && scene.count <= MOST_SUNK ? await sunkAtEnd(scene, rapierEngine, run) : undefined;
	const findings = runChecks({ shot, built, reports, scene, overlaps, sunk, events, run }).map(({ fixes, ...finding }) => ({
		...finding,
		fixes: fixes.map(({ label, command }) => ({ label, edit: edit(shot, command).edit })),
	}));
	const colliders: Record<string, InspectResult["colliders"][string]> = {};
	scene.ids.slice(0, scene.shown).forEach((id, i) => {
		const { choice, error, depth, shape } = scene.colliders[i]!;
		const patches = choice === "patches" ? scene.owner.reduce((sum, owner) => sum + Number(owner === i), -1) : 0;
		colliders[id] = {
			choice,
			error,
			...(depth !== undefined && { depth }),
			parts: patches || (shape.kind === "hulls" ? shape.hulls.length : 1),
			triangles: shape.kind === "mesh" ? shape.mesh.triangles.length / 3 : 0,
		};
	});
	return { findings, colliders };
}

/** Larger scenes are not looked at: it takes as long as many frames. */
const MOST_SUNK = 3000;

/** `frame`: at which colliders are shown whose shape changes. */
export async function colliderLines(shot: Shot, frame: number): Promise<ColliderLines> {
	const made = await workshop;
	const { result } = await entryFor(shot);
	const bodies = result.bodies.filter((body) => body.settings.kind !== "none" && !body.endless);
	const colliderAt = async (body: Body) => {
		const patches = livePatches(made, shot, body)?.at(tickOfFrame(shot.settings, frame));
		return patches ? hullsOf(patches.map((patch) => pointsOutside(patch, patch.points))) : colliderOf(made, shot, { ...body, scale: 1 });
	};
	const lines = linesOf(made.solids, await Promise.all(bodies.map(async (body) => ({ id: body.id, collider: await colliderAt(body) }))));
	return transfer(
		lines,
		[lines.lines, lines.body, lines.part, lines.away].map((array) => array.buffer as ArrayBuffer),
	);
}

export async function ties(shot: Shot): Promise<Ties> {
	const { built, scene } = await sceneFor(
		shot,
		letMessagesIn(signalOf("build"), () => undefined),
	);
	return tiesOf(shot, built, scene);
}

/** The faces that pieces of an object share. */
export async function neighbours(shot: Shot, object: Id): Promise<readonly NeighbourRow[]> {
	const made = await workshop;
	const fracture = fractureOf(shot, object);
	const pieces = await buildPieces(made, shot, object);
	if (!pieces?.ok || fracture === undefined) return [];
	const { contacts, pieces: list } = pieces.value;
	const path = objectPath(shot, object);
	const side = (i: number) => ({ id: `${fracture}:${list[i]!.key}`, path: `${path}/${list[i]!.name}` });
	return contacts.map(({ a, b, area, normal, centre }) => ({ a: side(a), b: side(b), area, normal, centre }));
}

export async function readStrokes(shot: Shot, object: Id, bytes: Uint8Array): Promise<number[][]> {
	const drawing = readSvg(bytes);
	if (!drawing.ok) throw new Error(drawing.problems[0]!.message);
	const mesh = await buildMesh(await workshop, shot, object);
	if (!mesh.ok) throw new Error(mesh.problems[0]!.message);
	return drawingToStrokes(mesh.value, drawing.value);
}
