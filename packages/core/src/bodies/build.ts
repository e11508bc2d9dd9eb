import { type Pose, worldPose, worldScale } from "../animation";
import { bad, good, type Hash, hashValue, type Outcome, type Progress, report } from "../common";
import { breakMesh, methodById, type Picture, type Pieces } from "../fracture";
import { compose, inverse, rotate, vec3 } from "../maths";
import { area, bounds, boundsSize, type Mesh, topology, transformMesh } from "../mesh";
import { shapeById, shapeProblem } from "../shapes";
import { type AssetRef, type Fracture, type FullBodySettings, fractureOf, type Id, objectPath, orderedObjects, type Shot } from "../shot";
import { applyRepairs, inspectMesh, type MeshReport, type Solids } from "../solid";
import { type FittedCollider, fitCollider } from "./collider";
import type { RuleFacts } from "./rule";
import { makeResolver } from "./settings";

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

/** The hash of everything that an object's pieces depend on; undefined where it is whole. */
export function piecesHash(shot: Shot, object: Id): Hash | undefined {
	const fracture = shot.fractures[fractureOf(shot, object) ?? ""];
	if (!fracture) return undefined;
	const cutters = cutterIds(shot, fracture).map((id) => ({ mesh: meshHash(shot, id), pose: poseIn(shot, object, id) }));
	return hashValue({
		mesh: meshHash(shot, object),
		method: fracture.method,
		options: fracture.options,
		...(cutters.length > 0 && { cutters }),
	});
}

/** The objects that a fracture's options name and that are there. */
function cutterIds(shot: Shot, { object, method, options }: Fracture): Id[] {
	return Object.entries(methodById(method)?.options ?? {})
		.filter(([, spec]) => spec.kind === "objects")
		.flatMap(([name]) => (options[name] ?? []) as readonly Id[])
		.filter((id) => id !== object && shot.objects[id]);
}

/** Where another object stands at the first frame, in the frame of this one. */
function poseIn(shot: Shot, object: Id, other: Id): Pose {
	const own = worldPose(shot, object, 0);
	const { translation, rotation } = worldPose(shot, other, 0);
	const back = inverse(own.rotation);
	return { translation: rotate(back, vec3.subtract(translation, own.translation)), rotation: compose(back, rotation) };
}

async function cutterMeshes(workshop: Workshop, shot: Shot, object: Id, fracture: Fracture): Promise<Outcome<Mesh[]>> {
	const meshes: Mesh[] = [];
	for (const id of cutterIds(shot, fracture)) {
		const mesh = await buildMesh(workshop, shot, id);
		if (!mesh.ok) return mesh;
		if (!topology(mesh.value).closed) return bad(`“${shot.objects[id]!.name}” is not closed, so it cannot cut. Repair it in Shape first.`);
		meshes.push(transformMesh(mesh.value, poseIn(shot, object, id)));
	}
	return good(meshes);
}

