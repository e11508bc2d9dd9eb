import type { Bonds } from "../bonds";
import type { Vec3 } from "../maths";
import { type BondNet, INNER_FRICTION } from "./bondNet";

/**
 * A blow on bonded bodies: bodies as masses, bonds as damped springs (rigid bodies and springs, Kawai 1978; explicit
 * symplectic Euler), what strikes as rigid bodies in penalty contact. Within one step of the simulation it takes as many
 * small steps as the waves need; a bond breaks at its limit of tension with bending, of shear with friction, or of
 * compression (Mohr and Coulomb with a cut-off); broken faces go on pressing and rubbing until they have slipped away.
 *
 * Why not an impulse shared out by a static solution: it is computed against a structure that does not give way, and
 * then laid on one that gets weaker. Tried on a wall of 20 × 20 bricks struck by 300 kg at 15 m/s: static equilibrium
 * broke all of it at once, foot too; breaking the worst bonds only and solving again stopped the striker dead; with
 * inertia in the solution a few bricks popped out. Here momentum is exchanged while things break: a local hole first.
 */

/** Bonds as `bondState` has them. */
export const BOND_WHOLE = 0;
/** Broken; its faces still press and rub. */
export const BOND_BROKEN = 1;
/** Broken, and its faces have left each other. */
export const BOND_GONE = 2;

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

/** Where a striker meets a bonded body. */
export interface StrikePoint {
	readonly striker: number;
	readonly body: number;
	/** In the axes of what is struck. */
	readonly place: Vec3;
	/** Unit, into the body. */
	readonly normal: Vec3;
	/** Metres before the step. */
	readonly gap: number;
	readonly friction: number;
}

export interface Blow {
	readonly net: BondNet;
	readonly bonds: Bonds;
	readonly mass: Float64Array;
	/** Bodies that move, and the bonds between them or to what holds still. */
	readonly members: readonly number[];
	readonly list: readonly number[];
	/** 1 per bond of the scene; changed. */
	readonly state: Uint8Array;
	/** 1 per bond of the scene: share of its strength that is left. */
	readonly left: Float64Array;
	/** 1 per bond of the scene: highest use of its strength so far; changed. */
	readonly peak: Float64Array;
	/** 6 per body of the scene: moved by (m, rad) and speed; changed. */
	readonly u: Float64Array;
	readonly v: Float64Array;
	readonly strikers: readonly Striker[];
	readonly points: readonly StrikePoint[];
	/** Simulated seconds. */
	readonly dt: number;
}

/** What broke in it, as bonds and why. */
export interface Break {
	readonly bond: number;
	readonly mode: BreakMode;
	/** Pa, at the limit. */
	readonly stress: number;
}
export const BreakMode = { Tension: 0, Shear: 1, Compression: 2 } as const;
export type BreakMode = (typeof BreakMode)[keyof typeof BreakMode];

/** Small steps in a step. More than the most are not taken: then springs are softer, and little bodies heavier. */
const LEAST_STEPS = 16;
const MOST_STEPS = 160;
/** Of critical, at the highest frequency. */
const DAMPING = 0.2;
/** Share of the limit of stability that is used. */
const SAFETY = 0.9;
/** Translation and turning act on each other: room in the estimate of the highest frequency. */
const COUPLING = 1.5;
/** Of critical, in a blow's contact. */
const CONTACT_DAMPING = 0.3;
/** Broken faces leave each other after slipping so far, metres, or turning so far, radians squared. */
const SLIP = 0.06;
const TURN = 0.09;
/** Share of the stiffness with which broken faces rub. */
const RUB = 0.4;

/** Packed numbers of one bond: arms 6, axes 9, stiffness 5, moduli 3, area, limits 3. */
const STRIDE = 27;

