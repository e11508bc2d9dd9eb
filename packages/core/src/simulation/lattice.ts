import type { Bonds } from "../bonds";
import type { Vec3 } from "../maths";
import { type BondedPart, type BondNet, INNER_FRICTION } from "./bondNet";

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
	readonly lattice: Lattice;
	readonly net: BondNet;
	readonly bonds: Bonds;
	/** Bodies of the group that is struck. */
	readonly members: readonly number[];
	/** Whether a bond holds, or held, two bodies of the group, or one of them to what holds still. */
	readonly belongs: (bond: number) => boolean;
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
}

/** What a blow did. */
export interface Struck {
	readonly broke: readonly Break[];
	/** Highest use of any bond's strength. */
	readonly highest: number;
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
/** Highest frequency times small step. */
const LIMIT = SAFETY * 2 * (Math.sqrt(1 + DAMPING * DAMPING) - DAMPING);
/** Translation and turning act on each other: room in the estimate of the highest frequency. */
const COUPLING = 1.5;
/** Of critical, in a blow's contact. */
const CONTACT_DAMPING = 0.3;
/** Broken faces leave each other after slipping so far, metres, or turning so far, radians squared. */
const SLIP = 0.06;
const TURN = 0.09;
/** Share of the stiffness with which broken faces rub. */
const RUB = 0.4;

/** A body that has moved by less than what takes this share of a bond's strength lets its other bonds sleep. */
const STIRS_FROM = 0.005;
/** Of bonds that never break, Pa, for that. */
const USUAL_STRENGTH = 1e6;

/** Packed numbers of one bond: arms 6, axes 9, stiffness 5, moduli 3, area. */
const STRIDE = 24;

/** What blows need of a scene, found once: how many small steps, how stiff bonds are then, which masses they can bear. */
export interface Lattice {
	readonly packed: Float64Array;
	/** 1 per body: small steps in a step. */
	readonly steps: Int32Array;
	readonly mass: Float64Array;
	readonly inertia: Float64Array;
	/** 1 per body, metres and radians from which it stirs its bonds; endless for what holds still. */
	readonly stirs: Float64Array;
	readonly turns: Float64Array;
	/** Simulated seconds of the step that is being done. */
	dt: number;
	readonly scratch: {
		/** 6 per body: where bonds see it, and the force on it; 0 outside a blow. */
		readonly w: Float64Array;
		readonly f: Float64Array;
		/** 1 per body: 1 = something pulls at it, 2 = its bonds are awake. */
		readonly mark: Uint8Array;
		readonly awake: Uint8Array;
		readonly nodes: Int32Array;
		readonly list: Int32Array;
		readonly breaks: Int32Array;
		readonly modes: Uint8Array;
		readonly stresses: Float64Array;
		/** Highest use of a bond's strength in this blow. */
		readonly most: Float64Array;
	};
}

/** `wholes`: connected parts at the first frame, with their bonds; `moves`: whether a body is no support. */
export function makeLattice(
	net: BondNet,
	bonds: Bonds,
	mass: Float64Array,
	moves: (body: number) => boolean,
	wholes: readonly BondedPart[],
	dt: number,
): Lattice {
	const [count, m] = [net.of.length, bonds.count];
	const lattice: Lattice = {
		packed: new Float64Array(STRIDE * m),
		steps: new Int32Array(count),
		mass: Float64Array.from(mass),
		inertia: Float64Array.from(net.inertia),
		stirs: new Float64Array(count).fill(Number.POSITIVE_INFINITY),
		turns: new Float64Array(count).fill(Number.POSITIVE_INFINITY),
		dt,
		scratch: {
			w: new Float64Array(6 * count),
			f: new Float64Array(6 * count),
			mark: new Uint8Array(count),
			awake: new Uint8Array(m),
			nodes: new Int32Array(count),
			list: new Int32Array(m),
			breaks: new Int32Array(m),
			modes: new Uint8Array(m),
			stresses: new Float64Array(m),
			most: new Float64Array(1),
		},
	};
	for (let k = 0; k < m; k++) {
		const at = STRIDE * k;
		lattice.packed.set(net.arms.subarray(6 * k, 6 * k + 6), at);
		lattice.packed.set(net.axes.subarray(9 * k, 9 * k + 9), at + 6);
		for (let c = 0; c < 5; c++) lattice.packed[at + 15 + c] = net.stiffness[5 * k + c]! * net.young[k]!;
		lattice.packed.set(net.modulus.subarray(3 * k, 3 * k + 3), at + 20);
		lattice.packed[at + 23] = bonds.area[k]!;
	}
	for (const whole of wholes) planPart(lattice, bonds, whole, moves);
	for (let k = 0; k < m; k++) {
		const strength = Math.min(bonds.tension[k]!, bonds.shear[k]!, USUAL_STRENGTH);
		const way = (STIRS_FROM * strength * bonds.area[k]!) / lattice.packed[STRIDE * k + 15]!;
		for (const [body, arm] of [
			[bonds.a[k]!, 0],
			[bonds.b[k]!, 3],
		] as const) {
			if (!moves(body)) continue;
			const [x, y, z] = net.arms.subarray(6 * k + arm, 6 * k + arm + 3) as unknown as Vec3;
			lattice.stirs[body] = Math.min(lattice.stirs[body]!, way);
			lattice.turns[body] = Math.min(lattice.turns[body]!, way / Math.sqrt(x * x + y * y + z * z));
		}
	}
	return lattice;
}

/** How many small steps a part needs, how stiff its bonds are then, and which masses they can bear. */
function planPart(
	{ packed: p, steps, mass, inertia, dt }: Lattice,
	{ a, b }: Bonds,
	{ members, list }: BondedPart,
	moves: (body: number) => boolean,
): void {
	const along = new Map(members.map((body) => [body, 0]));
	const about = new Map(along);
	for (const k of list) {
		const o = STRIDE * k;
		const kn = p[o + 15]!;
		const bend = Math.max(p[o + 17]!, p[o + 18]!, p[o + 19]!);
		for (const [body, arm] of [
			[a[k]!, o],
			[b[k]!, o + 3],
		] as const) {
			if (!moves(body)) continue;
			along.set(body, along.get(body)! + kn);
			about.set(body, about.get(body)! + bend + kn * (p[arm]! ** 2 + p[arm + 1]! ** 2 + p[arm + 2]! ** 2));
		}
	}
	const frequency = members.map((i) => Math.sqrt(2 * COUPLING * Math.max(along.get(i)! / mass[i]!, about.get(i)! / inertia[i]!)));
	const usual = frequency.sort((x, y) => x - y)[Math.floor(0.8 * (members.length - 1))]!;
	const wanted = (usual * dt) / LIMIT;
	const stiffening = wanted > MOST_STEPS ? (MOST_STEPS / wanted) ** 2 : 1;
	const taken = Math.max(LEAST_STEPS, Math.min(MOST_STEPS, Math.ceil(wanted)));
	const highest = (LIMIT * taken) / dt;
	const least = (2 * COUPLING * stiffening) / (highest * highest);
	for (const i of members) {
		steps[i] = taken;
		mass[i] = Math.max(mass[i]!, least * along.get(i)!);
		inertia[i] = Math.max(inertia[i]!, least * about.get(i)!);
	}
	for (const k of list) for (let c = 15; c < 20; c++) p[STRIDE * k + c]! *= stiffening;
}

/**
 * What strikers do to a group within one step. Only what the blow has reached is worked on: a body that is pulled at moves, and
 * once it has moved enough to matter to its other bonds, these wake and pull at the next ones.
 */
export function strike(blow: Blow): Struck {
	const { lattice, net, bonds, members, u, v } = blow;
	const { w, f, mark, awake, nodes, list, breaks, modes, stresses, most } = lattice.scratch;
	const steps = lattice.steps[members[0]!]!;
	const h = lattice.dt / steps;
	// Of the highest frequency that these steps can follow.
	const highest = LIMIT / h;
	const beta = (2 * DAMPING) / highest;
	let [reached, working] = [0, 0];
	const pull = (i: number): void => {
		if (mark[i] !== 0 || lattice.stirs[i] === Number.POSITIVE_INFINITY) return;
		mark[i] = 1;
		nodes[reached++] = i;
	};
	const stir = (i: number): void => {
		pull(i);
		mark[i] = 2;
		for (const k of net.of[i]!) {
			if (awake[k] === 1 || blow.state[k] === BOND_GONE || !blow.belongs(k)) continue;
			awake[k] = 1;
			list[working++] = k;
			pull(bonds.a[k]!);
			pull(bonds.b[k]!);
		}
	};
	const hasStirred = (i: number): boolean => {
		const o = 6 * i;
		return (
			Math.max(Math.abs(u[o]!), Math.abs(u[o + 1]!), Math.abs(u[o + 2]!)) > lattice.stirs[i]! ||
			Math.max(Math.abs(u[o + 3]!), Math.abs(u[o + 4]!), Math.abs(u[o + 5]!)) > lattice.turns[i]!
		);
	};
	for (const i of members) {
		if (hasStirred(i)) stir(i);
		else for (let d = 0; d < 6; d++) if (v[6 * i + d] !== 0) pull(i);
	}
	for (const { body } of blow.points) stir(body);
	const contacts = blow.points.map((point) => contactOf(blow, point));
	steady(contacts, blow.strikers, lattice.mass, lattice.inertia, h);
	const broke: Break[] = [];
	most[0] = 0;
	for (let step = 0; step < steps; step++) {
		for (let z = 0; z < reached; z++) {
			const o = 6 * nodes[z]!;
			for (let d = o; d < o + 6; d++) {
				w[d] = u[d]! + beta * v[d]!;
				f[d] = 0;
			}
		}
		const count = bondForces(working, list, lattice, bonds, blow.state, blow.left, w, f, blow.peak, breaks, modes, stresses, most);
		for (let c = 0; c < count; c++) broke.push({ bond: breaks[c]!, mode: modes[c] as BreakMode, stress: stresses[c]! });
		for (const contact of contacts) press(contact, blow.strikers[contact.striker]!, v, f, h);
		const now = reached;
		for (let z = 0; z < now; z++) {
			const i = nodes[z]!;
			const o = 6 * i;
			const [im, ii] = [h / lattice.mass[i]!, h / lattice.inertia[i]!];
			for (let d = o; d < o + 3; d++) {
				v[d]! += im * f[d]!;
				v[d + 3]! += ii * f[d + 3]!;
			}
			for (let d = o; d < o + 6; d++) {
				if (Math.abs(v[d]!) < 1e-15) v[d] = 0;
				u[d]! += h * v[d]!;
			}
			if (mark[i] === 1 && hasStirred(i)) stir(i);
		}
	}
	for (let z = 0; z < working; z++) awake[list[z]!] = 0;
	for (let z = 0; z < reached; z++) {
		const i = nodes[z]!;
		mark[i] = 0;
		w.fill(0, 6 * i, 6 * i + 6);
	}
	return { broke, highest: most[0]! };
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
function contactOf({ lattice, net, strikers, points }: Blow, point: StrikePoint): Contact {
	const { body, striker, place } = point;
	const { centre } = strikers[striker]!;
	let sum = 0;
	for (const k of net.of[body]!) sum += lattice.packed[STRIDE * k + 15]!;
	const shares = points.filter((other) => other.body === body && other.striker === striker).length;
	const c = net.centre;
	return {
		striker,
		node: body,
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
 * Forces of bonds, from where their ends are (`w`: moved by, with the damping's share in it). Returns how many broke;
 * `breaks`, `modes`, `stresses` say which. In one plain loop on arrays: inside a closure it ran ten times slower.
 */
function bondForces(
	count: number,
	list: Int32Array,
	{ packed: p }: Lattice,
	bonds: Bonds,
	state: Uint8Array,
	left: Float64Array,
	w: Float64Array,
	f: Float64Array,
	peak: Float64Array,
	breaks: Int32Array,
	modes: Uint8Array,
	stresses: Float64Array,
	most: Float64Array,
): number {
	const { a, b, tension, shear: sliding, compression } = bonds;
	let broken = 0;
	let highest = most[0]!;
	for (let q = 0; q < count; q++) {
		const z = list[q]!;
		if (state[z] === BOND_GONE) continue;
		const i = 6 * a[z]!;
		const j = 6 * b[z]!;
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
			const pullUse = pull / (tension[z]! * left[z]!);
			const shearUse = shear / (sliding[z]! * left[z]! + INNER_FRICTION * Math.max(0, -fn / area));
			const crushUse = crush / (compression[z]! * left[z]!);
			const use = Math.max(pullUse, shearUse, crushUse);
			if (use > peak[z]!) peak[z] = use;
			if (use > highest) highest = use;
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
	most[0] = highest;
	return broken;
}