/** Keeps the caches of long sessions from growing without end. */
function remember<T>(store: Map<Hash, T>, hash: Hash, value: T, most: number): T {
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

/** The pieces of a broken object; undefined for a whole one. Problems of the mesh or the options come back as such. */
export async function buildPieces(
	workshop: Workshop,
	shot: Shot,
	object: Id,
	progress: Progress = {},
): Promise<Outcome<Pieces> | undefined> {
	const hash = piecesHash(shot, object);
	if (!hash) return undefined;
	const known = workshop.pieces.get(hash);
	if (known) return known;
	const mesh = await buildMesh(workshop, shot, object);
	if (!mesh.ok) return mesh;
	const fracture = shot.fractures[fractureOf(shot, object)!]!;
	const method = methodById(fracture.method);
	if (!method) return bad(`“${shot.objects[object]!.name}” is broken by “${fracture.method}”, a method this version does not know.`);
	const cutters = await cutterMeshes(workshop, shot, object, fracture);
	if (!cutters.ok) return cutters;
	const pictures: Picture[] = [];
	for (const [name, spec] of Object.entries(method.options)) {
		const asset = fracture.options[name];
		if (spec.kind !== "picture" || typeof asset !== "string") continue;
		try {
			pictures.push(await workshop.loadPicture(asset as AssetRef));
		} catch (error) {
			return bad(`The picture of “${shot.objects[object]!.name}” could not be read: ${error instanceof Error ? error.message : error}`);
		}
	}
	const made = await breakMesh(workshop.solids, mesh.value, method, fracture.options, { ...progress, cutters: cutters.value, pictures });
	return remember(workshop.pieces, hash, made, 24);
}

/** An object or a piece that takes part in the simulation, or is only drawn (kind none). */
export interface Body {
	/** The object's id, or `<fracture id>:<piece key>`. */
	readonly id: string;
	/** What people see. */
	readonly path: string;
	readonly object: Id;
	/** Index into the object's pieces; −1 for a whole object. */
	readonly piece: number;
	readonly mesh: Mesh;
	/** m³ and m² */
	readonly volume: number;
	readonly area: number;
	/** From the body's frame to the object's frame: the pivot of a piece. */
	readonly offset: readonly [number, number, number];
	/** How many pieces it shares a face with. */
	readonly neighbours: number;
	readonly endless: boolean;
	readonly settings: FullBodySettings;
	/** kg; Infinity is not used: passive and endless bodies say what they would weigh, 0 where unknown. */
	readonly mass: number;
}

export interface BuiltShot {
	readonly bodies: readonly Body[];
	readonly problems: readonly { readonly object: Id; readonly message: string }[];
}

/** Every object or piece of the shot as a body, in the order of the ledger. */
export async function buildBodies(workshop: Workshop, shot: Shot, progress: Progress = {}): Promise<BuiltShot> {
	const bodies: Body[] = [];
	const problems: { object: Id; message: string }[] = [];
	const resolver = makeResolver(shot);
	const ids = orderedObjects(shot);
	for (const [n, object] of ids.entries()) {
		await report(progress, n / ids.length, shot.objects[object]!.name);
		const mesh = await buildMesh(workshop, shot, object);
		if (!mesh.ok) {
			problems.push(...mesh.problems.map(({ message }) => ({ object, message })));
			continue;
		}
		const pieces = await buildPieces(workshop, shot, object, {
			...progress,
			onProgress: (fraction, what) => progress.onProgress?.((n + fraction) / ids.length, `${shot.objects[object]!.name}: ${what}`),
		});
		if (pieces && !pieces.ok) problems.push(...pieces.problems.map(({ message }) => ({ object, message })));
		const path = objectPath(shot, object);
		if (pieces?.ok) {
			const fracture = fractureOf(shot, object)!;
			const neighbours = new Int32Array(pieces.value.pieces.length);
			for (const { a, b } of pieces.value.contacts) {
				neighbours[a]!++;
				neighbours[b]!++;
			}
			for (const [index, piece] of pieces.value.pieces.entries())
				bodies.push(
					finishBody(shot, resolver, {
						id: `${fracture}:${piece.key}`,
						path: `${path}/${piece.name}`,
						object,
						piece: index,
						mesh: piece.mesh,
						volume: piece.volume,
						area: piece.area,
						offset: piece.pivot,
						neighbours: neighbours[index]!,
						endless: false,
					}),
				);
			continue;
		}
		const source = shot.objects[object]!.source;
		const endless = source.kind === "shape" && shapeById(source.shape)?.endless === true;
		const facts = endless ? undefined : reportMesh(workshop, shot, object, mesh.value);
		bodies.push(
			finishBody(shot, resolver, {
				id: object,
				path,
				object,
				piece: -1,
				mesh: mesh.value,
				volume: Math.max(0, facts?.volume ?? 0),
				area: facts?.area ?? 0,
				offset: [0, 0, 0],
				neighbours: 0,
				endless,
			}),
		);
	}
	return { bodies, problems };
}

function finishBody(shot: Shot, resolver: ReturnType<typeof makeResolver>, body: Omit<Body, "settings" | "mass">): Body {
	const massOf = (settings: FullBodySettings) => settings.mass ?? body.volume * settings.density;
	const settings = resolver.resolve(body.object, body.id, (base) => ruleFacts(shot, { ...body, settings: base, mass: massOf(base) }));
	return { ...body, settings, mass: massOf(settings) };
}

/** What rules and the ledger know of a body. */
export function ruleFacts(shot: Shot, body: Body): RuleFacts {
	const item = shot.objects[body.object]!;
	const size = boundsSize(bounds(body.mesh));
	return {
		path: body.path,
		words: new Set([
			body.piece >= 0 ? "piece" : "object",
			body.settings.kind,
			shot.materials[item.material]!.name.toLowerCase(),
			...(item.hidden ? ["hidden"] : []),
			...(item.locked ? ["locked"] : []),
		]),
		columns: {
			volume: body.volume,
			mass: body.mass,
			area: body.area,
			height: bodyPose(shot, body, 0).translation[1],
			size: Math.max(...size),
			triangles: body.mesh.triangles.length / 3,
			neighbours: body.neighbours,
		},
	};
}

/** Where the body stands before it moves by itself: its object's pose, at its own pivot. */
export function bodyPose(shot: Shot, body: Pick<Body, "object" | "offset">, tick: number): Pose {
	const { translation, rotation } = worldPose(shot, body.object, tick);
	return { translation: vec3.add(translation, rotate(rotation, body.offset)), rotation };
}

/** The body's collider, found once per mesh and choice. */
export function bodyCollider(workshop: Workshop, shot: Shot, body: Body): FittedCollider {
	if (body.endless) return { shape: { kind: "ground" }, choice: "ground", error: 0 };
	const { collider, kind } = body.settings;
	const whole = piecesHash(shot, body.object) ?? meshHash(shot, body.object);
	const hash = hashValue([whole, body.id, body.piece, collider, kind === "active"]);
	return (
		workshop.colliders.get(hash) ?? remember(workshop.colliders, hash, fitCollider(workshop.solids, body.mesh, collider, kind), 200_000)
	);
}