export function strike(blow: Blow): Break[] {
	const { net, bonds, members, list, dt } = blow;
	const local = new Map(members.map((body, k) => [body, k]));
	const n = members.length;
	const { stiffening, steps, nodeMass, nodeInertia } = plan(blow, local);
	const h = dt / steps;
	// Of the highest frequency that these steps can follow.
	const highest = (SAFETY * 2 * (Math.sqrt(1 + DAMPING * DAMPING) - DAMPING)) / h;
	const beta = (2 * DAMPING) / highest;
	const packed = new Float64Array(STRIDE * list.length);
	const ends = new Int32Array(2 * list.length);
	const state = new Uint8Array(list.length);
	for (const [z, k] of list.entries()) {
		ends[2 * z] = local.get(bonds.a[k]!) ?? n;
		ends[2 * z + 1] = local.get(bonds.b[k]!) ?? n;
		state[z] = blow.state[k]!;
		const at = STRIDE * z;
		packed.set(net.arms.subarray(6 * k, 6 * k + 6), at);
		packed.set(net.axes.subarray(9 * k, 9 * k + 9), at + 6);
		for (let c = 0; c < 5; c++) packed[at + 15 + c] = net.stiffness[5 * k + c]! * net.young[k]! * stiffening;
		packed.set(net.modulus.subarray(3 * k, 3 * k + 3), at + 20);
		packed[at + 23] = bonds.area[k]!;
		packed[at + 24] = bonds.tension[k]! * blow.left[k]!;
		packed[at + 25] = bonds.shear[k]! * blow.left[k]!;
		packed[at + 26] = bonds.compression[k]! * blow.left[k]!;
	}
	// One more node stands for everything that holds still.
	const u = new Float64Array(6 * (n + 1));
	const v = new Float64Array(6 * (n + 1));
	for (const [z, body] of members.entries()) {
		u.set(blow.u.subarray(6 * body, 6 * body + 6), 6 * z);
		v.set(blow.v.subarray(6 * body, 6 * body + 6), 6 * z);
	}
	const w = new Float64Array(6 * (n + 1));
	const f = new Float64Array(6 * (n + 1));
	const peak = new Float64Array(list.length);
	const contacts = blow.points.map((point) => contactOf(blow, point, local, stiffening));
	steady(contacts, blow.strikers, nodeMass, nodeInertia, h);
	const broke: Break[] = [];
	const breaks = new Int32Array(list.length);
	const modes = new Uint8Array(list.length);
	const stresses = new Float64Array(list.length);
	for (let step = 0; step < steps; step++) {
		for (let i = 0; i < w.length; i++) w[i] = u[i]! + beta * v[i]!;
		f.fill(0);
		const count = bondForces(list.length, ends, packed, state, w, f, peak, breaks, modes, stresses);
		for (let c = 0; c < count; c++) broke.push({ bond: list[breaks[c]!]!, mode: modes[c] as BreakMode, stress: stresses[c]! });
		for (const contact of contacts) press(contact, blow.strikers[contact.striker]!, v, f, h);
		for (let i = 0; i < n; i++) {
			const [im, ii] = [h / nodeMass[i]!, h / nodeInertia[i]!];
			for (let d = 0; d < 3; d++) {
				v[6 * i + d]! += im * f[6 * i + d]!;
				v[6 * i + 3 + d]! += ii * f[6 * i + 3 + d]!;
			}
			for (let d = 0; d < 6; d++) {
				if (Math.abs(v[6 * i + d]!) < 1e-15) v[6 * i + d] = 0;
				u[6 * i + d]! += h * v[6 * i + d]!;
			}
		}
	}
	for (const [z, k] of list.entries()) {
		blow.state[k] = state[z]!;
		blow.peak[k] = Math.max(blow.peak[k]!, peak[z]!);
	}
	for (const [z, body] of members.entries()) {
		blow.u.set(u.subarray(6 * z, 6 * z + 6), 6 * body);
		blow.v.set(v.subarray(6 * z, 6 * z + 6), 6 * body);
	}
	return broke;
}

