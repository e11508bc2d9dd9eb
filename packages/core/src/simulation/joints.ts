import { type Joint, jointLength } from "../connectors";
import { compose, cos, exp, IDENTITY, inverse, type Quat, quatAt, rotate, tripleAt, type Vec3, vec3 } from "../maths";
import { find, unite } from "../mesh";
import type { ContactLoad } from "./contactLoads";
import type { BodyState, Engine } from "./engine";
import { centreOfMass } from "./pushes";
import { meanInertia, rigidGroup } from "./rigid";
import type { Running } from "./running";
import { Kind, type SimScene, stepSeconds } from "./scene";

/** What a run knows of its joints. Part of the checkpoint. */
export interface JointState {
	/** 1 per joint: 1 = it has broken. */
	readonly broken: Uint8Array;
}

export const makeJointState = (scene: SimScene): JointState => ({ broken: new Uint8Array(scene.joints.length) });
export const copyJointState = ({ broken }: JointState): JointState => ({ broken: broken.slice() });

/** Where the point of a body that stood at `place` at the first frame is now, and how fast; the world does not move. */
export function pointOf(scene: SimScene, state: BodyState, i: number, place: Vec3): { at: Vec3; velocity: Vec3 } {
	if (i < 0) return { at: place, velocity: vec3.ZERO };
	const local = rotate(inverse(quatAt(scene.rotation, i)), vec3.subtract(place, tripleAt(scene.position, i)));
	const at = vec3.add(tripleAt(state.position, i), rotate(quatAt(state.rotation, i), local));
	const arm = vec3.subtract(at, centreOfMass(scene, state, i));
	return { at, velocity: vec3.add(tripleAt(state.velocity, i), vec3.cross(tripleAt(state.spin, i), arm)) };
}

/**
 * What a damped spring does to the speed of its ends in a step: the step of the exact solution (so that period and decay
 * come out right at any stiffness, and nothing blows up), for speeds that are half a step behind as the engine has them.
 * With x(t + h) = 2 e c x(t) − e² x(t − h), e = exp(−γh), c = cos(ωh), the new speed is e² v − (1 + e² − 2 e c) x / h.
 * Beyond critical damping the cosine is a hyperbolic one.
 */
export function springSpeed(x: number, v: number, stiffness: number, damping: number, mass: number, h: number): number {
	const gamma = damping / (2 * mass);
	const squared = stiffness / mass - gamma * gamma;
	const e = exp(-gamma * h);
	const root = Math.sqrt(Math.abs(squared));
	const both = squared >= 0 ? 2 * e * cos(root * h) : exp((root - gamma) * h) + exp((-root - gamma) * h);
	return e * e * v - ((1 + e * e - both) * x) / h;
}

/** Whether an end of a joint moves by itself: neither the world, nor held, nor bonded to what holds still. */
export const isFree = ({ scene, engine, held }: Pick<Running, "scene" | "engine" | "held">, i: number): boolean =>
	i >= 0 && scene.kind[i] === Kind.Active && held[i] === 0 && !engine.isAnchored(engine.carrier[i]!);

const AXES: readonly Vec3[] = [
	[1, 0, 0],
	[0, 1, 0],
	[0, 0, 1],
];

/** 1 / (mass that a point of a body seems to have along a direction), 1/kg; 0 for what does not move by itself. */
function lightness(run: Running, i: number, at: Vec3, direction: Vec3): number {
	if (!isFree(run, i)) return 0;
	const { scene, engine, before } = run;
	const { mass, centre, inertia } = rigidGroup(scene, engine, before, engine.carrier[i]!);
	const arm = vec3.cross(vec3.subtract(at, centre), direction);
	return 1 / mass + vec3.dot(arm, arm) / inertia;
}

/** Gives the ends of springs the impulses of the coming step. */
export function pullSprings(run: Running, { broken }: JointState): void {
	const { scene, engine, before } = run;
	const h = stepSeconds(scene);
	for (const [n, joint] of scene.joints.entries()) {
		if (joint.kind !== "spring" || broken[n] === 1) continue;
		if (![joint.a, joint.b].some((i) => i >= 0 && engine.moves(i))) continue;
		const [one, other] = [pointOf(scene, before, joint.a, joint.from), pointOf(scene, before, joint.b, joint.to)];
		const apart = vec3.subtract(other.at, one.at);
		const speed = vec3.subtract(other.velocity, one.velocity);
		const { stiffness = 0, damping = 0, acts = "along" } = joint.options;
		const pull = (axis: Vec3, stretch: number, share: number) => {
			const lightest = lightness(run, joint.a, one.at, axis) + lightness(run, joint.b, other.at, axis);
			if (lightest === 0 || share === 0) return;
			const v = vec3.dot(speed, axis);
			const impulse = (springSpeed(stretch, v, stiffness * share, damping * share, 1 / lightest, h) - v) / lightest;
			engine.addImpulse(joint.a, vec3.scale(axis, -impulse), one.at);
			if (joint.b >= 0) engine.addImpulse(joint.b, vec3.scale(axis, impulse), other.at);
		};
		if (acts === "along") {
			const length = vec3.length(apart);
			if (length > 0) pull(vec3.scale(apart, 1 / length), length - jointLength(joint), 1);
			continue;
		}
		// By axis: its own axes go with the first body.
		const turned = turnSince(scene, before, joint.a);
		const rest = vec3.subtract(joint.to, joint.from);
		const shares = [joint.options.shareX ?? 1, joint.options.shareY ?? 1, joint.options.shareZ ?? 1];
		for (let k = 0; k < 3; k++) {
			const own = rotate(joint.turn, AXES[k]!);
			const axis = rotate(turned, own);
			pull(axis, vec3.dot(apart, axis) - vec3.dot(rest, own), shares[k]!);
		}
		twist(run, joint, h);
	}
}

