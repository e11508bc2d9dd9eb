import { rotate, tripleAt, type Vec3, vec3 } from "../../maths";
import type { ContactPoint } from "../engine";
import { centreOfMass } from "../pushes";
import { rigidGroup } from "../rigid";
import { Kind, type SimScene, stepSeconds } from "../scene";
import type { StrikePoint, Striker } from "./blowContacts";
import { type GroupFrame, materialSpeed, stillFrames, toFrame } from "./groupFrame";
import type { Bonded, Running } from "./state";
import type { Struck } from "./struck";

/** What passes on this share of what it is hit with is backed by something. */
const BACKED = 0.5;
/** Slower touches are loads, not blows. m/s */
export const BLOW_SPEED = 0.3;
/**
 * What floats and is by this share of its thickness in what strikes it pushes it in the engine, too: a blow stops what comes, not what
 * others press on it from above meanwhile. A group of stones sank 139 mm into the ground in five frames, under others 93 cm.
 */
const SUNK_SHARE = 0.2;
/** So many bodies deep what comes on from behind is with what strikes; no more are looked for once there are so many strikers. */
const MOST_BEHIND = 3;
const MOST_STRIKERS = 32;

/** The part of a step in which blows fall. */
export interface Moment {
	/** Seconds since the first frame when it begins. */
	readonly now: number;
	/** Bodies that go by their keys, and how fast: m/s and rad/s. */
	readonly keyed: readonly number[];
	readonly speedOf: (body: number) => { readonly velocity: Vec3; readonly spin: Vec3 };
	/** Whether shorter steps may be asked for. */
	readonly mayDivide: boolean;
}

/** Who strikes a group, and where. */
export interface Strike {
	/** 1 per striker. */
	readonly carriers: readonly number[];
	readonly strikers: readonly Striker[];
	readonly points: readonly StrikePoint[];
	/** Pairs that have had their blow. */
	readonly muted: readonly [number, number][];
	/** Of these, what comes on: the engine may let it bounce from a distance, before it is there. */
	readonly coming: readonly [number, number][];
}

const NOBODY: Strike = { carriers: [], strikers: [], points: [], muted: [], coming: [] };

