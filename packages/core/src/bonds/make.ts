import {
	type Body,
	bodyPose,
	buildPieces,
	matchesRule,
	materialOf,
	membersOf,
	parseRule,
	rowOf,
	ruleFacts,
	type Workshop,
} from "../bodies";
import { type Progress, report } from "../common";
import { squaredToLine } from "../fracture";
import { makeCurve, noise3, rotate, type Vec3, vec3 } from "../maths";
import { makeMesh } from "../mesh";
import type { BondChange, BondSet, Id, Shot, Strength } from "../shot";
import { type Facing, facing, near, type Placed, placeMesh, squareFace } from "./facing";
import { groupPieces } from "./slabs";
import { activeBondSets, type BondOptions } from "./specs";
import type { BondSetFacts, Bonds } from "./types";

/** A bond before it lies in the arrays. */
interface Draft extends Facing {
	readonly a: number;
	readonly b: number;
}

/** Everything that the bond sets of a shot tie together. `bodies`: as `buildBodies` gave them; bonds are numbered by them. */
export async function makeBonds(workshop: Workshop, shot: Shot, bodies: readonly Body[], progress: Progress = {}): Promise<Bonds> {
	const all: { draft: Draft; set: number; strength: Strength; yields: number }[] = [];
	const sets: BondSetFacts[] = [];
	const taken = new Set<number>();
	const active = activeBondSets(shot);
	const placer = makePlacer(shot, bodies);
	for (const [n, { id, options }] of active.entries()) {
		const { name, changes, slabs = [] } = shot.bondSets[id]!;
		await report(progress, n / active.length, `Bonds of ${name}`);
		const members = membersOf(shot, bodies, options.on ?? "");
		const drafts = [
			...(options.by === "faces"
				? await sharedFaces(workshop, shot, bodies, members, placer)
				: closeFaces(bodies, members, placer, options)),
			...(options.foot === "touching" ? footFaces(bodies, members, placer, options.reach) : []),
		];
		const strengthOf = strengths(shot, bodies, members, options, changes, slabs);
		const fade = makeCurve(options.fade);
		sets.push({
			id,
			left: options.fades === "frames" ? fade : () => 1,
			fades: options.fades === "frames",
			dust: options.strength === "endless" ? 0 : options.dust,
			dustAfter: options.dustAfter,
		});
		for (const draft of drafts) {
			// A pair that two sets mean belongs to the first.
			const pair = Math.min(draft.a, draft.b) * bodies.length + Math.max(draft.a, draft.b);
			if (taken.has(pair)) continue;
			const strength = strengthOf(draft);
			if (!strength) continue;
			taken.add(pair);
			all.push({ draft, set: sets.length - 1, strength, yields: options.yields });
		}
	}
	return pack(all, sets);
}

function pack(all: readonly { draft: Draft; set: number; strength: Strength; yields: number }[], sets: readonly BondSetFacts[]): Bonds {
	const triples = (of: (draft: Draft) => readonly number[]) => Float64Array.from(all.flatMap(({ draft }) => [...of(draft)]));
	const pascals = (field: "tension" | "shear" | "compression") => Float64Array.from(all, ({ strength }) => strength[field] * 1e6);
	return {
		count: all.length,
		a: Int32Array.from(all, ({ draft }) => draft.a),
		b: Int32Array.from(all, ({ draft }) => draft.b),
		area: Float64Array.from(all, ({ draft }) => draft.area),
		centre: triples(({ centre }) => centre),
		normal: triples(({ normal }) => normal),
		across: triples(({ across }) => across),
		moments: triples(({ moments }) => moments),
		reach: triples(({ reach }) => reach),
		tension: pascals("tension"),
		shear: pascals("shear"),
		compression: pascals("compression"),
		energy: Float64Array.from(all, ({ strength }) => strength.energy),
		yields: Float64Array.from(all, ({ yields }) => yields),
		set: Uint16Array.from(all, ({ set }) => set),
		sets,
	};
}

/** Meshes where their bodies stand at the first frame, each placed once. */
type Placer = (body: number) => Placed;

function makePlacer(shot: Shot, bodies: readonly Body[]): Placer {
	const known = new Map<number, Placed>();
	return (i) => {
		const body = bodies[i]!;
		const { translation, rotation } = bodyPose(shot, body, 0);
		const placed = known.get(i) ?? placeMesh(body.endless ? PLANE : body.mesh, body.scale, translation, rotation);
		known.set(i, placed);
		return placed;
	};
}

