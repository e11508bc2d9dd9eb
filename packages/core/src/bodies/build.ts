import { hashValue, type Progress, report } from "../common";
import { countNeighbours } from "../fracture";
import { bounds, boundsSize, type Mesh } from "../mesh";
import { shapeById } from "../shapes";
import { type FullBodySettings, fractureOf, type Id, objectPath, orderedObjects, type Shot } from "../shot";
import { type FittedCollider, fitCollider } from "./collider";
import { buildPieces, piecesHash } from "./pieces";
import { bodyPose } from "./pose";
import type { RuleFacts } from "./rule";
import { makeResolver } from "./settings";
import { buildMesh, meshHash, remember, reportMesh, type Workshop } from "./workshop";

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
			const neighbours = countNeighbours(pieces.value);
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
