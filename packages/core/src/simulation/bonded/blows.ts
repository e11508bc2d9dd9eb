import { rotate, tripleAt, type Vec3, vec3 } from "../../maths";
import type { Group } from "../engine";
import { centreOfMass } from "../pushes";
import { addInertia, rigidGroup, solve3 } from "../rigid";
import { Kind, stepSeconds } from "../scene";
import type { BondNet } from "./bondNet";
import { frameOf, fromFrame, materialSpeed, toFrame } from "./groupFrame";
import { BOND_WHOLE, type StrikePoint, type Striker, strike } from "./lattice";
import { isTied, partsOff } from "./parts";
import { type Bonded, type BondState, type BreakEvent, type Running, unsettle } from "./state";

/** Slower touches are loads, not blows. m/s */
const BLOW_SPEED = 0.3;
/** A blow is looked at from this share of what the weakest bond of the struck body bears. */
const WORTH_LOOKING = 0.1;
/** What has sunk in by this share of the thinner one's thickness is not let in any deeper, unless it has this many times the mass. */
const SUNK_SHARE = 0.1;
const HEAVY = 20;
/** What passes on this share of what it is hit with is backed by something. */
const BACKED = 0.5;
/** A blow that is not over goes on in the lattice from this use of some bond's strength on. */
const WORTH_GOING_ON = 0.2;
/**
 * What came apart shares a face, where rounding alone would throw it apart: for so many steps it does not push each other.
 * Where the speeds that the lattice gave it bring it into each other, that ends at once: a blow of 7 m/s left pieces of
 * concrete 19 cm inside each other for half a second otherwise, and even 1 cm of patience left them 12 cm deep.
 */
const GRACE_STEPS = 10;

/** A group that is struck, and by what. */
interface Struck {
	readonly carrier: number;
	/** Carriers that strike it. */
	readonly by: Set<number>;
	/** Bodies of theirs that touch it. */
	readonly touching: Set<number>;
}

/** Blows of the last step that may break something. `keyed`: bodies that go by their keys. */
function findStruck(run: Running, { net, state, left }: Bonded, keyed: readonly number[]): Struck[] {
	const { scene, engine, before } = run;
	const { bonds, kind } = scene;
	const dt = stepSeconds(scene);
	const found = new Map<number, Struck>();
	const note = (body: number, by: number) => {
		const carrier = engine.carrier[body]!;
		const struck = found.get(carrier) ?? { carrier, by: new Set<number>(), touching: new Set<number>() };
		found.set(carrier, struck);
		struck.by.add(engine.carrier[by]!);
		struck.touching.add(by);
	};
	/** Whether a blow may come near to what the weakest bond of a body bears: over a step, or while the bond springs back (v √(k m)). */
	const worthIt = (i: number, impulse: number, approach: number): boolean =>
		net.of[i]!.some((k) => {
			if (state.state[k] !== BOND_WHOLE) return false;
			const bears = Math.min(bonds.tension[k]!, bonds.shear[k]!) * bonds.area[k]! * left[k]!;
			return Math.max(impulse / dt, Math.sqrt(net.stiffness[5 * k]! * net.young[k]! * impulse * approach)) >= WORTH_LOOKING * bears;
		});
	const { contacts } = engine;
	for (let k = 0; k < contacts.count; k++)
		for (const [body, by] of [
			[contacts.a[k]!, contacts.b[k]!],
			[contacts.b[k]!, contacts.a[k]!],
		] as const) {
			if (!isTied(run, body) || engine.carrier[body] === engine.carrier[by]) continue;
			const approach = engine.touch(by, body, before)?.approach ?? 0;
			if (approach >= BLOW_SPEED && worthIt(body, contacts.impulse[k]!, approach)) note(body, by);
		}
	// Keyed things exert no force on what is held, in the engine.
	for (const by of keyed)
		engine.nearKeyed(by, (body, { approach, distance }) => {
			if (body !== by && kind[body] === Kind.Active && isTied(run, body) && approach >= BLOW_SPEED && distance <= approach * dt)
				note(body, by);
		});
	return [...found.values()].sort((x, y) => x.carrier - y.carrier);
}

