import { worldScale } from "../animation";
import { bad, good, type Hash, hashValue, type Outcome, type Progress } from "../common";
import {
	breakMesh,
	countNeighbours,
	decodePieces,
	encodePieces,
	INSIDE_OPTIONS,
	methodById,
	nest,
	type Picture,
	type Pieces,
	shelfName,
	squaredToLine,
} from "../fracture";
import { IDENTITY, seedOf, type Vec3 } from "../maths";
import { bounds, boundsSize, type Mesh, topology, transformMesh } from "../mesh";
import {
	type AgainStep,
	type AssetRef,
	type Fracture,
	type FractureStep,
	fractureOf,
	type Id,
	type OptionValues,
	objectPath,
	type Shot,
} from "../shot";
import { bodyPose, poseIn } from "./pose";
import { isNamed, regionForm, regionsAround } from "./region";
import { matchesRule, parseRule } from "./rule";
import { buildMesh, meshHash, namedObjects, remember, type Workshop } from "./workshop";

/** One copy of an array: broken by itself. */
export interface CopyOf {
	readonly source: Id;
	/** Counted from 0. */
	readonly index: number;
	readonly count: number;
}

/** The hash of everything that an object's pieces depend on; undefined where it is whole. */
export function piecesHash(shot: Shot, object: Id, copy?: CopyOf): Hash | undefined {
	const fracture = shot.fractures[fractureOf(shot, object) ?? ""];
	if (!fracture) return undefined;
	const cutters = [fracture, ...(fracture.again ?? [])]
		.flatMap((step) => cutterIds(shot, object, step))
		.map((id) => ({ mesh: meshHash(shot, id), pose: poseIn(shot, object, id) }));
	const places = [fracture, ...(fracture.again ?? [])].flatMap((step) => placesOf(shot, object, step));
	const asksForRegions = fracture.again?.some(({ rule }) => /\bin\b/i.test(rule));
	return hashValue({
		mesh: meshHash(shot, copy?.source ?? object),
		...(copy && { copy: copy.index }),
		method: fracture.method,
		options: shaping(fracture.options),
		...(cutters.length > 0 && { cutters }),
		...(places.length > 0 && { places }),
		...(asksForRegions && { regions: regionsIn(shot, object) }),
		...(fracture.again &&
			fracture.again.length > 0 && { again: fracture.again.map((step) => ({ ...step, options: shaping(step.options) })) }),
	});
}

/** Options that make the pieces what they are: how their inside faces are drawn is not among them. */
const shaping = (options: OptionValues): OptionValues =>
	Object.fromEntries(Object.entries(options).filter(([name]) => !Object.hasOwn(INSIDE_OPTIONS, name)));

/** Where regions stand and how large they are, in the object's frame. */
const regionsIn = (shot: Shot, object: Id) =>
	Object.entries(shot.objects)
		.filter(([, { source }]) => source.kind === "region")
		.map(([id, { name }]) => [name, ...regionForm(shot, id), poseIn(shot, object, id), worldScale(shot, id)]);

/** Places that options name, 3 numbers each, in the object's frame. */
const placesOf = (shot: Shot, object: Id, { method, options }: FractureStep): number[] =>
	namedObjects(shot, object, methodById(method) ?? { options: {} }, options, "places").flatMap((id) => [
		...poseIn(shot, object, id).translation,
	]);

const cutterIds = (shot: Shot, object: Id, { method, options }: FractureStep): Id[] =>
	namedObjects(shot, object, methodById(method) ?? { options: {} }, options);

async function cutterMeshes(workshop: Workshop, shot: Shot, object: Id, step: FractureStep): Promise<Outcome<Mesh[]>> {
	const meshes: Mesh[] = [];
	for (const id of cutterIds(shot, object, step)) {
		const mesh = await buildMesh(workshop, shot, id);
		if (!mesh.ok) return mesh;
		if (!topology(mesh.value).closed) return bad(`“${shot.objects[id]!.name}” is not closed, so it cannot cut. Repair it in Shape first.`);
		meshes.push(transformMesh(mesh.value, poseIn(shot, object, id)));
	}
	return good(meshes);
}

