import { connectorById, type Joint, jointLength } from "../../connectors";
import { quatAt, rotate, tripleAt, type Vec3, vec3 } from "../../maths";
import { find, unite } from "../../mesh";
import type { ContactLoad } from "../contactLoads";
import type { BodyState } from "../engine";
import { type HeavierState, massTimes, turnTimes } from "../heavier";
import { centreOfMass } from "../pushes";
import { rigidGroup } from "../rigid";
import type { Running } from "../running";
import { Kind, type SimScene, stepSeconds } from "../scene";
import { balanceLoops, type Edge } from "./loops";
import { spread } from "./spread";
import { AXES, type JointState, pointOf } from "./state";

/** What a joint bore in the last step. */
export interface JointLoad {
	readonly joint: number;
	/** N on its first end, where it holds that; the second gets the opposite. */
	readonly force: Vec3;
	/** N m likewise, beside what the force does. */
	readonly moment: Vec3;
}

/**
 * What joints bore in the last step: those that are wanted, and all that hang together with them. The engine does not tell, so it
 * follows from the balance of momentum: what a body has gained beyond weight, pushes and contacts came
 * through its joints. Along a tree of joints that is unique; around a loop the balance of moments says what goes round it, and where that
 * says nothing the smallest loads that fit are taken. Friction of contacts is not known and left out.
 *
 * `pushed`, `contacts`: what acts on bodies that are in joints, or move as one with some that are, see `pushes.ts` and `contactLoads.ts`;
 * `heavier`: as the engine had them.
 */
export function jointLoads(
	run: Running,
	{ broken }: Pick<JointState, "broken">,
	wanted: (joint: number) => boolean,
	pushed: ReadonlyMap<number, Vec3>,
	contacts: ReadonlyMap<number, ContactLoad>,
	heavier: HeavierState,
): JointLoad[] {
	const { scene, engine } = run;
	const acting = scene.joints.flatMap((_, n) => (broken[n] === 0 && !isSlack(run, n) ? [n] : []));
	const heart = withWanted(run, acting, wanted);
	if (heart.length === 0) return [];
	const gained = balances(run, pushed, contacts, heavier);
	const ends = (n: number) => {
		const { a, b } = scene.joints[n]!;
		return [engine.carrier[a]!, b < 0 ? -1 : engine.carrier[b]!] as const;
	};
	const stiff = heart.filter((n) => bearsMoments(scene.joints[n]!));
	const stiffened = new Set(stiff.flatMap(ends));
	const edges = heart.map((n): Edge => {
		const { a, b, from, to } = scene.joints[n]!;
		const [one, other] = ends(n);
		const arm = (i: number, c: number, place: Vec3): Vec3 => {
			const middle = gained.get(c)?.centre;
			return middle ? vec3.subtract(pointOf(scene, run.after, i, place).at, middle) : vec3.ZERO;
		};
		return { ends: [gained.has(one) ? one : -1, gained.has(other) ? other : -1], arms: [arm(a, one, from), arm(b, other, to)] };
	});
	// Which way contacts rub is not known.
	const touched = new Set([...contacts.keys()].map((i) => engine.carrier[i]!));
	const forces = balanceLoops(
		edges,
		spread(
			heart.map(ends),
			(c) => gained.get(c)?.force,
			(c) => !touched.has(c),
		),
		(c) => (stiffened.has(c) ? undefined : gained.get(c)?.moment),
	);
	/** By carrier, N m s of all these forces. */
	const turned = new Map<number, Vec3>();
	for (const [k, { ends, arms }] of edges.entries())
		for (const side of [0, 1] as const) {
			const own = vec3.cross(arms[side], vec3.scale(forces[k]!, side === 0 ? 1 : -1));
			turned.set(ends[side], vec3.add(turned.get(ends[side]) ?? vec3.ZERO, own));
		}
	const moments = spread(stiff.map(ends), (c) => {
		const own = gained.get(c);
		return own && vec3.subtract(own.moment, turned.get(c) ?? vec3.ZERO);
	});
	const momentOf = new Map(stiff.map((n, k) => [n, moments[k]!]));
	const perSecond = 1 / stepSeconds(scene);
	return heart.map((joint, k) => ({
		joint,
		force: vec3.scale(forces[k]!, perSecond),
		moment: vec3.scale(momentOf.get(joint) ?? vec3.ZERO, perSecond),
	}));
}

/** A rope this much shorter than it may be bears nothing, as a share of its length. */
const SLACK = 1e-3;