/** How many small steps, how stiff, and which masses they can bear. */
function plan({ net, bonds, mass, list, members, dt }: Blow, local: ReadonlyMap<number, number>) {
	const n = members.length;
	const along = new Float64Array(n);
	const about = new Float64Array(n);
	for (const k of list)
		for (const [end, arm] of [
			[bonds.a[k]!, 0],
			[bonds.b[k]!, 3],
		] as const) {
			const z = local.get(end);
			if (z === undefined) continue;
			const kn = net.stiffness[5 * k]! * net.young[k]!;
			const bend = Math.max(net.stiffness[5 * k + 2]!, net.stiffness[5 * k + 3]!, net.stiffness[5 * k + 4]!) * net.young[k]!;
			const [x, y, zz] = [net.arms[6 * k + arm]!, net.arms[6 * k + arm + 1]!, net.arms[6 * k + arm + 2]!];
			along[z]! += kn;
			about[z]! += bend + kn * (x * x + y * y + zz * zz);
		}
	const frequency = Array.from(members, (body, z) =>
		Math.sqrt(2 * COUPLING * Math.max(along[z]! / mass[body]!, about[z]! / net.inertia[body]!)),
	);
	const usual = [...frequency].sort((a, b) => a - b)[Math.floor(0.8 * (n - 1))]!;
	const limit = SAFETY * 2 * (Math.sqrt(1 + DAMPING * DAMPING) - DAMPING);
	const wanted = (usual * dt) / limit;
	const stiffening = wanted > MOST_STEPS ? (MOST_STEPS / wanted) ** 2 : 1;
	const steps = Math.max(LEAST_STEPS, Math.min(MOST_STEPS, Math.ceil(wanted)));
	const highest = (limit * steps) / dt;
	const least = (2 * COUPLING * stiffening) / (highest * highest);
	return {
		stiffening,
		steps,
		nodeMass: Float64Array.from(members, (body, z) => Math.max(mass[body]!, least * along[z]!)),
		nodeInertia: Float64Array.from(members, (body, z) => Math.max(net.inertia[body]!, least * about[z]!)),
	};
}

interface Contact {
	readonly striker: number;
	readonly node: number;
	/** From the body's centre, and from the striker's. */
	readonly arm: Vec3;
	readonly reach: Vec3;
	readonly normal: Vec3;
	stiffness: number;
	damping: number;
	readonly friction: number;
	gap: number;
}

/** As stiff as what it strikes, shared by the points of the pair. */
function contactOf({ net, strikers, points }: Blow, point: StrikePoint, local: ReadonlyMap<number, number>, stiffening: number): Contact {
	const { body, striker, place } = point;
	const { centre } = strikers[striker]!;
	let sum = 0;
	for (const k of net.of[body]!) sum += net.stiffness[5 * k]! * net.young[k]! * stiffening;
	const shares = points.filter((other) => other.body === body && other.striker === striker).length;
	const c = net.centre;
	return {
		striker,
		node: local.get(body)!,
		arm: [place[0] - c[3 * body]!, place[1] - c[3 * body + 1]!, place[2] - c[3 * body + 2]!],
		reach: [place[0] - centre[0], place[1] - centre[1], place[2] - centre[2]],
		normal: point.normal,
		stiffness: (0.5 * sum) / Math.max(1, net.of[body]!.length) / shares,
		damping: 0,
		friction: point.friction,
		gap: Math.max(point.gap, 0),
	};
}

/** Share of the limit of stability that the contacts of one body take together. */
const STEADY = 0.25;

/**
 * Makes contacts so soft that the small step can follow them, however light what strikes is and however many there are,
 * and damps them in proportion, so that the same holds for their damping.
 */
function steady(
	contacts: readonly Contact[],
	strikers: readonly Striker[],
	nodeMass: ArrayLike<number>,
	nodeInertia: ArrayLike<number>,
	h: number,
): void {
	// How lightly each end gives way at its contact, and the squared frequency of all contacts of a body together.
	const ofStriker = new Float64Array(strikers.length);
	const ofNode = new Float64Array(nodeMass.length);
	const light = contacts.map(({ striker, node, arm, reach, stiffness }) => {
		const { mass, inertia } = strikers[striker]!;
		const one = mass === Number.POSITIVE_INFINITY ? 0 : 1 / mass + squared(reach) / inertia;
		const other = 1 / nodeMass[node]! + squared(arm) / nodeInertia[node]!;
		ofStriker[striker]! += stiffness * one;
		ofNode[node]! += stiffness * other;
		return one + other;
	});
	const limit = (4 * STEADY) / (h * h);
	for (const contact of contacts)
		contact.stiffness *= Math.min(1, limit / (2 * ofStriker[contact.striker]!), limit / (2 * ofNode[contact.node]!));
	ofStriker.fill(0);
	ofNode.fill(0);
	for (const [k, { striker, node, stiffness }] of contacts.entries()) {
		ofStriker[striker]! += stiffness * light[k]!;
		ofNode[node]! += stiffness * light[k]!;
	}
	for (const contact of contacts)
		contact.damping =
			(2 * CONTACT_DAMPING * contact.stiffness) / Math.sqrt(Math.max(ofStriker[contact.striker]!, ofNode[contact.node]!, 1e-30));
}