/**
 * The pieces of a broken object, or of one copy of a broken array; undefined for a whole one. Problems of the mesh or
 * the options come back as such.
 */
export async function buildPieces(
	workshop: Workshop,
	shot: Shot,
	object: Id,
	progress: Progress = {},
	copy?: CopyOf,
): Promise<Outcome<Pieces> | undefined> {
	const hash = piecesHash(shot, object, copy);
	if (!hash) return undefined;
	const room = 24 + 2 * (copy?.count ?? 0);
	const known = workshop.pieces.get(hash);
	if (known) return known;
	const kept = await fromShelf(workshop, hash);
	if (kept) return remember(workshop.pieces, hash, good(kept), room);
	const mesh = await buildMesh(workshop, shot, copy?.source ?? object);
	if (!mesh.ok) return mesh;
	const fracture = shot.fractures[fractureOf(shot, object)!]!;
	const own = copy ? { ...fracture, options: reseeded(fracture.options, `${copy.index}`) } : fracture;
	const made = await breakInSteps(workshop, shot, own, mesh.value, progress);
	const seconds = methodById(own.method)?.estimate(mesh.value.triangles.length / 3, own.options) ?? 0;
	if (made.ok && seconds > WORTH_KEEPING) await keepOnShelf(workshop, hash, made.value);
	return remember(workshop.pieces, hash, made, room);
}

/** What takes longer is kept for others. s */
const WORTH_KEEPING = 1;

/** Pieces that somebody has broken before. A shelf that is out of reach, or damaged, only means that they are broken again. */
async function fromShelf({ shelf }: Workshop, hash: Hash): Promise<Pieces | undefined> {
	const bytes = await shelf?.load(shelfName(hash)).catch(() => undefined);
	const pieces = bytes && decodePieces(bytes);
	return pieces?.ok ? pieces.value : undefined;
}

const keepOnShelf = async ({ shelf }: Workshop, hash: Hash, pieces: Pieces): Promise<void> =>
	shelf?.keep(shelfName(hash), encodePieces(pieces)).catch(() => undefined);

/** Keeps the pieces of an object on the shelf, however quickly they were made. */
export async function shelvePieces(workshop: Workshop, shot: Shot, object: Id): Promise<void> {
	const hash = piecesHash(shot, object);
	const made = hash ? workshop.pieces.get(hash) : undefined;
	if (made?.ok) await keepOnShelf(workshop, hash!, made.value);
}

/** The first break, then every step that breaks some of its pieces again. */
async function breakInSteps(workshop: Workshop, shot: Shot, fracture: Fracture, mesh: Mesh, progress: Progress): Promise<Outcome<Pieces>> {
	let made = await breakOnce(workshop, shot, fracture.object, fracture, mesh, progress);
	for (const [number, step] of (fracture.again ?? []).entries()) {
		if (!made.ok) return made;
		const chosen = await chosenPieces(workshop, shot, fracture.object, made.value, step);
		if (!chosen.ok) return chosen;
		const broken = new Map<number, Pieces>();
		for (const index of chosen.value) {
			const piece = made.value.pieces[index]!;
			// Each piece breaks its own way.
			const options = reseeded(step.options, piece.key);
			const parts = await breakOnce(
				workshop,
				shot,
				fracture.object,
				{ ...step, options },
				// What lies beyond its faces is the outer break's business.
				{ ...transformMesh(piece.mesh, { translation: piece.pivot }), neighbour: new Int32Array(0) },
				{
					...progress,
					onProgress: (fraction) =>
						progress.onProgress?.((broken.size + fraction) / chosen.value.length, `Step ${number + 2}: ${piece.name}`),
				},
			);
			if (!parts.ok) return bad(`Step ${number + 2}, ${piece.name}: ${parts.problems[0]!.message}`);
			broken.set(index, parts.value);
		}
		made = good(nest(made.value, broken));
	}
	return made;
}