/** What stands for endless ground, metres. */
const WIDE = 2000;
const PLANE = makeMesh([-WIDE, 0, -WIDE, -WIDE, 0, WIDE, WIDE, 0, WIDE, WIDE, 0, -WIDE], [0, 1, 2, 0, 2, 3]);

/** The faces that pieces of one break share: area, centre and normal as the break knows them exactly. */
async function sharedFaces(
	workshop: Workshop,
	shot: Shot,
	bodies: readonly Body[],
	members: readonly number[],
	placer: Placer,
): Promise<Draft[]> {
	const drafts: Draft[] = [];
	const byHome = new Map<string, Map<string, number>>();
	for (const i of members) {
		const { id, origin, object } = bodies[i]!;
		if (origin !== "piece") continue;
		const own = id.slice(id.indexOf(":") + 1);
		const copy = shot.objects[object]!.source.kind === "array" ? own.slice(0, own.indexOf("/")) : "";
		const key = copy === "" ? own : own.slice(copy.length + 1);
		const home = `${object} ${copy}`;
		const keys = byHome.get(home) ?? new Map<string, number>();
		keys.set(key, i);
		byHome.set(home, keys);
	}
	for (const [home, keys] of byHome) {
		const [object, copy] = home.split(" ") as [Id, string];
		const { source } = shot.objects[object]!;
		const first = bodies[keys.values().next().value!]!;
		const copyOf =
			source.kind === "array" ? { source: first.source, index: Number(copy), count: Number(source.options.count ?? 0) } : undefined;
		const pieces = await buildPieces(workshop, shot, object, {}, copyOf);
		if (!pieces?.ok) continue;
		for (const contact of pieces.value.contacts) {
			const [pa, pb] = [pieces.value.pieces[contact.a]!, pieces.value.pieces[contact.b]!];
			const [a, b] = [keys.get(pa.key), keys.get(pb.key)];
			if (a === undefined || b === undefined) continue;
			const body = bodies[a]!;
			const { translation, rotation } = bodyPose(shot, body, 0);
			const normal = rotate(rotation, contact.normal);
			const centre = vec3.add(translation, rotate(rotation, vec3.scale(vec3.subtract(contact.centre, pa.pivot), body.scale)));
			// Pieces that an earlier run has left apart share no face any more.
			const other = bodyPose(shot, bodies[b]!, 0);
			const there = vec3.add(other.translation, rotate(other.rotation, vec3.scale(vec3.subtract(contact.centre, pb.pivot), body.scale)));
			if (vec3.length(vec3.subtract(there, centre)) > APART) continue;
			const area = contact.area * body.scale ** 2;
			if (!(area > 0) || vec3.length(normal) === 0) continue;
			// The break does not say how the face is spread; what faces what does, where faces are flat.
			const spread = facing(placer(a), placer(b), FLAT * Math.sqrt(area));
			const fits = spread && Math.abs(spread.area - area) < 0.2 * area && vec3.dot(spread.normal, normal) > 0.9;
			drafts.push({ a, b, ...(fits ? spread : squareFace(area, normal)), area, centre, normal });
		}
	}
	return drafts;
}

/** Sides of one face that are farther from each other have come apart. m */
const APART = 0.001;
/** Shares of its extent that a face may be off its plane to be taken for flat. */
const FLAT = 0.02;

/** What faces each other within the set's reach. */
function closeFaces(
	bodies: readonly Body[],
	members: readonly number[],
	placer: Placer,
	{ reach, radius, most, among }: BondOptions,
): Draft[] {
	const drafts: Draft[] = [];
	const sorted = [...members].sort((i, j) => placer(i).least[0] - placer(j).least[0] || i - j);
	let open: number[] = [];
	for (const i of sorted) {
		const mine = placer(i);
		open = open.filter((j) => placer(j).most[0] + reach >= mine.least[0]);
		for (const j of open) {
			if (among === "own" && bodies[i]!.object !== bodies[j]!.object) continue;
			if (radius > 0 && vec3.length(vec3.subtract(middleOf(mine), middleOf(placer(j)))) > radius) continue;
			const [a, b] = i < j ? [i, j] : [j, i];
			const face = facing(placer(a), placer(b), Math.max(reach, LEAST_REACH));
			if (face) drafts.push({ a, b, ...face });
		}
		open.push(i);
	}
	const kept = new Map<number, number>();
	const room = (i: number) => (kept.get(i) ?? 0) < most;
	return drafts
		.sort((x, y) => y.area - x.area || x.a - y.a || x.b - y.b)
		.filter(({ a, b }) => {
			if (!room(a) || !room(b)) return false;
			for (const i of [a, b]) kept.set(i, (kept.get(i) ?? 0) + 1);
			return true;
		})
		.sort((x, y) => x.a - y.a || x.b - y.b);
}
/** Of the box around a body. */
const middleOf = ({ least, most }: Placed): Vec3 => vec3.mix(least, most, 0.5);
/** Faces that touch are this far apart at most, by rounding. m */
const LEAST_REACH = 1e-5;

