import { bad, type Outcome, type Progress, report } from "../common";
import { countNeighbours, type Opening, type Pieces } from "../fracture";
import { IDENTITY, quatAt, rotate, tripleAt, type Vec3, vec3 } from "../maths";
import type { Mesh } from "../mesh";
import { isEndless } from "../shapes";
import { changesShape } from "../shaping";
import { type ArraySource, type FullBodySettings, fractureOf, type Id, isBodiless, objectPath, orderedObjects, type Shot } from "../shot";
import { buildCopies } from "./copies";
import { keptPlaces, standing } from "./kept";
import { materialOf } from "./material";
import { measuresOf } from "./measures";
import { buildPieces, type CopyOf, piecesHash, strokeColumn } from "./pieces";
import { bodyPose, type PlaceInObject } from "./pose";
import { isNamed, regionsAround } from "./region";
import type { RuleFacts } from "./rule";
import { makeResolver } from "./settings";
import { buildMesh, meshHash, reportMesh, straightMesh, type Workshop } from "./workshop";

/** An object, a piece of one or a copy in an array that takes part in the simulation, or is only drawn (kind none). */
export interface Body extends PlaceInObject {
	/** The object's id, `<fracture id>:<piece key>`, `<array id>:<copy>` or `<fracture id>:<copy>/<piece key>`. */
	readonly id: string;
	/** What people see. */
	readonly path: string;
	readonly origin: "object" | "piece" | "copy";
	/** Counted among the pieces and copies of its object; −1 for a whole object. */
	readonly piece: number;
	/** What it has its shape and material from: the object itself, or the source that it is a copy of. */
	readonly source: Id;
	/** In the body's frame, before `scale`. Copies share one. */
	readonly mesh: Mesh;
	/** What the mesh is made from; equal for equal meshes. */
	readonly meshKey: string;
	/** Size of a copy as a multiple of its source; 1 for all else. */
	readonly scale: number;
	/** m³ and m² */
	readonly volume: number;
	readonly area: number;
	/** How many pieces it shares a face with. */
	readonly neighbours: number;
	readonly endless: boolean;
	/** Of an imported object whose shape changes by keys: what it is made from at each tick, see `meshAt`. */
	readonly straight?: Mesh | undefined;
	/** The regions in which it stands at the first frame. */
	readonly regions: readonly Id[];
	/** Where a crack opens beside it, see `crackOf`. */
	readonly opening?: Opening | undefined;
	readonly settings: FullBodySettings;
	/** kg; Infinity is not used: passive and endless bodies say what they would weigh, 0 where unknown. */
	readonly mass: number;
}

/** What a broken object has become; of an array, all its copies together. */
export interface PiecesFacts {
	readonly count: number;
	/** m³ */
	readonly lacking: number;
	readonly sourceVolume: number;
	readonly contacts: number;
}

export interface BuiltShot {
	/** Bodies that stand at kept places, and kept places whose body is gone or has become another. */
	readonly kept: { readonly used: number; readonly unused: number };
	readonly bodies: readonly Body[];
	readonly pieces: Readonly<Record<Id, PiecesFacts>>;
	readonly problems: readonly { readonly object: Id; readonly message: string }[];
}

/** A body before its settings are known. */
type RawBody = Omit<Body, "settings" | "mass" | "regions">;

/** Every object, piece or copy of the shot as a body, in the order of the ledger. */
export async function buildBodies(workshop: Workshop, shot: Shot, progress: Progress = {}): Promise<BuiltShot> {
	const bodies: Body[] = [];
	const facts: Record<Id, PiecesFacts> = {};
	const problems: { object: Id; message: string }[] = [];
	const resolver = makeResolver(shot);
	const regionsAt = await regionsAround(workshop, shot);
	const ids = orderedObjects(shot);
	const kept = await keptPlaces(workshop, shot);
	if (!kept.ok) problems.push(...kept.problems.map(({ message }) => ({ object: ids[0]!, message })));
	for (const [n, object] of ids.entries()) {
		await report(progress, n / ids.length, shot.objects[object]!.name);
		const own: Progress = {
			...progress,
			onProgress: (fraction, what) => progress.onProgress?.((n + fraction) / ids.length, `${shot.objects[object]!.name}: ${what}`),
		};
		const { source } = shot.objects[object]!;
		if (isBodiless({ source })) continue;
		const made =
			source.kind === "array" ? await arrayBodies(workshop, shot, object, source, own) : await objectBodies(workshop, shot, object, own);
		problems.push(...made.problems.map((message) => ({ object, message })));
		if (made.facts) facts[object] = made.facts;
		for (const body of made.bodies) {
			const stands = kept.ok ? standing(kept.value, body) : body;
			bodies.push(finishBody(shot, resolver, { ...stands, regions: regionsAt(bodyPose(shot, stands, 0).translation) }));
		}
	}
	const used = bodies.filter((body) => body.kept).length;
	const known = kept.ok && kept.value ? Object.keys(kept.value.bodies).length : 0;
	return { bodies, pieces: facts, problems, kept: { used, unused: known - used } };
}