/** `frame`: of what is struck; `apart`: carriers that are no longer what they were: they strike in the next step. */
export function findStrike(
	run: Running,
	bonded: Bonded,
	struck: Struck,
	moment: Moment,
	apart: ReadonlySet<number>,
	frame: GroupFrame,
): Strike {
	const { scene, engine } = run;
	const { net, state } = bonded;
	const front = [...struck.by].filter((c) => !apart.has(c)).sort((a, b) => a - b);
	if (front.length === 0) return NOBODY;
	const behind = findBehind(run, front, struck.carrier, moment, apart, frame);
	const carriers = [...new Set([...front, ...behind.map(({ other }) => engine.carrier[other]!)])];
	const indices = new Map(carriers.map((c, n) => [c, n]));
	const strikers = carriers.map((c): Striker => {
		const { mass, inertia, centre, velocity, spin } = inWorld(run, c, struck.carrier, moment);
		return {
			mass,
			inertia: Math.max(inertia, 1e-12),
			centre: toFrame(frame, centre),
			velocity: Float64Array.from(rotate(frame.back, vec3.subtract(velocity, materialSpeed(frame, centre)))),
			spin: Float64Array.from(rotate(frame.back, vec3.subtract(spin, frame.spin))),
		};
	});
	const isHeld = engine.isAnchored(struck.carrier);
	const points: StrikePoint[] = [];
	const muted: [number, number][] = [];
	const coming: [number, number][] = [];
	const indexOf = (body: number): number => indices.get(engine.carrier[body]!)!;
	/** What all points of a pair have in common. */
	const pairing = (body: number, other: number) => ({
		striker: indexOf(body),
		friction: (scene.friction[body]! + scene.friction[other]!) / 2,
		pair: pairOf(scene, body, other),
	});
	/** Of bodies of what is struck, by how the engine has them. */
	const frameAsSeen = stillFrames(run, net);
	for (const body of [...struck.touching].sort((a, b) => a - b)) {
		if (apart.has(engine.carrier[body]!)) continue;
		const speed = vec3.length(tripleAt(strikers[indexOf(body)]!.velocity, 0));
		const isStruck = (other: number) => engine.carrier[other] === struck.carrier;
		/** By body that is met, the nearest point. */
		const nearest = new Map<number, number>();
		engine.contactsWith(body, isStruck, (other, point) => {
			const [place, normal] = [toFrame(frame, point.place), rotate(frame.back, point.normal)];
			// Where it stood at the first frame, by how the engine has it.
			const stood = toFrame(frameAsSeen(other), point.place);
			const unseen = vec3.subtract(movedAt(state.u, net.centre, other, stood), vec3.subtract(place, stood));
			const gap = point.distance + vec3.dot(normal, unseen);
			nearest.set(other, Math.min(nearest.get(other) ?? gap, gap));
			if (gap > (speed + vec3.length(tripleAt(state.v, 2 * other))) * stepSeconds(scene)) return;
			const { striker, friction, pair } = pairing(body, other);
			points.push({ striker, body: other, behind: -1, like: other, place, normal, gap, friction, pair });
		});
		// What is not reached in this step is muted, too: the engine would stop it before it is there.
		for (const [other, gap] of nearest)
			if (isHeld || gap >= -SUNK_SHARE * scene.thickness[other]!) {
				muted.push([body, other]);
				if (speed >= BLOW_SPEED) coming.push([body, other]);
			}
	}
	const isBonded = (body: number): boolean => net.of[body]!.length > 0;
	const first = engine.membersOf(struck.carrier)[0]!;
	for (const { body, other, point } of behind) {
		const { striker, friction, pair } = pairing(body, other);
		const like = isBonded(body) ? body : isBonded(other) ? other : first;
		const [place, normal] = [toFrame(frame, point.place), rotate(frame.back, point.normal)];
		points.push({ striker, body: -1, behind: indexOf(other), like, place, normal, gap: point.distance, friction, pair });
	}
	return { carriers, strikers, points, muted, coming };
}

/** A number for a striker's body and what it meets. */
export const pairOf = ({ count }: Pick<SimScene, "count">, body: number, other: number): number => body * count + other;

interface Behind {
	readonly body: number;
	readonly other: number;
	readonly point: ContactPoint;
}

/**
 * What pushes strikers on from behind, and that from behind in turn: a loose piece between a wall and what has struck it off is as heavy
 * as both. `body` strikes, or is nearer to what is struck; `other` pushes it.
 */
function findBehind(
	run: Running,
	front: readonly number[],
	group: number,
	{ keyed }: Moment,
	apart: ReadonlySet<number>,
	frame: GroupFrame,
): Behind[] {
	const { scene, engine, before } = run;
	const dt = stepSeconds(scene);
	const found: Behind[] = [];
	const known = new Set(front);
	/** From which bodies others have been found: a contact is not to be found from its other end. */
	const foundFrom = new Map<number, Set<number>>();
	/** Against what is struck. */
	const speed = (body: number, place: Vec3): Vec3 => {
		const own = tripleAt(before.velocity, body);
		return frame.moves ? vec3.subtract(own, materialSpeed(frame, place)) : own;
	};
	let layer = [...front];
	for (let depth = 0; depth < MOST_BEHIND && known.size < MOST_STRIKERS; depth++) {
		const next: number[] = [];
		for (const c of layer) {
			const members = engine.membersOf(c);
			if (keyed.includes(members[0]!) || holdsStill(run, members[0]!)) continue;
			const matters = (other: number): boolean => {
				const d = engine.carrier[other]!;
				if (d === c || d === group || apart.has(d) || holdsStill(run, other)) return false;
				// What is slow pushes nobody: most contacts need not be read.
				return frame.moves || vec3.length(tripleAt(before.velocity, other)) >= BLOW_SPEED;
			};
			for (const body of members)
				engine.contactsWith(body, matters, (other, point) => {
					const push = -vec3.dot(speed(other, point.place), point.normal);
					if (push < BLOW_SPEED || point.distance > (push + vec3.length(speed(body, point.place))) * dt) return;
					if (foundFrom.get(other)?.has(body)) return;
					found.push({ body, other, point });
					foundFrom.set(body, (foundFrom.get(body) ?? new Set()).add(other));
					const d = engine.carrier[other]!;
					if (!known.has(d)) next.push(d);
					known.add(d);
				});
		}
		layer = next;
	}
	return found;
}

