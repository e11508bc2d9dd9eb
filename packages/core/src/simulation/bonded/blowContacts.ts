import { tripleAt, type Vec3, vec3 } from "../../maths";
import type { BondNet } from "./bondNet";
import { type LatticeMemory, MOTION, MOTION_SPEED, NODE_FORCE, NODE_MOMENT, type Nodes, nodeAt } from "./latticeMemory";

/**
 * What strikes bonded bodies meets them, and what pushes it on from behind, in contacts that are damped springs with friction. A contact
 * goes on from step to step: where each began unloaded, a blow of 2,400 kg at 2 m/s broke 312 bonds in steps of 1/120 s, 207 in steps of
 * half of that, and none in a quarter.
 */

/** What strikes: a body or a group of them, in the axes of what it strikes. */
export interface Striker {
	/** kg; infinite for what goes by its keys. */
	readonly mass: number;
	/** kg m², mean. */
	readonly inertia: number;
	readonly centre: Vec3;
	/** m/s and rad/s, against what it strikes; changed by the blow. */
	readonly velocity: Float64Array;
	readonly spin: Float64Array;
}

/** Where a striker meets a bonded body, or another striker that pushes it on. */
export interface StrikePoint {
	readonly striker: number;
	/** The body that is struck; −1 where it is another striker, `behind`. */
	readonly body: number;
	readonly behind: number;
	/** The body by whose bonds the contact is as stiff as what it strikes. */
	readonly like: number;
	/** In the axes of what is struck. */
	readonly place: Vec3;
	/** Unit, away from the striker. */
	readonly normal: Vec3;
	/** Metres before the step. */
	readonly gap: number;
	readonly friction: number;
	/** Which pair of bodies this is a point of. */
	readonly pair: number;
}

/** By pair: what its contact holds of a blow that is not over, J. */
export type Pressed = Map<number, number>;

export interface BlowContact {
	readonly pair: number;
	readonly striker: number;
	readonly node: number;
	readonly behind: number;
	/** From the centre of what is met, and from the striker's. */
	readonly arm: Vec3;
	readonly reach: Vec3;
	readonly normal: Vec3;
	stiffness: number;
	damping: number;
	readonly friction: number;
	gap: number;
}

/** Of critical, in a blow's contact. */
const CONTACT_DAMPING = 0.3;
/** Share of the limit of stability that the contacts of one body take together. */
const STEADY = 0.25;
/** Nearer than this a contact is what it was in the step before. m */
const TOUCHES = 1e-3;

/**
 * `stiffness`: 1 per body, N/m, of its bonds on average; `h`: the small step, s. Contacts that have been pressed go on as far as they were.
 */
export function makeContacts(
	points: readonly StrikePoint[],
	strikers: readonly Striker[],
	{ centre }: Pick<BondNet, "centre">,
	stiffness: Float64Array,
	nodes: Nodes,
	pressed: Pressed,
	h: number,
): BlowContact[] {
	const shares = new Map<number, number>();
	for (const { pair } of points) shares.set(pair, (shares.get(pair) ?? 0) + 1);
	const contacts = points.map(({ pair, striker, body, behind, like, place, normal, friction, gap }): BlowContact => {
		const reach = vec3.subtract(place, strikers[striker]!.centre);
		const arm = vec3.subtract(place, body >= 0 ? tripleAt(centre, body) : strikers[behind]!.centre);
		const share = (0.5 * stiffness[like]!) / shares.get(pair)!;
		return { pair, striker, node: body, behind, arm, reach, normal, stiffness: share, damping: 0, friction, gap: Math.max(gap, 0) };
	});
	steady(contacts, strikers, nodes, h);
	press(contacts, pressed);
	return contacts;
}

/**
 * Makes contacts so soft that the small step can follow them, however light what strikes is and however many there are,
 * and damps them in proportion, so that the same holds for their damping.
 */
function steady(contacts: readonly BlowContact[], strikers: readonly Striker[], nodes: Nodes, h: number): void {
	// Strikers and bodies that are met, numbered.
	const ends = new Map<number, number>();
	for (const { node } of contacts) if (node >= 0 && !ends.has(node)) ends.set(node, strikers.length + ends.size);
	const met = Int32Array.from(contacts, ({ node, behind }) => (node >= 0 ? ends.get(node)! : behind));
	/** How lightly each end gives way at a contact: 2 per contact. */
	const light = new Float64Array(2 * contacts.length);
	for (const [k, { striker, node, behind, arm, reach }] of contacts.entries()) {
		light[2 * k] = lightness(strikers[striker]!.mass, strikers[striker]!.inertia, reach);
		light[2 * k + 1] =
			node >= 0
				? lightness(nodes.mass[node]!, nodes.inertia[node]!, arm)
				: lightness(strikers[behind]!.mass, strikers[behind]!.inertia, arm);
	}
	/** Squared frequency of all contacts of an end together, were the other ends held. */
	const sums = new Float64Array(strikers.length + ends.size);
	const sumUp = (): void => {
		sums.fill(0);
		for (const [k, { striker, stiffness }] of contacts.entries()) {
			sums[striker]! += stiffness * light[2 * k]!;
			sums[met[k]!]! += stiffness * light[2 * k + 1]!;
		}
	};
	sumUp();
	const limit = (4 * STEADY) / (h * h);
	for (const [k, contact] of contacts.entries())
		contact.stiffness *= Math.min(1, limit / (2 * sums[contact.striker]!), limit / (2 * sums[met[k]!]!));
	sumUp();
	// No contact swings faster than by both of its ends. Contacts of what holds still do not know of each other.
	for (const [k, contact] of contacts.entries())
		contact.damping = (2 * CONTACT_DAMPING * contact.stiffness) / Math.sqrt(Math.max(sums[contact.striker]! + sums[met[k]!]!, 1e-30));
}