/** How a body has turned since the first frame. */
export const turnSince = (scene: SimScene, state: BodyState, i: number): Quat =>
	i < 0 ? IDENTITY : compose(quatAt(state.rotation, i), inverse(quatAt(scene.rotation, i)));

/** The spring against twisting the second body against the first, with a share for each of the connector's axes. */
function twist(run: Running, { a, b, turn, options }: Joint, h: number): void {
	const { turning: stiffness = 0, turnDamping: damping = 0 } = options;
	if (stiffness === 0 && damping === 0) return;
	const { scene, engine, before } = run;
	const [freeA, freeB] = [isFree(run, a), isFree(run, b)];
	const lightest = (freeA ? 1 / meanInertia(scene, a) : 0) + (freeB ? 1 / meanInertia(scene, b) : 0);
	if (lightest === 0) return;
	// Turn of b against a as a vector: twice the vector part, for the turns that springs allow.
	const relative = compose(turnSince(scene, before, b), inverse(turnSince(scene, before, a)));
	const sign = relative[3] < 0 ? -2 : 2;
	const angle: Vec3 = [sign * relative[0], sign * relative[1], sign * relative[2]];
	const speed = vec3.subtract(b < 0 ? vec3.ZERO : tripleAt(before.spin, b), a < 0 ? vec3.ZERO : tripleAt(before.spin, a));
	// The axes go with the first body.
	const turned = turnSince(scene, before, a);
	const shares = [options.turnX ?? 1, options.turnY ?? 1, options.turnZ ?? 1];
	let impulse: Vec3 = vec3.ZERO;
	for (let k = 0; k < 3; k++) {
		if (shares[k] === 0) continue;
		const axis = rotate(turned, rotate(turn, AXES[k]!));
		const v = vec3.dot(speed, axis);
		const next = springSpeed(vec3.dot(angle, axis), v, stiffness * shares[k]!, damping * shares[k]!, 1 / lightest, h);
		impulse = vec3.add(impulse, vec3.scale(axis, (next - v) / lightest));
	}
	if (freeA) engine.addTurn(a, vec3.scale(impulse, -1));
	if (freeB) engine.addTurn(b, impulse);
}

export interface JointBreak {
	readonly joint: number;
	/** N, or N m where it was the moment. */
	readonly load: number;
}

/**
 * Lets go the joints that had to bear more than they can in the last step. The engine does not tell what its joints
 * bear, so it follows from the balance of momentum: what a body has gained beyond weight, pushes and contacts came
 * through its joints. Along a tree of joints that is unique; around a loop the smallest loads that fit are taken, which
 * are λa − λb with the graph's Laplacian on λ. Friction of contacts is not known and left out.
 */
export function breakJoints(
	run: Running,
	{ broken }: JointState,
	pushed: ReadonlyMap<number, Vec3>,
	contacts: ReadonlyMap<number, ContactLoad>,
): JointBreak[] {
	const { scene, engine } = run;
	const gained = balances(run, pushed, contacts);
	const acting = scene.joints.flatMap((_, n) => (broken[n] === 0 ? [n] : []));
	const heart = withBreakable(scene, acting, engine);
	const ends = (n: number) => {
		const { a, b } = scene.joints[n]!;
		return [engine.carrier[a]!, b < 0 ? -1 : engine.carrier[b]!] as const;
	};
	const forces = spread(heart.map(ends), (c) => gained.get(c)?.force);
	const h = stepSeconds(scene);
	const found: JointBreak[] = [];
	const stiff = heart.filter((n) => isStiff(scene.joints[n]!.kind));
	const arms = new Map<number, Vec3>();
	for (const [k, n] of heart.entries()) {
		const { a, b, from, to } = scene.joints[n]!;
		for (const [i, place, sign] of [
			[a, from, 1],
			[b, to, -1],
		] as const) {
			if (i < 0) continue;
			const c = engine.carrier[i]!;
			const middle = gained.get(c)?.centre;
			if (!middle) continue;
			const moment = vec3.cross(vec3.subtract(pointOf(scene, run.after, i, place).at, middle), vec3.scale(forces[k]!, sign));
			arms.set(c, vec3.add(arms.get(c) ?? vec3.ZERO, moment));
		}
	}
	const moments = spread(stiff.map(ends), (c) => {
		const own = gained.get(c);
		return own && vec3.subtract(own.moment, arms.get(c) ?? vec3.ZERO);
	});
	for (const [k, n] of heart.entries()) {
		const { options } = scene.joints[n]!;
		if (options.breaks !== "load") continue;
		const force = vec3.length(forces[k]!) / h;
		const at = stiff.indexOf(n);
		const moment = at >= 0 ? vec3.length(moments[at]!) / h : 0;
		if (force > options.force) found.push({ joint: n, load: force });
		else if (at >= 0 && moment > options.moment) found.push({ joint: n, load: moment });
	}
	for (const { joint } of found) {
		broken[joint] = 1;
		engine.cutJoint(joint);
	}
	return found;
}