/** What moves as one in the world: mass, centre, mean inertia, speed. */
function rigid({ scene, engine, before }: Running, carrier: number) {
	const whole = rigidGroup(scene, engine, before, carrier);
	const first = engine.membersOf(carrier)[0]!;
	const spin = tripleAt(before.spin, first);
	const arm = vec3.subtract(whole.centre, centreOfMass(scene, before, first));
	return { ...whole, velocity: vec3.add(tripleAt(before.velocity, first), vec3.cross(spin, arm)), spin };
}

/**
 * Does what the last step's blows do to bonded groups. Returns what broke and the pairs that have had their blow, or
 * undefined where the engine's own answer stands; else the state before the step has been put back, with the new speeds,
 * and the step is to be done again with those pairs muted. `speedOf`: of bodies that go by their keys, m/s and rad/s.
 */
export function takeBlows(
	run: Running,
	bonded: Bonded,
	keyed: readonly number[],
	speedOf: (body: number) => { readonly velocity: Vec3; readonly spin: Vec3 },
): { readonly broke: BreakEvent[]; readonly muted: [number, number][] } | undefined {
	const struck = findStruck(run, bonded, keyed);
	if (struck.length === 0) return undefined;
	bonded.disturbed = true;
	const { scene, engine, before } = run;
	const isKeyed = new Set(keyed);
	const broke: BreakEvent[] = [];
	const muted: [number, number][] = [];
	const groups: Group[] = [];
	const changed: number[] = [];
	let struckAny = false;
	// One after the other: what has struck one group has another speed for the next.
	for (const one of struck) {
		const outcome = strikeGroup(run, bonded, one, isKeyed, speedOf);
		if (!outcome) continue;
		struckAny = true;
		broke.push(...outcome.broke);
		muted.push(...outcome.muted);
		groups.push(...outcome.groups);
		for (const { bodies, velocity, spin } of outcome.strikers)
			for (const i of bodies) {
				before.velocity.set(velocity(i), 3 * i);
				before.spin.set(spin, 3 * i);
				changed.push(i);
			}
	}
	if (!struckAny) return undefined;
	engine.writeState(before);
	engine.regroup(groups);
	// What is regrouped has been given its speed.
	const regrouped = new Set(groups.flatMap(({ bodies }) => bodies));
	engine.setVelocities(
		changed.filter((i) => !regrouped.has(i)),
		before,
	);
	for (const { bond, b } of broke) if (scene.kind[b] === Kind.Active) bonded.state.grace.push(bond, run.step + GRACE_STEPS);
	return { broke, muted };
}

interface Outcome {
	readonly broke: BreakEvent[];
	readonly muted: [number, number][];
	readonly groups: Group[];
	readonly strikers: readonly { readonly bodies: readonly number[]; readonly velocity: (body: number) => Vec3; readonly spin: Vec3 }[];
}

