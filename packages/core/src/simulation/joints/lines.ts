import { isFirm, jointLength, reachOf } from "../../connectors";
import { inverse, quatAt, rotate, tripleAt, type Vec3, vec3 } from "../../maths";
import type { Running } from "../running";
import { Kind, type SimScene, stepSeconds } from "../scene";
import type { JointLoad } from "./loads";
import { isFree, type JointState, pointOf } from "./state";

/**
 * What reaches over joints from one thing that holds still, or goes by its keys, to another: a chain between two posts, the rope from a
 * tractor to a column that stands. Where its ends are drawn farther apart than it is long nothing that the engine's solver does can hold
 * it together: its links shook with 1e20 J and flew off at 3e8 m/s. Real ones stretch, and pull with what that takes. So their joints are
 * let out by as much as is missing, each by its share, and what that pulls at is told to the bonds at their ends and to joints that can
 * break; afterwards they shrink back.
 */
export interface Line {
	readonly from: End;
	readonly to: End;
	/** Metres, when it is taut. */
	readonly length: number;
	/** On the way; 1 where the joint's first body comes first, −1 where it comes second. */
	readonly way: readonly { readonly joint: number; readonly sign: 1 | -1 }[];
	/** How far its ends are drawn apart beyond its length, metres, and which way the far one is: of the step at hand. */
	over: number;
	direction: Vec3;
}

/** A body that holds still, −1 the world, and where it is held, at the first frame. */
interface End {
	readonly body: number;
	readonly place: Vec3;
}

/** The lines of a run, for as long as the same things hold still and hang together. */
export interface Lines {
	/** 2 per joint: the carriers of its ends, −1 for what holds still, −2 for both where it has broken. */
	key: Int32Array;
	list: readonly Line[];
}

export const makeLines = (): Lines => ({ key: new Int32Array(0), list: [] });

/** N/m of a line itself: a steel rope of 4 cm, some metres long. */
const STIFFNESS = 1e8;
/** Where more ends than these hold still only those that go by their keys are looked from: the others draw nothing apart. */
const MOST_STARTS = 32;
/** What has been drawn apart shrinks back at so many metres a second. */
const RECOIL = 1;

/** Finds how far lines are drawn apart when a step begins, and lets their joints out; call once a step. */
export function stretchLines(run: Running, state: JointState, lines: Lines): void {
	const { scene, engine, before } = run;
	if (scene.joints.length === 0) return;
	update(run, state, lines);
	const wanted = new Map<number, Vec3>();
	for (const line of lines.list) {
		const apart = vec3.subtract(placeOf(run, line.to), placeOf(run, line.from));
		const distance = vec3.length(apart);
		line.over = Math.max(0, distance - line.length);
		if (line.over === 0) continue;
		line.direction = vec3.scale(apart, 1 / distance);
		for (const { joint, sign } of line.way) {
			const share = vec3.scale(line.direction, (sign * line.over) / line.way.length);
			if (vec3.length(share) > vec3.length(wanted.get(joint) ?? vec3.ZERO)) wanted.set(joint, share);
		}
	}
	const most = RECOIL * stepSeconds(scene);
	for (const [n, { a }] of scene.joints.entries()) {
		const was = tripleAt(state.stretch, n);
		const own = wanted.get(n);
		let now = own ? rotate(inverse(quatAt(before.rotation, a)), own) : vec3.ZERO;
		const shrinks = vec3.length(was) - vec3.length(now);
		if (shrinks > most) now = vec3.scale(was, 1 - most / vec3.length(was));
		state.stretch.set(now, 3 * n);
		if (vec3.length(was) > 0 && vec3.length(now) === 0) engine.stretchJoint(n, now);
	}
}

/** Has the engine know how far joints are let out: what it is given anew, a joint whose body has broken off, does not. */
export function showStretched({ engine }: Pick<Running, "engine">, { broken, stretch }: JointState): void {
	for (let n = 0; n < broken.length; n++) {
		const own = tripleAt(stretch, n);
		if (broken[n] === 0 && vec3.length(own) > 0) engine.stretchJoint(n, own);
	}
}

/**
 * What joints bear because the ends of their lines are drawn apart, and springs because both of their ends hold still, N. `stiffnessOf`: of
 * the bonds of a body, N/m; undefined where it has none.
 */