interface MadeBodies {
	readonly bodies: readonly RawBody[];
	readonly facts?: PiecesFacts;
	readonly problems: readonly string[];
}

const failed = (outcome: Outcome<unknown>): string[] => (outcome.ok ? [] : outcome.problems.map(({ message }) => message));

/** A whole object, or its pieces. */
async function objectBodies(workshop: Workshop, shot: Shot, object: Id, progress: Progress): Promise<MadeBodies> {
	const mesh = await buildMesh(workshop, shot, object);
	if (!mesh.ok) return { bodies: [], problems: failed(mesh) };
	const pieces = await buildPieces(workshop, shot, object, progress);
	const { source } = shot.objects[object]!;
	const path = objectPath(shot, object);
	const fracture = fractureOf(shot, object);
	if (pieces?.ok) {
		const bodies = pieceBodies(pieces.value, {
			object,
			source: object,
			path: (name) => `${path}/${name}`,
			id: (key) => `${fracture}:${key}`,
			meshKey: piecesHash(shot, object)!,
			place: { object, offset: [0, 0, 0], turn: IDENTITY },
			scale: 1,
			from: 0,
		});
		return { bodies, facts: factsOf([pieces.value]), problems: [] };
	}
	const endless = isEndless(source);
	const facts = endless ? undefined : reportMesh(workshop, shot, object, mesh.value);
	const straight = source.kind === "mesh" && changesShape(shot, object) ? await straightMesh(workshop, shot, object) : undefined;
	const whole: RawBody = {
		...(straight?.ok && { straight: straight.value }),
		id: object,
		path,
		origin: "object",
		object,
		piece: -1,
		source: object,
		mesh: mesh.value,
		meshKey: meshHash(shot, object),
		scale: 1,
		volume: Math.max(0, facts?.volume ?? 0),
		area: facts?.area ?? 0,
		offset: [0, 0, 0],
		turn: IDENTITY,
		neighbours: 0,
		endless,
	};
	return { bodies: [whole], problems: pieces ? failed(pieces) : [] };
}

/** The copies of an array, or the pieces of every copy. */
async function arrayBodies(workshop: Workshop, shot: Shot, object: Id, source: ArraySource, progress: Progress): Promise<MadeBodies> {
	const array = await buildCopies(workshop, shot, object, progress);
	if (!array.ok) return { bodies: [], problems: failed(array) };
	const { copies, sources } = array.value;
	const path = objectPath(shot, object);
	const fracture = fractureOf(shot, object);
	const keys = source.sources.map((id) => meshHash(shot, id));
	const facts = sources.map(({ id, mesh }) => reportMesh(workshop, shot, id, mesh));
	const bodies: RawBody[] = [];
	const broken: Pieces[] = [];
	let problem: Outcome<Pieces> | undefined;
	for (let i = 0; i < copies.count; i++) {
		const which = copies.source[i]!;
		const { id, mesh } = sources[which]!;
		const scale = copies.scale[i]!;
		const name = copyName(i);
		const place = { object, offset: tripleAt(copies.position, i), turn: quatAt(copies.rotation, i) };
		if (fracture !== undefined && !problem) {
			await report(progress, i / copies.count, name);
			const copy: CopyOf = { source: id, index: i, count: copies.count };
			const pieces = (await buildPieces(workshop, shot, object, { ...progress, onProgress: () => undefined }, copy))!;
			if (pieces.ok) {
				broken.push(pieces.value);
				bodies.push(
					...pieceBodies(pieces.value, {
						object,
						source: id,
						path: (piece) => `${path}/${name}/${piece}`,
						id: (key) => `${fracture}:${i}/${key}`,
						meshKey: piecesHash(shot, object, copy)!,
						place,
						scale,
						from: bodies.length,
					}),
				);
				continue;
			}
			problem = bad(`${name}: ${pieces.problems[0]!.message}`);
		}
		bodies.push({
			id: `${object}:${i}`,
			path: `${path}/${name}`,
			origin: "copy",
			piece: bodies.length,
			source: id,
			mesh,
			meshKey: keys[which]!,
			scale,
			volume: Math.max(0, facts[which]!.volume) * scale ** 3,
			area: facts[which]!.area * scale * scale,
			neighbours: 0,
			endless: false,
			...place,
		});
	}
	return { bodies, ...(broken.length > 0 && { facts: factsOf(broken) }), problems: problem ? failed(problem) : [] };
}