/** What its members share with passive bodies. */
function footFaces(bodies: readonly Body[], members: readonly number[], placer: Placer, reach: number): Draft[] {
	const held = bodies.flatMap(({ settings }, i) => (settings.kind === "passive" ? [i] : []));
	const drafts: Draft[] = [];
	for (const a of members)
		for (const b of held) {
			if (bodies[a]!.settings.world !== bodies[b]!.settings.world || !near(placer(a), placer(b), Math.max(reach, LEAST_REACH))) continue;
			const face = facing(placer(a), placer(b), Math.max(reach, LEAST_REACH));
			if (face) drafts.push({ a, b, ...face });
		}
	return drafts;
}

/** How strong each bond is; undefined where it is cut. */
function strengths(
	shot: Shot,
	bodies: readonly Body[],
	members: readonly number[],
	options: BondOptions,
	changes: readonly BondChange[],
	made: NonNullable<BondSet["slabs"]>,
): (draft: Draft) => Strength | undefined {
	const slabs = options.slabs > 0 || made.length > 0 ? groupPieces(shot, bodies, members, { ...options, made }) : undefined;
	const applied = changes.map((change) => changeFactor(shot, bodies, change));
	return ({ a, b, centre }) => {
		// The foot is as strong as what stands on it: the ground's own strength is not its bedding's.
		const own = materialOf(shot, bodies[a]!).strength;
		const other = bodies[b]!.settings.kind === "active" ? materialOf(shot, bodies[b]!).strength : own;
		const base = options.strength === "given" ? options : weaker(own, other);
		let factor = options.factor;
		if (options.uneven > 0) {
			const [x, y, z] = vec3.scale(centre, 1 / options.grain);
			factor *= 1 - options.uneven * (0.5 + 0.5 * noise3(x, y, z, options.seed));
		}
		if (slabs && slabs.slab[a]! >= 0 && slabs.slab[a] === slabs.slab[b]) {
			factor *= options.within;
			if (options.chunks > 0 && slabs.chunk[a] === slabs.chunk[b]) factor *= options.chunkWithin;
		}
		for (const change of applied) factor *= change(a, b, centre);
		if (factor <= 0) return undefined;
		if (options.strength === "endless") return { tension: Infinity, shear: Infinity, compression: Infinity, energy: 0 };
		const { tension, shear, compression, energy } = base;
		return {
			tension: tension * factor,
			shear: shear * factor,
			compression: compression * factor,
			energy: energy * factor * options.toughness,
		};
	};
}

const weaker = (one: Strength, other: Strength): Strength => ({
	tension: Math.min(one.tension, other.tension),
	shear: Math.min(one.shear, other.shear),
	compression: Math.min(one.compression, other.compression),
	energy: Math.min(one.energy, other.energy),
});

/** The factor of one change for a bond; 1 where it does not mean it. */
function changeFactor(shot: Shot, bodies: readonly Body[], change: BondChange): (a: number, b: number, centre: Vec3) => number {
	const { factor, reach, strokes } = change;
	if (strokes.length > 0)
		return (_a, _b, centre) => {
			const distance = Math.sqrt(strokes.reduce((least, line) => Math.min(least, squaredToLine(line, ...centre)), Infinity));
			if (!(distance < reach)) return 1;
			// Full on the line, none at the end of its reach.
			const share = 1 - distance / reach;
			return 1 + (factor - 1) * share * share * (3 - 2 * share);
		};
	const chosen = new Set(change.bodies);
	const parsed = chosen.size > 0 ? undefined : parseRule(change.rule);
	const known = new Map<number, boolean>();
	const means = (i: number): boolean => {
		const found =
			known.get(i) ??
			(chosen.size > 0 ? chosen.has(bodies[i]!.id) : !!parsed?.ok && matchesRule(parsed.value, ruleFacts(shot, rowOf(bodies[i]!))));
		known.set(i, found);
		return found;
	};
	const passive = (i: number) => bodies[i]!.settings.kind !== "active";
	return (a, b) => (means(a) && (means(b) || passive(b)) ? factor : 1);
}