/** One group's blow; undefined where it is over and nothing broke: then the engine's own answer is as good, and has bounce. */
function strikeGroup(
	run: Running,
	bonded: Bonded,
	{ carrier, by, touching }: Struck,
	keyed: ReadonlySet<number>,
	speedOf: (body: number) => { readonly velocity: Vec3; readonly spin: Vec3 },
): Outcome | undefined {
	const { scene, engine, before } = run;
	const { bonds } = scene;
	const { net, state, left } = bonded;
	const dt = stepSeconds(scene);
	const members = engine.membersOf(carrier);
	const anchored = engine.isAnchored(carrier);
	const frame = frameOf(run, net, members[0]!, anchored);
	const carriers = [...by].sort((a, b) => a - b);
	const world = carriers.map((c) => {
		const first = engine.membersOf(c)[0]!;
		if (keyed.has(first)) return endless(centreOfMass(scene, before, first), speedOf(first));
		if (holdsStill(run, first)) return endless(centreOfMass(scene, before, first));
		const whole = rigid(run, c);
		return isBacked(run, whole.velocity, c, carrier) ? endless(whole.centre) : whole;
	});
	const strikers: Striker[] = world.map(({ mass, inertia, centre, velocity, spin }) => ({
		mass,
		inertia: Math.max(inertia, 1e-12),
		centre: toFrame(frame, centre),
		velocity: Float64Array.from(rotate(frame.back, vec3.subtract(velocity, materialSpeed(frame, centre)))),
		spin: Float64Array.from(rotate(frame.back, vec3.subtract(spin, frame.spin))),
	}));
	const points: StrikePoint[] = [];
	const muted: [number, number][] = [];
	for (const body of [...touching].sort((a, b) => a - b)) {
		const striker = carriers.indexOf(engine.carrier[body]!);
		const speed = vec3.length(Array.from(strikers[striker]!.velocity) as unknown as Vec3);
		const isStruck = (other: number) => engine.carrier[other] === carrier;
		engine.contactsWith(body, isStruck, (other, { place, normal, distance }) => {
			if (distance > speed * dt) return;
			const at = toFrame(frame, place);
			const n = rotate(frame.back, normal);
			const moved = anchored ? movedAt(state.u, net.centre, other, at, n) : 0;
			points.push({
				striker,
				body: other,
				place: at,
				normal: n,
				// A contact begins without load: what already overlaps would push back with energy that nobody has put in.
				gap: Math.max(distance + moved, 0),
				friction: (scene.friction[body]! + scene.friction[other]!) / 2,
			});
			// However often something light is struck, it gives way and is held from behind: once it has sunk in, the engine stops it.
			const deep = distance + moved < -SUNK_SHARE * Math.min(scene.thickness[body]!, scene.thickness[other]!);
			if (!deep || strikers[striker]!.mass > HEAVY * scene.mass[other]!) muted.push([body, other]);
		});
	}
	if (points.length === 0) return undefined;
	if (!anchored) forgetBlow(state, members);
	bonded.lattice.dt = dt;
	const { broke, highest } = strike({
		lattice: bonded.lattice,
		net,
		bonds,
		anchored,
		members,
		state: state.state,
		left,
		peak: state.peak,
		u: state.u,
		v: state.v,
		strikers,
		points,
	});
	const nearest = new Float64Array(strikers.length).fill(Number.POSITIVE_INFINITY);
	for (const { striker, gap } of points) nearest[striker] = Math.min(nearest[striker]!, gap);
	// What touched nowhere when the step began has not had its blow yet: the engine would let it bounce from a distance.
	const goesOn = points.some(
		({ striker, normal }) =>
			(highest > WORTH_GOING_ON || nearest[striker]! > 0) &&
			vec3.dot(normal, Array.from(strikers[striker]!.velocity) as unknown as Vec3) > BLOW_SPEED,
	);
	if (broke.length === 0 && !goesOn) {
		forgetBlow(state, members);
		return undefined;
	}
	const speeds = (i: number) => ({
		velocity: vec3.add(materialSpeed(frame, centreOfMass(scene, before, i)), rotate(frame.turn, tripleAt(state.v, 2 * i))),
		spin: vec3.add(frame.spin, rotate(frame.turn, tripleAt(state.v, 2 * i + 1))),
	});
	// Where nothing broke and nothing moves by itself all stays as it is.
	const ends = broke.flatMap(({ bond }) => [bonds.a[bond]!, bonds.b[bond]!]);
	const parts = broke.length > 0 ? partsOff(scene, bonded, members, anchored, ends) : anchored ? [] : [{ bodies: members, anchored }];
	const groups = parts.map((part) => (part.anchored ? part : { ...part, ...together(run, net, part.bodies, speeds) }));
	for (const i of members) {
		bonded.struck[i] = 1;
		unsettle(state, i);
	}
	for (const part of parts) if (!part.anchored) forgetBlow(state, part.bodies);
	return {
		broke: broke.map((one) => ({ ...one, a: bonds.a[one.bond]!, b: bonds.b[one.bond]! })),
		muted,
		groups,
		strikers: carriers.flatMap((c, n) => {
			if (world[n]!.mass === Number.POSITIVE_INFINITY) return [];
			const { centre } = world[n]!;
			const spin = vec3.add(frame.spin, rotate(frame.turn, Array.from(strikers[n]!.spin) as unknown as Vec3));
			const own = vec3.add(materialSpeed(frame, centre), rotate(frame.turn, Array.from(strikers[n]!.velocity) as unknown as Vec3));
			const velocity = (i: number) => vec3.add(own, vec3.cross(spin, vec3.subtract(centreOfMass(scene, before, i), centre)));
			return [{ bodies: engine.membersOf(c), velocity, spin }];
		}),
	};
}