/** By how much the speed at an arm from a body's centre, m, changes with an impulse there, 1/kg. */
const lightness = (mass: number, inertia: number, arm: Vec3): number =>
	mass === Number.POSITIVE_INFINITY ? 0 : 1 / mass + vec3.dot(arm, arm) / inertia;

/**
 * A contact begins without load, for what already overlaps would push back with energy that nobody has put in; one that was there in the
 * step before holds what it held, whatever its points are now.
 */
function press(contacts: readonly BlowContact[], pressed: Pressed): void {
	const stiffness = new Map<number, number>();
	for (const { pair, gap, stiffness: own } of contacts) if (gap <= TOUCHES) stiffness.set(pair, (stiffness.get(pair) ?? 0) + own);
	for (const contact of contacts) {
		const energy = pressed.get(contact.pair) ?? 0;
		if (contact.gap <= TOUCHES && energy > 0) contact.gap = -Math.sqrt((2 * energy) / stiffness.get(contact.pair)!);
	}
}

/** What contacts hold, for the next step. */
export function heldBy(contacts: readonly BlowContact[]): Pressed {
	const held: Pressed = new Map();
	for (const { pair, gap, stiffness } of contacts)
		if (gap < 0 && stiffness > 0) held.set(pair, (held.get(pair) ?? 0) + 0.5 * stiffness * gap * gap);
	return held;
}

/** One contact over one small step: the force on what is met, and its other half on the striker. */
export function meet(contact: BlowContact, strikers: readonly Striker[], memory: LatticeMemory, h: number): void {
	const { node, behind, arm: r, reach: s, normal: n } = contact;
	const { motion: v, f32: f } = memory;
	const striker = strikers[contact.striker]!;
	const { velocity: sv, spin: sw } = striker;
	let rx = -(sv[0]! + sw[1]! * s[2] - sw[2]! * s[1]);
	let ry = -(sv[1]! + sw[2]! * s[0] - sw[0]! * s[2]);
	let rz = -(sv[2]! + sw[0]! * s[1] - sw[1]! * s[0]);
	if (node >= 0) {
		const o = MOTION * node + MOTION_SPEED;
		rx += v[o]! + v[o + 4]! * r[2] - v[o + 5]! * r[1];
		ry += v[o + 1]! + v[o + 5]! * r[0] - v[o + 3]! * r[2];
		rz += v[o + 2]! + v[o + 3]! * r[1] - v[o + 4]! * r[0];
	} else {
		const { velocity: bv, spin: bw } = strikers[behind]!;
		rx += bv[0]! + bw[1]! * r[2] - bw[2]! * r[1];
		ry += bv[1]! + bw[2]! * r[0] - bw[0]! * r[2];
		rz += bv[2]! + bw[0]! * r[1] - bw[1]! * r[0];
	}
	const parting = rx * n[0] + ry * n[1] + rz * n[2];
	contact.gap += h * parting;
	if (contact.gap >= 0) return;
	const push = Math.max(0, -contact.stiffness * contact.gap - contact.damping * parting);
	if (push === 0) return;
	const [tx, ty, tz] = [rx - parting * n[0], ry - parting * n[1], rz - parting * n[2]];
	const slip = Math.sqrt(tx * tx + ty * ty + tz * tz);
	const rub = slip > 0 ? Math.min(contact.friction * push, contact.damping * slip) / slip : 0;
	const force: Vec3 = [push * n[0] - rub * tx, push * n[1] - rub * ty, push * n[2] - rub * tz];
	if (node >= 0) {
		const [fx, fy, fz] = force;
		const at = nodeAt(memory, node);
		f[at + NODE_FORCE]! += fx;
		f[at + NODE_FORCE + 1]! += fy;
		f[at + NODE_FORCE + 2]! += fz;
		f[at + NODE_MOMENT]! += r[1] * fz - r[2] * fy;
		f[at + NODE_MOMENT + 1]! += r[2] * fx - r[0] * fz;
		f[at + NODE_MOMENT + 2]! += r[0] * fy - r[1] * fx;
	} else pushStriker(strikers[behind]!, force, r, h);
	pushStriker(striker, force, s, -h);
}

/** A force at an arm from a striker's centre for so many seconds; the other way where they are negative. */
function pushStriker({ mass, inertia, velocity, spin }: Striker, [fx, fy, fz]: Vec3, s: Vec3, h: number): void {
	if (mass === Number.POSITIVE_INFINITY) return;
	const [im, ii] = [h / mass, h / inertia];
	velocity[0]! += im * fx;
	velocity[1]! += im * fy;
	velocity[2]! += im * fz;
	spin[0]! += ii * (s[1] * fz - s[2] * fy);
	spin[1]! += ii * (s[2] * fx - s[0] * fz);
	spin[2]! += ii * (s[0] * fy - s[1] * fx);
}