/** The same options with a seed of one's own, where there is one. */
function reseeded(options: OptionValues, key: string): OptionValues {
	const { seed } = options;
	return typeof seed === "number" ? { ...options, seed: Math.abs(seed + seedOf(key)) % 1_000_000 } : options;
}

/** How far a place in the object's frame is from the nearest line that its first break was drawn by, metres; nothing without lines. */
export function strokeColumn(shot: Shot, object: Id, place: Vec3): { readonly stroke?: number } {
	const fracture = shot.fractures[fractureOf(shot, object) ?? ""];
	const lines = Object.entries(methodById(fracture?.method ?? "")?.options ?? {}).flatMap(([name, { kind }]) =>
		kind === "strokes" ? ((fracture!.options[name] ?? []) as readonly (readonly number[])[]) : [],
	);
	return lines.length > 0
		? { stroke: Math.sqrt(lines.reduce((least, line) => Math.min(least, squaredToLine(line, ...place)), Infinity)) }
		: {};
}

/** Indices of the pieces that a step breaks. */
async function chosenPieces(
	workshop: Workshop,
	shot: Shot,
	object: Id,
	{ pieces, contacts }: Pieces,
	{ pieces: names, rule }: AgainStep,
): Promise<Outcome<number[]>> {
	if (names.length > 0) {
		const wanted = new Set(names);
		return good(pieces.flatMap((piece, i) => (wanted.has(piece.name) ? [i] : [])));
	}
	const parsed = parseRule(rule);
	if (!parsed.ok) return bad(`The rule “${rule}” of a further break cannot be read: ${parsed.problems[0]!.message}`);
	const neighbours = countNeighbours({ pieces, contacts });
	const regionsAt = await regionsAround(workshop, shot);
	const item = shot.objects[object]!;
	const { density, name } = shot.materials[item.material]!;
	return good(
		pieces.flatMap((piece, i) => {
			const place = bodyPose(shot, { object, offset: piece.pivot, turn: IDENTITY }, 0).translation;
			const facts = {
				path: `${objectPath(shot, object)}/${piece.name}`,
				words: new Set(["piece", name.toLowerCase()]),
				columns: {
					volume: piece.volume,
					mass: piece.volume * density,
					area: piece.area,
					height: place[1],
					size: Math.max(...boundsSize(bounds(piece.mesh))),
					triangles: piece.mesh.triangles.length / 3,
					neighbours: neighbours[i]!,
					...strokeColumn(shot, object, piece.pivot),
				},
				isIn: isNamed(shot, regionsAt(place)),
			};
			return matchesRule(parsed.value, facts) ? [i] : [];
		}),
	);
}

async function breakOnce(
	workshop: Workshop,
	shot: Shot,
	object: Id,
	step: FractureStep,
	mesh: Mesh,
	progress: Progress,
): Promise<Outcome<Pieces>> {
	const method = methodById(step.method);
	if (!method) return bad(`“${shot.objects[object]!.name}” is broken by “${step.method}”, a method this version does not know.`);
	const cutters = await cutterMeshes(workshop, shot, object, step);
	if (!cutters.ok) return cutters;
	const pictures: Picture[] = [];
	for (const [name, spec] of Object.entries(method.options)) {
		const asset = step.options[name];
		if (spec.kind !== "picture" || typeof asset !== "string") continue;
		try {
			pictures.push(await workshop.loadPicture(asset as AssetRef));
		} catch (error) {
			return bad(`The picture of “${shot.objects[object]!.name}” could not be read: ${error instanceof Error ? error.message : error}`);
		}
	}
	return breakMesh(workshop.solids, mesh, method, step.options, {
		...progress,
		crew: workshop.crew,
		cutters: cutters.value,
		pictures,
		places: placesOf(shot, object, step),
	});
}