function isSlack({ scene, after }: Running, n: number): boolean {
	const joint = scene.joints[n]!;
	if (joint.kind !== "rope") return false;
	const [one, other] = [pointOf(scene, after, joint.a, joint.from).at, pointOf(scene, after, joint.b, joint.to).at];
	return vec3.length(vec3.subtract(other, one)) < (1 - SLACK) * jointLength(joint);
}

const bearsMoments = ({ kind, options }: Joint): boolean =>
	connectorById(kind)!.stiffInTurn || (options.turning ?? 0) > 0 || (options.turnDamping ?? 0) > 0;

/** Joints that hang together, over joints, with one that is wanted: only their loads have to be known. */
function withWanted(run: Running, acting: readonly number[], wanted: (joint: number) => boolean): number[] {
	const wholes = wholesOf(run, acting, (i) => run.engine.moves(i));
	const found = new Set(acting.filter(wanted).flatMap(wholes));
	return acting.filter((n) => wholes(n).some((c) => found.has(c)));
}

/** For each joint what hangs together at its ends over these joints and what moves, as numbers: none where neither end does. */
export function wholesOf(
	{ scene, engine }: Running,
	acting: readonly number[],
	moves: (body: number) => boolean,
): (joint: number) => number[] {
	const root = Int32Array.from({ length: scene.count }, (_, i) => i);
	const free = (n: number) => [scene.joints[n]!.a, scene.joints[n]!.b].filter((i) => i >= 0 && moves(i)).map((i) => engine.carrier[i]!);
	for (const n of acting) {
		const [one, other] = free(n);
		if (other !== undefined) unite(root, one!, other);
	}
	return (n) => free(n).map((c) => find(root, c));
}

/** By carrier: what joints must have given it in the last step, N s, N m s about its centre; and where that is. Only for what moves. */
function balances(
	{ scene, engine, before, after, held }: Running,
	pushed: ReadonlyMap<number, Vec3>,
	contacts: ReadonlyMap<number, ContactLoad>,
	heavier: HeavierState,
): Map<number, { force: Vec3; moment: Vec3; centre: Vec3 }> {
	const h = stepSeconds(scene);
	const all = new Map<number, { force: Vec3; moment: Vec3; centre: Vec3 }>();
	for (let i = 0; i < scene.count; i++) {
		if (scene.jointed[i] !== 1 || scene.kind[i] !== Kind.Active || held[i] !== 0) continue;
		const c = engine.carrier[i]!;
		if (all.has(c) || engine.isAnchored(c)) continue;
		const members = engine.membersOf(c);
		const { centre } = rigidGroup(scene, engine, after, c);
		let force: Vec3 = vec3.ZERO;
		let moment: Vec3 = vec3.ZERO;
		for (const m of members) {
			const own = scene.mass[m]!;
			const g = vec3.add(vec3.scale(tripleAt(scene.gravity, scene.world[m]!), own), pushed.get(m) ?? vec3.ZERO);
			const contact = contacts.get(m);
			const arm = vec3.subtract(centreOfMass(scene, after, m), centre);
			const change = vec3.subtract(tripleAt(after.velocity, m), tripleAt(before.velocity, m));
			let gain = vec3.scale(change, own * massTimes(heavier, m));
			gain = vec3.subtract(gain, vec3.scale(g, h));
			let turn = vec3.scale(vec3.subtract(spinMomentum(scene, after, m), spinMomentum(scene, before, m)), turnTimes(heavier, m));
			if (contact) {
				gain = vec3.subtract(gain, vec3.scale(contact.force, h));
				turn = vec3.subtract(turn, vec3.scale(contact.moment, h));
			}
			force = vec3.add(force, gain);
			moment = vec3.add(moment, vec3.add(turn, vec3.cross(arm, gain)));
		}
		all.set(c, { force, moment, centre });
	}
	return all;
}

/** Angular momentum of a body about its own centre, world, kg m²/s. */
function spinMomentum(scene: SimScene, state: BodyState, i: number): Vec3 {
	let sum: Vec3 = vec3.ZERO;
	const w = tripleAt(state.spin, i);
	for (let k = 0; k < 3; k++) {
		const axis = rotate(quatAt(state.rotation, i), rotate(quatAt(scene.inertiaFrame, i), AXES[k]!));
		sum = vec3.add(sum, vec3.scale(axis, scene.inertia[3 * i + k]! * vec3.dot(axis, w)));
	}
	return sum;
}