const squared = ([x, y, z]: Vec3): number => x * x + y * y + z * z;

/** One contact over one small step: the force on the body, and its other half on the striker. */
function press(contact: Contact, striker: Striker, v: Float64Array, f: Float64Array, h: number): void {
	const { node, arm: r, reach: s, normal: n } = contact;
	const o = 6 * node;
	const { velocity: sv, spin: sw } = striker;
	const rx = v[o]! + v[o + 4]! * r[2] - v[o + 5]! * r[1] - (sv[0]! + sw[1]! * s[2] - sw[2]! * s[1]);
	const ry = v[o + 1]! + v[o + 5]! * r[0] - v[o + 3]! * r[2] - (sv[1]! + sw[2]! * s[0] - sw[0]! * s[2]);
	const rz = v[o + 2]! + v[o + 3]! * r[1] - v[o + 4]! * r[0] - (sv[2]! + sw[0]! * s[1] - sw[1]! * s[0]);
	const parting = rx * n[0] + ry * n[1] + rz * n[2];
	contact.gap += h * parting;
	if (contact.gap >= 0) return;
	const push = Math.max(0, -contact.stiffness * contact.gap - contact.damping * parting);
	if (push === 0) return;
	const [tx, ty, tz] = [rx - parting * n[0], ry - parting * n[1], rz - parting * n[2]];
	const slip = Math.sqrt(tx * tx + ty * ty + tz * tz);
	const rub = slip > 0 ? Math.min(contact.friction * push, contact.damping * slip) / slip : 0;
	const [fx, fy, fz] = [push * n[0] - rub * tx, push * n[1] - rub * ty, push * n[2] - rub * tz];
	f[o]! += fx;
	f[o + 1]! += fy;
	f[o + 2]! += fz;
	f[o + 3]! += r[1] * fz - r[2] * fy;
	f[o + 4]! += r[2] * fx - r[0] * fz;
	f[o + 5]! += r[0] * fy - r[1] * fx;
	if (striker.mass === Number.POSITIVE_INFINITY) return;
	const [im, ii] = [h / striker.mass, h / striker.inertia];
	sv[0]! -= im * fx;
	sv[1]! -= im * fy;
	sv[2]! -= im * fz;
	sw[0]! -= ii * (s[1] * fz - s[2] * fy);
	sw[1]! -= ii * (s[2] * fx - s[0] * fz);
	sw[2]! -= ii * (s[0] * fy - s[1] * fx);
}

/**
 * Forces of all bonds, from where their ends are (`w`: moved by, with the damping's share in it). Returns how many broke;
 * `breaks`, `modes`, `stresses` say which. In one plain loop on arrays: inside a closure it ran ten times slower.
 */