/** Copies are counted from 1 in what people see. */
const copyName = (index: number): string => String(index + 1).padStart(5, "0");

interface PieceHome {
	readonly object: Id;
	readonly source: Id;
	readonly path: (name: string) => string;
	readonly id: (key: string) => string;
	readonly meshKey: string;
	readonly place: PlaceInObject;
	readonly scale: number;
	/** Number of the first piece in its object. */
	readonly from: number;
}

function pieceBodies(pieces: Pieces, home: PieceHome): RawBody[] {
	const neighbours = countNeighbours(pieces);
	const { offset, turn } = home.place;
	return pieces.pieces.map((piece, i) => ({
		id: home.id(piece.key),
		path: home.path(piece.name),
		origin: "piece",
		object: home.object,
		piece: home.from + i,
		source: home.source,
		mesh: piece.mesh,
		meshKey: `${home.meshKey}/${piece.key}`,
		scale: home.scale,
		volume: piece.volume * home.scale ** 3,
		area: piece.area * home.scale ** 2,
		offset: vec3.add(offset, rotate(turn, vec3.scale(piece.pivot, home.scale))),
		turn,
		neighbours: neighbours[i]!,
		endless: false,
		opening: piece.opening,
	}));
}

function factsOf(all: readonly Pieces[]): PiecesFacts {
	const sum = (of: (pieces: Pieces) => number) => all.reduce((total, pieces) => total + of(pieces), 0);
	return {
		count: sum(({ pieces }) => pieces.length),
		lacking: sum(({ lacking }) => lacking),
		sourceVolume: sum(({ sourceVolume }) => sourceVolume),
		contacts: sum(({ contacts }) => contacts.length),
	};
}

function finishBody(shot: Shot, resolver: ReturnType<typeof makeResolver>, body: RawBody & Pick<Body, "regions">): Body {
	const massOf = (settings: FullBodySettings) => settings.mass ?? body.volume * settings.density;
	const settings = resolver.resolve(body, (base) =>
		ruleFacts(shot, {
			...body,
			settings: base,
			mass: massOf(base),
			size: Math.max(...measuresOf(body.mesh).size) * body.scale,
			triangles: body.mesh.triangles.length / 3,
		}),
	);
	return { ...body, settings, mass: massOf(settings) };
}

/** A body without its mesh, as tables show it. */
export interface BodyRow extends Omit<Body, "mesh" | "meshKey" | "opening" | "straight"> {
	readonly triangles: number;
	/** Largest extent, metres. */
	readonly size: number;
	/** Of mass, in the body's frame, metres. */
	readonly centre: Vec3;
}

export function rowOf({ mesh, meshKey: _, opening: __, straight: ___, ...body }: Body): BodyRow {
	return {
		...body,
		triangles: mesh.triangles.length / 3,
		size: Math.max(...measuresOf(mesh).size) * body.scale,
		centre: centreOf({ mesh, ...body }),
	};
}

/** The centre of mass in the body's frame, metres: of its shape, and where somebody has moved it. */
export const centreOf = ({ mesh, scale, settings, endless }: Pick<Body, "mesh" | "scale" | "settings" | "endless">): Vec3 =>
	endless ? vec3.ZERO : vec3.add(vec3.scale(measuresOf(mesh).centroid, scale), settings.centre);

/** What rules and the ledger know of a body. */
export function ruleFacts(shot: Shot, body: Omit<BodyRow, "centre">): RuleFacts {
	const item = shot.objects[body.object]!;
	const place = bodyPose(shot, body, 0).translation;
	return {
		path: body.path,
		words: new Set([
			body.origin,
			body.settings.kind,
			materialOf(shot, body).name.toLowerCase(),
			...(item.hidden ? ["hidden"] : []),
			...(item.locked ? ["locked"] : []),
		]),
		columns: {
			volume: body.volume,
			mass: body.mass,
			area: body.area,
			height: place[1],
			size: body.size,
			triangles: body.triangles,
			neighbours: body.neighbours,
			...strokeColumn(shot, body.object, body.offset),
		},
		isIn: isNamed(shot, body.regions),
	};
}
