import { type Body, type BodyRow, bodyMoves, measuresOf, membersOf, rowOf, type Workshop } from "../bodies";
import { type Progress, report } from "../common";
import { breakMesh, methodById, type Piece, type Pieces } from "../fracture";
import { type Quat, rotate, seedOf, type Vec3, vec3 } from "../maths";
import type { Mesh } from "../mesh";
import type { Id, Shot } from "../shot";
import { activeBondSets } from "./specs";

/** A small stone that a piece leaves where it crumbles. */
export interface Crumb extends Body {
	/** The piece's id. */
	readonly crumbOf: string;
	/** The bond set that says so. */
	readonly crumbSet: Id;
}

/** A crumb without its mesh, as the view places it. */
export type CrumbRow = BodyRow & Pick<Crumb, "crumbOf" | "crumbSet">;
export const crumbRow = (crumb: Crumb): CrumbRow => ({ ...rowOf(crumb), crumbOf: crumb.crumbOf, crumbSet: crumb.crumbSet });

export const isCrumb = (body: Body): body is Crumb => "crumbOf" in body;

/** What stands between a piece's id and what tells its crumbs apart. */
const MARK = "~";

/** The piece that a crumb is of; whatever is no crumb is itself. */
export const pieceOfCrumb = (id: string): string => id.split(MARK)[0]!;

/**
 * The small stones that pieces leave where they crumble: the Voronoi cells of each, so that they fill its room and weigh
 * what it did. They have the piece's settings and are not there before it crumbles.
 */
export async function buildCrumbs(workshop: Workshop, shot: Shot, bodies: readonly Body[], progress: Progress = {}): Promise<Crumb[]> {
	const crumbs: Crumb[] = [];
	const leaving = leavers(shot, bodies);
	for (const [n, { body: i, set, stones }] of leaving.entries()) {
		if (n % 16 === 0) await report(progress, n / leaving.length, `Crumbs of ${bodies[i]!.path}`);
		const made = await stonesOf(workshop, bodies[i]!, stones);
		if (!made) continue;
		const whole = made.pieces.reduce((sum, { volume }) => sum + volume, 0);
		crumbs.push(...made.pieces.map((stone, k) => crumbOf(bodies[i]!, set, stone, k, stone.volume / whole)));
	}
	return crumbs;
}

/** Bodies with the crumbs that they may leave: all that a run can store frames of. */
export const withCrumbs = async (workshop: Workshop, shot: Shot, bodies: readonly Body[], progress?: Progress): Promise<Body[]> => [
	...bodies,
	...(await buildCrumbs(workshop, shot, bodies, progress)),
];

/** Pieces that may leave stones, and how many each; the first set that means one says. */
function leavers(shot: Shot, bodies: readonly Body[]): { body: number; set: Id; stones: number }[] {
	const leaving = new Map<number, { set: Id; stones: number }>();
	for (const { id, options } of activeBondSets(shot)) {
		if (options.strength === "endless" || options.leaves !== "stones" || !(options.dust > 0)) continue;
		for (const i of membersOf(shot, bodies, options.on ?? "")) {
			const { mesh, scale, volume } = bodies[i]!;
			const small = Math.max(...measuresOf(mesh).size) * scale <= options.dust;
			if (small && volume > 0 && !bodyMoves(shot, bodies[i]!) && !leaving.has(i)) leaving.set(i, { set: id, stones: options.stones });
		}
	}
	return [...leaving].map(([body, how]) => ({ body, ...how })).sort((a, b) => a.body - b.body);
}

/** What was made of a mesh, by how many stones: as long as its pieces are kept, so is this. */
const known = new WeakMap<Mesh, Map<number, Promise<Pieces | undefined>>>();

/** A piece's stones in its own frame; undefined where it cannot be cut, so that it leaves nothing. */
function stonesOf({ solids }: Workshop, { mesh, meshKey }: Body, stones: number): Promise<Pieces | undefined> {
	const own = known.get(mesh) ?? new Map<number, Promise<Pieces | undefined>>();
	known.set(mesh, own);
	const made =
		own.get(stones) ??
		breakMesh(solids, { ...mesh, neighbour: new Int32Array(0) }, methodById("voronoi")!, {
			count: stones,
			spread: "even",
			// Each crumbles its own way, copies of one mesh alike.
			seed: Math.abs(seedOf(meshKey) % 1_000_000),
		}).then((broken) => (broken.ok ? broken.value : undefined));
	own.set(stones, made);
	return made;
}

/** `share`: of the piece's mass. */
function crumbOf(piece: Body, set: Id, { key, mesh, pivot, volume, area }: Piece, k: number, share: number): Crumb {
	const { kept, opening: _, straight: __, ...rest } = piece;
	const within = (place: Vec3, turn: Quat) => vec3.add(place, rotate(turn, vec3.scale(pivot, piece.scale)));
	return {
		...rest,
		crumbOf: piece.id,
		crumbSet: set,
		id: `${piece.id}${MARK}${key}`,
		path: `${piece.path}/stone ${k + 1}`,
		mesh,
		meshKey: `${piece.meshKey}${MARK}${key}/${Math.round(share * 1e9)}`,
		volume: volume * piece.scale ** 3,
		area: area * piece.scale ** 2,
		offset: within(piece.offset, piece.turn),
		kept: kept && { ...kept, translation: within(kept.translation, kept.rotation) },
		neighbours: 0,
		mass: piece.mass * share,
		settings: {
			...piece.settings,
			...(piece.settings.mass !== undefined && { mass: piece.settings.mass * share }),
			centre: vec3.ZERO,
			wake: { when: "start" },
			velocity: vec3.ZERO,
			spin: vec3.ZERO,
		},
	};
}