/** A striker in the world: mass, centre, mean inertia, speed. */
function inWorld(run: Running, carrier: number, group: number, { keyed, speedOf }: Moment) {
	const { scene, engine, before } = run;
	const first = engine.membersOf(carrier)[0]!;
	const centre = centreOfMass(scene, before, first);
	if (keyed.includes(first)) return endless(centre, speedOf(first));
	if (holdsStill(run, first)) return endless(centre);
	const whole = rigidGroup(scene, engine, before, carrier);
	const spin = tripleAt(before.spin, first);
	const velocity = vec3.add(tripleAt(before.velocity, first), vec3.cross(spin, vec3.subtract(whole.centre, centre)));
	return isBacked(run, velocity, carrier, group) ? endless(whole.centre) : { ...whole, velocity, spin };
}

/** What no blow can change, however it moves. */
const endless = (centre: Vec3, speed = { velocity: vec3.ZERO, spin: vec3.ZERO }) => ({
	mass: Number.POSITIVE_INFINITY,
	inertia: Number.POSITIVE_INFINITY,
	centre,
	...speed,
});

/** kg of all that moves with a body; infinite for what holds still or goes by its keys. */
export const massOf = (run: Running, body: number): number =>
	holdsStill(run, body)
		? Number.POSITIVE_INFINITY
		: run.engine.membersOf(run.engine.carrier[body]!).reduce((sum, i) => sum + run.scene.mass[i]!, 0);

const holdsStill = ({ scene, engine, held }: Running, body: number): boolean =>
	scene.kind[body] !== Kind.Active || engine.isAnchored(engine.carrier[body]!) || held[body] !== 0;

/**
 * Whether what a group meets lies still and passes what it gets on to something that holds still, by the impulses of the engine's own
 * step: a plate on the ground gives way no more than the ground does.
 */
function isBacked(run: Running, velocity: Vec3, striker: number, group: number): boolean {
	const { engine } = run;
	if (vec3.length(velocity) > BLOW_SPEED) return false;
	let pushed: Vec3 = vec3.ZERO;
	let passed: Vec3 = vec3.ZERO;
	for (const body of engine.membersOf(striker))
		engine.contactsWith(
			body,
			(other) => engine.carrier[other] === group || holdsStill(run, other),
			(other, { normal, impulse }) => {
				const push = vec3.scale(normal, impulse);
				if (engine.carrier[other] === group) pushed = vec3.subtract(pushed, push);
				else passed = vec3.add(passed, push);
			},
		);
	return vec3.dot(passed, pushed) > BACKED * vec3.dot(pushed, pushed) && vec3.dot(pushed, pushed) > 0;
}

/** How far a body's material, from a place at the first frame, has been moved by what blows have done to it so far. */
function movedAt(u: Float64Array, centre: Float64Array, i: number, place: Vec3): Vec3 {
	return vec3.add(tripleAt(u, 2 * i), vec3.cross(tripleAt(u, 2 * i + 1), vec3.subtract(place, tripleAt(centre, i))));
}