export function lineLoads(
	run: Running,
	{ broken }: JointState,
	{ list }: Lines,
	stiffnessOf: (body: number) => number | undefined,
): JointLoad[] {
	const { scene, before } = run;
	const loads: JointLoad[] = [];
	for (const { from, to, way, over, direction } of list) {
		if (over === 0) continue;
		// One after the other: what gives way most says what all bear.
		const ends = [from, to].map(({ body }) => 1 / (stiffnessOf(body) ?? Number.POSITIVE_INFINITY));
		const tension = over / (1 / STIFFNESS + ends[0]! + ends[1]!);
		for (const { joint, sign } of way) loads.push({ joint, force: vec3.scale(direction, sign * tension), moment: vec3.ZERO });
	}
	for (const [n, joint] of scene.joints.entries()) {
		const { a, b, kind, options } = joint;
		if (kind !== "spring" || broken[n] === 1 || options.acts === "axes" || isFree(run, a) || isFree(run, b)) continue;
		const [one, other] = [pointOf(scene, before, a, joint.from), pointOf(scene, before, b, joint.to)];
		const apart = vec3.subtract(other.at, one.at);
		const length = vec3.length(apart);
		if (length === 0) continue;
		const axis = vec3.scale(apart, 1 / length);
		const speed = vec3.dot(vec3.subtract(other.velocity, one.velocity), axis);
		const pull = (options.stiffness ?? 0) * (length - jointLength(joint)) + (options.damping ?? 0) * speed;
		loads.push({ joint: n, force: vec3.scale(axis, pull), moment: vec3.ZERO });
	}
	return loads;
}

const placeOf = ({ scene, before }: Pick<Running, "scene" | "before">, { body, place }: End): Vec3 =>
	pointOf(scene, before, body, place).at;

function update(run: Running, { broken }: JointState, lines: Lines): void {
	const { scene, held } = run;
	const { joints } = scene;
	const key = new Int32Array(2 * joints.length);
	for (const [n, { a, b }] of joints.entries()) {
		const gone = broken[n] === 1;
		key[2 * n] = gone ? -2 : nodeOf(run, a);
		key[2 * n + 1] = gone ? -2 : nodeOf(run, b);
	}
	if (key.length === lines.key.length && key.every((value, k) => value === lines.key[k])) return;
	lines.key = key;
	lines.list = findLines(scene, key, (i) => i >= 0 && (scene.kind[i] === Kind.Animated || held[i] !== 0));
}

/** The carrier of what moves by itself, asleep or not; −1 for all else. */
const nodeOf = (run: Running, i: number): number => (isFree(run, i) ? run.engine.carrier[i]! : -1);

/** A joint as it is met from one of its ends. */
interface Side {
	readonly joint: number;
	readonly sign: 1 | -1;
	readonly own: End;
	readonly other: End;
	/** The carrier of the other end; −1 where that holds still. */
	readonly node: number;
	readonly length: number;
}

/**
 * From each end that holds still the shortest ways to all others, by Dijkstra's algorithm over what moves; each pair once. `key`: as in
 * `Lines`; `isKeyed`: whether a body goes by its keys.
 */
function findLines({ joints }: Pick<SimScene, "joints">, key: Int32Array, isKeyed: (body: number) => boolean): Line[] {
	const sidesOf = new Map<number, Side[]>();
	const starts: Side[] = [];
	for (const [n, joint] of joints.entries()) {
		if (!isFirm(joint) || key[2 * n] === -2) continue;
		const length = reachOf(joint);
		const [one, other] = [
			{ body: joint.a, place: joint.from },
			{ body: joint.b, place: joint.to },
		];
		for (const side of [
			{ joint: n, sign: 1 as const, own: one, other, node: key[2 * n + 1]!, length },
			{ joint: n, sign: -1 as const, own: other, other: one, node: key[2 * n]!, length },
		]) {
			const node = key[2 * n + (side.sign === 1 ? 0 : 1)]!;
			if (node === -1) starts.push(side);
			else sidesOf.set(node, [...(sidesOf.get(node) ?? []), side]);
		}
	}
	const lines: Line[] = [];
	const known = new Set<string>();
	const endOf = (joint: number, sign: number): number => 2 * joint + (sign === 1 ? 0 : 1);
	for (const start of starts.length > MOST_STARTS ? starts.filter(({ own }) => isKeyed(own.body)) : starts) {
		let front: { readonly side: Side; readonly length: number; readonly way: Line["way"] }[] = [
			{ side: start, length: start.length, way: [{ joint: start.joint, sign: start.sign }] },
		];
		const seen = new Set<number>();
		while (front.length > 0) {
			front.sort((x, y) => x.length - y.length || x.side.joint - y.side.joint);
			const { side, length, way } = front.shift()!;
			if (side.node === -1) {
				// From the other end it is the same line.
				const [here, there] = [endOf(start.joint, start.sign), endOf(side.joint, -side.sign)];
				if (!known.has(`${there} ${here}`)) lines.push({ from: start.own, to: side.other, length, way, over: 0, direction: vec3.ZERO });
				known.add(`${here} ${there}`);
				continue;
			}
			if (seen.has(side.node)) continue;
			seen.add(side.node);
			for (const next of sidesOf.get(side.node)!) {
				if (next.joint === side.joint || seen.has(next.node)) continue;
				const span = vec3.length(vec3.subtract(next.own.place, side.other.place));
				front.push({ side: next, length: length + span + next.length, way: [...way, { joint: next.joint, sign: next.sign }] });
			}
			front = front.filter(({ side: { node } }) => node === -1 || !seen.has(node));
		}
	}
	return lines;
}