function bondForces(
	count: number,
	ends: Int32Array,
	p: Float64Array,
	state: Uint8Array,
	w: Float64Array,
	f: Float64Array,
	peak: Float64Array,
	breaks: Int32Array,
	modes: Uint8Array,
	stresses: Float64Array,
): number {
	let broken = 0;
	for (let z = 0; z < count; z++) {
		if (state[z] === BOND_GONE) continue;
		const i = 6 * ends[2 * z]!;
		const j = 6 * ends[2 * z + 1]!;
		const o = STRIDE * z;
		const ax = p[o]!;
		const ay = p[o + 1]!;
		const az = p[o + 2]!;
		const bx = p[o + 3]!;
		const by = p[o + 4]!;
		const bz = p[o + 5]!;
		const ix = w[i + 3]!;
		const iy = w[i + 4]!;
		const iz = w[i + 5]!;
		const jx = w[j + 3]!;
		const jy = w[j + 4]!;
		const jz = w[j + 5]!;
		const dx = w[j]! + jy * bz - jz * by - w[i]! - iy * az + iz * ay;
		const dy = w[j + 1]! + jz * bx - jx * bz - w[i + 1]! - iz * ax + ix * az;
		const dz = w[j + 2]! + jx * by - jy * bx - w[i + 2]! - ix * ay + iy * ax;
		const nx = p[o + 6]!;
		const ny = p[o + 7]!;
		const nz = p[o + 8]!;
		const open = dx * nx + dy * ny + dz * nz;
		const area = p[o + 23]!;
		const kn = p[o + 15]!;
		let fx: number;
		let fy: number;
		let fz: number;
		let mx = 0;
		let my = 0;
		let mz = 0;
		if (state[z] !== BOND_WHOLE) {
			if (ix * ix + iy * iy + iz * iz > TURN || jx * jx + jy * jy + jz * jz > TURN) {
				state[z] = BOND_GONE;
				continue;
			}
			const sx = dx - open * nx;
			const sy = dy - open * ny;
			const sz = dz - open * nz;
			const slip = Math.sqrt(sx * sx + sy * sy + sz * sz);
			if (slip > SLIP) {
				state[z] = BOND_GONE;
				continue;
			}
			if (open >= 0) continue;
			const fn = kn * open;
			const rub = slip > 1e-12 ? Math.min(-INNER_FRICTION * fn, RUB * kn * slip) / slip : 0;
			fx = fn * nx + rub * sx;
			fy = fn * ny + rub * sy;
			fz = fn * nz + rub * sz;
		} else {
			const tx = p[o + 9]!;
			const ty = p[o + 10]!;
			const tz = p[o + 11]!;
			const ux = p[o + 12]!;
			const uy = p[o + 13]!;
			const uz = p[o + 14]!;
			const ks = p[o + 16]!;
			const rx = jx - ix;
			const ry = jy - iy;
			const rz = jz - iz;
			const fn = kn * open;
			const ft = ks * (dx * tx + dy * ty + dz * tz);
			const fu = ks * (dx * ux + dy * uy + dz * uz);
			const mt = p[o + 17]! * (rx * tx + ry * ty + rz * tz);
			const mu = p[o + 18]! * (rx * ux + ry * uy + rz * uz);
			const mn = p[o + 19]! * (rx * nx + ry * ny + rz * nz);
			const bend = Math.abs(mt) / p[o + 20]! + Math.abs(mu) / p[o + 21]!;
			const pull = fn / area + bend;
			const crush = bend - fn / area;
			const shear = Math.sqrt(ft * ft + fu * fu) / area + Math.abs(mn) / p[o + 22]!;
			const pullUse = pull / p[o + 24]!;
			const shearUse = shear / (p[o + 25]! + INNER_FRICTION * Math.max(0, -fn / area));
			const crushUse = crush / p[o + 26]!;
			const use = Math.max(pullUse, shearUse, crushUse);
			if (use > peak[z]!) peak[z] = use;
			if (use > 1) {
				state[z] = BOND_BROKEN;
				breaks[broken] = z;
				modes[broken] = use === pullUse ? 0 : use === shearUse ? 1 : 2;
				stresses[broken++] = use === pullUse ? pull : use === shearUse ? shear : crush;
				continue;
			}
			fx = fn * nx + ft * tx + fu * ux;
			fy = fn * ny + ft * ty + fu * uy;
			fz = fn * nz + ft * tz + fu * uz;
			mx = mn * nx + mt * tx + mu * ux;
			my = mn * ny + mt * ty + mu * uy;
			mz = mn * nz + mt * tz + mu * uz;
		}
		f[j]! -= fx;
		f[j + 1]! -= fy;
		f[j + 2]! -= fz;
		f[j + 3]! -= by * fz - bz * fy + mx;
		f[j + 4]! -= bz * fx - bx * fz + my;
		f[j + 5]! -= bx * fy - by * fx + mz;
		f[i]! += fx;
		f[i + 1]! += fy;
		f[i + 2]! += fz;
		f[i + 3]! += ay * fz - az * fy + mx;
		f[i + 4]! += az * fx - ax * fz + my;
		f[i + 5]! += ax * fy - ay * fx + mz;
	}
	return broken;
}