/** What no blow can change, however it moves. */
const endless = (centre: Vec3, speed = { velocity: vec3.ZERO, spin: vec3.ZERO }) => ({
	mass: Number.POSITIVE_INFINITY,
	inertia: Number.POSITIVE_INFINITY,
	centre,
	...speed,
});

/** What a blow has done to bodies so far is over: they move as one, or by themselves. */
function forgetBlow({ u, v }: BondState, bodies: readonly number[]): void {
	for (const i of bodies) {
		u.fill(0, 6 * i, 6 * i + 6);
		v.fill(0, 6 * i, 6 * i + 6);
	}
}

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

/** How far a body's material at a place has moved along a direction, by what the blow has done to it so far. */
function movedAt(u: Float64Array, centre: Float64Array, i: number, place: Vec3, n: Vec3): number {
	const r = vec3.subtract(place, tripleAt(centre, i));
	return vec3.dot(n, vec3.add(tripleAt(u, 2 * i), vec3.cross(tripleAt(u, 2 * i + 1), r)));
}

/** The rigid motion of several bodies that has their momentum and their angular momentum. */
function together(
	{ scene, before }: Pick<Running, "scene" | "before">,
	net: BondNet,
	bodies: readonly number[],
	speeds: (body: number) => { readonly velocity: Vec3; readonly spin: Vec3 },
): { readonly velocity: Vec3; readonly spin: Vec3 } {
	if (bodies.length === 1) return speeds(bodies[0]!);
	let mass = 0;
	let centre: Vec3 = vec3.ZERO;
	let momentum: Vec3 = vec3.ZERO;
	const places = bodies.map((i) => centreOfMass(scene, before, i));
	const all = bodies.map(speeds);
	for (const [z, i] of bodies.entries()) {
		const m = scene.mass[i]!;
		mass += m;
		centre = vec3.add(centre, vec3.scale(places[z]!, m));
		momentum = vec3.add(momentum, vec3.scale(all[z]!.velocity, m));
	}
	centre = vec3.scale(centre, 1 / mass);
	const velocity = vec3.scale(momentum, 1 / mass);
	let turning: Vec3 = vec3.ZERO;
	const tensor = [0, 0, 0, 0, 0, 0, 0, 0, 0];
	for (const [z, i] of bodies.entries()) {
		const m = scene.mass[i]!;
		const r = vec3.subtract(places[z]!, centre);
		turning = vec3.add(turning, vec3.add(vec3.scale(vec3.cross(r, all[z]!.velocity), m), vec3.scale(all[z]!.spin, net.inertia[i]!)));
		addInertia(tensor, m, r, net.inertia[i]!);
	}
	return { velocity, spin: solve3(tensor, turning) };
}

/** Pairs that came apart a moment ago; forgets those whose time is over and those that close in on each other. */
export function inGrace(run: Pick<Running, "scene" | "before" | "step">, { net, state }: Bonded): [number, number][] {
	const { bonds } = run.scene;
	const kept: number[] = [];
	const pairs: [number, number][] = [];
	for (let k = 0; k < state.grace.length; k += 2) {
		const [bond, until] = [state.grace[k]!, state.grace[k + 1]!];
		const [a, b] = [bonds.a[bond]!, bonds.b[bond]!];
		if (until < run.step) continue;
		const frame = frameOf(run, net, a, true);
		const place = tripleAt(bonds.centre, bond);
		const into = vec3.dot(
			rotate(frame.turn, tripleAt(bonds.normal, bond)),
			vec3.subtract(fromFrame(frame, place), fromFrame(frameOf(run, net, b, true), place)),
		);
		if (into > 0) continue;
		kept.push(bond, until);
		pairs.push([a, b]);
	}
	state.grace = kept;
	return pairs;
}