const isStiff = (kind: string): boolean => kind === "fixed" || kind === "hinge" || kind === "slider";

/** Joints that hang together, over joints, with one that can break: only their loads have to be known. */
function withBreakable(scene: SimScene, acting: readonly number[], engine: Engine): number[] {
	const root = Int32Array.from({ length: scene.count }, (_, i) => i);
	const still = (i: number) => i < 0 || !engine.moves(i);
	for (const k of acting) {
		const { a, b } = scene.joints[k]!;
		if (!still(a) && !still(b)) unite(root, engine.carrier[a]!, engine.carrier[b]!);
	}
	const ends = (k: number) => [scene.joints[k]!.a, scene.joints[k]!.b].flatMap((i) => (still(i) ? [] : [find(root, engine.carrier[i]!)]));
	const wanted = new Set(acting.filter((k) => scene.joints[k]!.options.breaks === "load").flatMap(ends));
	return acting.filter((k) => ends(k).some((c) => wanted.has(c)));
}

/** By carrier: what joints must have given it in the last step, N s, N m s about its centre; and where that is. Only for what moves. */
function balances(
	{ scene, engine, before, after, held }: Running,
	pushed: ReadonlyMap<number, Vec3>,
	contacts: ReadonlyMap<number, ContactLoad>,
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
			let gain = vec3.scale(vec3.subtract(tripleAt(after.velocity, m), tripleAt(before.velocity, m)), own);
			gain = vec3.subtract(gain, vec3.scale(g, h));
			let turn = vec3.subtract(spinMomentum(scene, after, m), spinMomentum(scene, before, m));
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

/**
 * What each edge gives its first end (and takes from its second), so that every node gets what it needs: the smallest
 * such. `need` is undefined for nodes that take anything. Conjugate gradients on the graph's Laplacian.
 */
export function spread(edges: readonly (readonly [number, number])[], need: (node: number) => Vec3 | undefined): Vec3[] {
	const index = new Map<number, number>();
	for (const edge of edges) for (const node of edge) if (node >= 0 && need(node) && !index.has(node)) index.set(node, index.size);
	const n = index.size;
	const ends = edges.map(([a, b]) => [index.get(a) ?? -1, index.get(b) ?? -1] as const);
	const lambda = [0, 1, 2].map(() => new Float64Array(n));
	const nodes = [...index.keys()];
	for (let d = 0; d < 3; d++) {
		const x = lambda[d]!;
		const r = Float64Array.from(nodes, (node) => need(node)![d]!);
		const p = r.slice();
		let rr = r.reduce((sum, v) => sum + v * v, 0);
		const whole = rr;
		const q = new Float64Array(n);
		for (let step = 0; step < 4 * n + 8 && rr > 1e-20 * whole && whole > 0; step++) {
			q.fill(0);
			for (const [a, b] of ends) {
				const difference = (a < 0 ? 0 : p[a]!) - (b < 0 ? 0 : p[b]!);
				if (a >= 0) q[a]! += difference;
				if (b >= 0) q[b]! -= difference;
			}
			const curvature = p.reduce((sum, v, i) => sum + v * q[i]!, 0);
			if (!(curvature > 0)) break;
			const alpha = rr / curvature;
			let next = 0;
			for (let i = 0; i < n; i++) {
				x[i]! += alpha * p[i]!;
				r[i]! -= alpha * q[i]!;
				next += r[i]! * r[i]!;
			}
			for (let i = 0; i < n; i++) p[i] = r[i]! + (next / rr) * p[i]!;
			rr = next;
		}
	}
	return ends.map(([a, b]) => [0, 1, 2].map((d) => (a < 0 ? 0 : lambda[d]![a]!) - (b < 0 ? 0 : lambda[d]![b]!)) as unknown as Vec3);
}
