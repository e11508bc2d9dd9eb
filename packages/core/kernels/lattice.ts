/*
 * The inner loops of `src/simulation/bonded/lattice.ts`, in AssemblyScript (`npm run kernels` compiles them): forces of bonds, four at a
 * time, the movement of bodies, and which of both are worked on. Vector instructions of WebAssembly give the same bits on every machine.
 *
 * Positions and forces are single precision: a bond breaks after some 1e-7 m or more, and bodies in a blow move by centimetres at
 * most, which single precision resolves to 1e-9 m. What is summed over steps, positions and speeds, is double.
 *
 * Memory, in bytes, laid out by `src/simulation/bonded/latticeMemory.ts`:
 * - quad: four bonds, 512 each; see QUAD below, four lanes per field, then the places of the four bodies a, and of b;
 * - node: a body, 64: where bonds see it (x y z –, turn x y z –) and the force on it likewise, single;
 * - motion: a body, 128: moved by 6, speed 6, h / mass, h / inertia, the speeds from which it stirs its bonds, double;
 * - body: 32, what of it does not change: mass, inertia, the speeds from which it stirs, double;
 * - state: a byte per bond; role and mark: a byte per body; break: 16, bond, mode, stress.
 */

/** Of a quad's fields. */
const ARM_A: usize = 0;
const ARM_B: usize = 48;
const NORMAL: usize = 96;
const ACROSS: usize = 144;
const THIRD: usize = 192;
const PRESS: usize = 240;
const SLIDE: usize = 256;
const BEND: usize = 272;
const BEND_THIRD: usize = 288;
const TWIST: usize = 304;
const PER_BEND: usize = 320;
const PER_BEND_THIRD: usize = 336;
const PER_TWIST: usize = 352;
const PER_AREA: usize = 368;
const TENSION: usize = 384;
const SHEAR: usize = 400;
const COMPRESSION: usize = 416;
const PEAK: usize = 432;
/** All bits of a lane where its bond holds and belongs to what is struck. */
const HOLDS: usize = 448;
const ENDS_A: usize = 464;
const ENDS_B: usize = 480;
const QUAD: usize = 512;

const NODE_TURN: usize = 16;
const NODE_FORCE: usize = 32;
const NODE_MOMENT: usize = 48;
const NODE: usize = 64;
const MOTION: usize = 128;
const BREAK: usize = 16;

const BODY: usize = 32;

const WHOLE: u8 = 0;
const BROKEN: u8 = 1;
const GONE: u8 = 2;

/** Roles of bodies in a blow: of what is struck, or what holds still; others have none. */
const MEMBER: u8 = 1;
const HOLDS_STILL: u8 = 2;
/** Marks of bodies: something pulls at it; its bonds are awake; and whether it is listed as one that has moved. */
const PULLED: u8 = 1;
const STIRRED: u8 = 2;
const WORKED: u8 = 3;
const MOVED: u8 = 4;

/** Broken faces leave each other after slipping so far, metres, or turning so far, radians squared. */
const SLIP: f32 = 0.06;
const TURN: f32 = 0.09;
/** Share of the stiffness with which broken faces rub. */
const RUB: f32 = 0.4;

let quads: usize = 0;
let nodes: usize = 0;
let motions: usize = 0;
let bodies: usize = 0;
let states: usize = 0;
let breaks: usize = 0;
/** Bonds of body i: those of `bondLists` from the i-th to the next number of `bondStarts`. */
let bondStarts: usize = 0;
let bondLists: usize = 0;
let roles: usize = 0;
let marks: usize = 0;
/** A byte per quad, per bond: whether it is listed. */
let quadMarks: usize = 0;
let rubMarks: usize = 0;
/** What is worked on: bodies, quads, broken bonds that may press and rub; and room for a list of quads. */
let nodeList: usize = 0;
let quadList: usize = 0;
let rubList: usize = 0;
let roomList: usize = 0;
/** Coefficient of friction in a pressed face. */
let friction: f32 = 0;

/**
 * Of the blow: whether anything that holds still holds what is struck; the small step, seconds; damping, seconds; the highest use of a
 * bond's strength; how long the lists are.
 */
let isHeld: bool = false;
let h: f64 = 0;
let beta: f64 = 0;
let highest: f32 = 0;
let reached: i32 = 0;
let fours: i32 = 0;
let faces: i32 = 0;
let broken: i32 = 0;

/** `table`: where everything lies, as 4-byte places in the order of the names above. */
export function setUp(table: usize, innerFriction: f32): void {
	quads = load<u32>(table);
	nodes = load<u32>(table, 4);
	motions = load<u32>(table, 8);
	bodies = load<u32>(table, 12);
	states = load<u32>(table, 16);
	breaks = load<u32>(table, 20);
	bondStarts = load<u32>(table, 24);
	bondLists = load<u32>(table, 28);
	roles = load<u32>(table, 32);
	marks = load<u32>(table, 36);
	quadMarks = load<u32>(table, 40);
	rubMarks = load<u32>(table, 44);
	nodeList = load<u32>(table, 48);
	quadList = load<u32>(table, 52);
	rubList = load<u32>(table, 56);
	roomList = load<u32>(table, 60);
	friction = innerFriction;
}

/** A blow begins, in small steps of so many seconds. */
export function begin(smallStep: f64, damping: f64, held: bool): void {
	isHeld = held;
	h = smallStep;
	beta = damping;
	highest = 0;
	reached = 0;
	fours = 0;
	faces = 0;
	broken = 0;
}

export function highestUse(): f32 {
	return highest;
}

export function reachedCount(): i32 {
	return reached;
}

export function quadCount(): i32 {
	return fours;
}

function listed(list: usize, z: i32): i32 {
	return load<i32>(list + ((<usize>z) << 2));
}

function enlist(list: usize, z: i32, value: i32): void {
	store<i32>(list + ((<usize>z) << 2), value);
}

/**
 * Whether a bond holds, or held, bodies of what is struck together, or to what holds still. What has come off has left that: pressed on
 * by where it once stood, pieces of a column that lay on the ground took up 7 kN s of a blow from nowhere.
 */
function belongs(bond: i32): bool {
	const q = quads + QUAD * (bond >> 2) + ((bond & 3) << 2);
	if (load<u8>(roles + load<u32>(q, ENDS_A) / NODE) !== MEMBER) return false;
	const other = load<u8>(roles + load<u32>(q, ENDS_B) / NODE);
	return other === MEMBER || (isHeld && other === HOLDS_STILL);
}

/** Something pulls at a body from now on. */
function pullAt(body: i32): void {
	const mark = load<u8>(marks + body);
	if ((mark & WORKED) !== 0 || load<u8>(roles + body) !== MEMBER) return;
	store<u8>(marks + body, mark | PULLED);
	enlist(nodeList, reached++, body);
	const m = motions + MOTION * body;
	const b = bodies + BODY * body;
	store<f64>(m, h / load<f64>(b), 96);
	store<f64>(m, h / load<f64>(b, 8), 104);
	store<f64>(m, load<f64>(b, 16), 112);
	store<f64>(m, load<f64>(b, 24), 120);
}

function pullAtEnds(bond: i32): void {
	const q = quads + QUAD * (bond >> 2) + ((bond & 3) << 2);
	pullAt(load<u32>(q, ENDS_A) / NODE);
	pullAt(load<u32>(q, ENDS_B) / NODE);
}

/** Lists a quad; which of its bonds hold. */
function wake(quad: i32): void {
	store<u8>(quadMarks + quad, 1);
	enlist(quadList, fours++, quad);
	const q = quads + QUAD * quad;
	v128.store(q, i64x2.splat(0), PEAK);
	for (let lane = 0; lane < 4; lane++) {
		const bond = 4 * quad + lane;
		store<i32>(q + (lane << 2), load<u8>(states + bond) === WHOLE && belongs(bond) ? -1 : 0, HOLDS);
	}
}

/** Bonds wake in fours: neighbours in the list are mostly neighbours in the structure. */
function wakeAndPull(quad: i32): void {
	wake(quad);
	const q = quads + QUAD * quad;
	for (let lane = 0; lane < 4; lane++) if (load<i32>(q + (lane << 2), HOLDS) !== 0) pullAtEnds(4 * quad + lane);
}

/** A body moves so fast that its bonds matter. */
export function stir(body: i32): void {
	pullAt(body);
	const mark = load<u8>(marks + body);
	if ((mark & WORKED) !== PULLED) return;
	store<u8>(marks + body, (mark & MOVED) | STIRRED);
	const m = motions + MOTION * body;
	store<f64>(m, Infinity, 112);
	store<f64>(m, Infinity, 120);
	const end = load<i32>(bondStarts + ((<usize>body + 1) << 2));
	for (let z = load<i32>(bondStarts + ((<usize>body) << 2)); z < end; z++) {
		const bond = listed(bondLists, z);
		const state = load<u8>(states + bond);
		if (state === WHOLE) {
			if (load<u8>(quadMarks + (bond >> 2)) === 0 && belongs(bond)) wakeAndPull(bond >> 2);
		} else if (state === BROKEN && load<u8>(rubMarks + bond) === 0 && belongs(bond)) {
			press(bond);
			pullAtEnds(bond);
		}
	}
}

/** The faces of a broken bond may press and rub. */
function press(bond: i32): void {
	store<u8>(rubMarks + bond, 1);
	enlist(rubList, faces++, bond);
}

/**
 * Goes on from where listed bodies have come to, whose motions have been filled in: what moves or is pulled at by a bond under more than
 * this share of its strength goes on. `calms`: what is slow comes to rest there.
 */
export function resume(list: usize, count: i32, share: f32, calms: bool): void {
	for (let z = 0; z < count; z++) {
		const body = listed(list, z);
		store<u8>(marks + body, MOVED);
		const m = motions + MOTION * body;
		const b = bodies + BODY * body;
		if (calms && !isFast(v128.load(m, 48), v128.load(m, 64), v128.load(m, 80), load<f64>(b, 16), load<f64>(b, 24)))
			for (let d = 0; d < 48; d += 8) store<f64>(m + d, 0, 48);
		place(body);
		const end = load<i32>(bondStarts + ((<usize>body + 1) << 2));
		for (let y = load<i32>(bondStarts + ((<usize>body) << 2)); y < end; y++) {
			const bond = listed(bondLists, y);
			if (load<u8>(quadMarks + (bond >> 2)) === 0 && load<u8>(states + bond) === WHOLE && belongs(bond)) wake(bond >> 2);
		}
	}
	bear(true);
	const looked = fours;
	fours = 0;
	for (let z = 0; z < looked; z++) {
		const quad = listed(quadList, z);
		enlist(roomList, z, quad);
		store<u8>(quadMarks + quad, 0);
	}
	for (let z = 0; z < looked; z++) {
		const quad = listed(roomList, z);
		const q = quads + QUAD * quad;
		// Waking sets what was highest back: all lanes are asked first. What an earlier one has woken is awake, which is enough.
		const strained = i32x4.bitmask(f32x4.gt(v128.load(q, PEAK), f32x4.splat(share)));
		for (let lane = 0; lane < 4; lane++)
			if ((strained & (1 << lane)) !== 0) {
				stir(load<u32>(q + (lane << 2), ENDS_A) / NODE);
				stir(load<u32>(q + (lane << 2), ENDS_B) / NODE);
			}
	}
	for (let z = 0; z < count; z++) {
		const body = listed(list, z);
		const m = motions + MOTION * body;
		for (let d = 0; d < 48; d += 8)
			if (load<f64>(m + d, 48) !== 0) {
				stir(body);
				break;
			}
	}
}

/**
 * Lets what has become slow come to rest in the midst of a step, as `resume` may when one begins. Adds what has moved since to the list;
 * returns its length.
 */
export function calmDown(list: usize, count: i32, share: f32): i32 {
	for (let z = 0; z < reached; z++) {
		const body = listed(nodeList, z);
		if ((load<u8>(marks + body) & MOVED) === 0) enlist(list, count++, body);
	}
	letGo();
	resume(list, count, share, true);
	return count;
}

/** Nothing is awake. */
function letGo(): void {
	for (let z = 0; z < reached; z++) store<u8>(marks + listed(nodeList, z), 0);
	for (let z = 0; z < fours; z++) store<u8>(quadMarks + listed(quadList, z), 0);
	for (let z = 0; z < faces; z++) store<u8>(rubMarks + listed(rubList, z), 0);
	reached = 0;
	fours = 0;
	faces = 0;
}

/** Where bonds see a body from now on, with the damping's share in it; no force on it. */
function place(body: i32): void {
	const m = motions + MOTION * body;
	const n = nodes + NODE * body;
	const b = f64x2.splat(beta);
	const xy = f64x2.add(v128.load(m), f64x2.mul(b, v128.load(m, 48)));
	const zu = f64x2.add(v128.load(m, 16), f64x2.mul(b, v128.load(m, 64)));
	const vw = f64x2.add(v128.load(m, 32), f64x2.mul(b, v128.load(m, 80)));
	const upper = f32x4.demote_f64x2_zero(zu);
	const none = i64x2.splat(0);
	// x y z u – – – – and v w: to x y z – and u v w –.
	v128.store(n, i32x4.shuffle(f32x4.demote_f64x2_zero(xy), i32x4.shuffle(upper, none, 0, 4, 4, 4), 0, 1, 4, 5));
	v128.store(n, i32x4.shuffle(i32x4.shuffle(upper, none, 1, 4, 4, 4), f32x4.demote_f64x2_zero(vw), 0, 4, 5, 6), NODE_TURN);
	v128.store(n, none, NODE_FORCE);
	v128.store(n, none, NODE_MOMENT);
}

/** A small step for all bodies that are worked on, under their forces; those that have become fast stir their bonds. */
export function move(): void {
	const count = reached;
	const step = f64x2.splat(h);
	for (let z = 0; z < count; z++) {
		const body = listed(nodeList, z);
		const m = motions + MOTION * body;
		const n = nodes + NODE * body;
		const byMass = f64x2.splat(load<f64>(m, 96));
		const byInertia = f64x2.splat(load<f64>(m, 104));
		const force = v128.load(n, NODE_FORCE);
		const moment = v128.load(n, NODE_MOMENT);
		const fxy = f64x2.mul(byMass, f64x2.promote_low_f32x4(force));
		const fz = f64x2.mul(byMass, f64x2.promote_low_f32x4(i64x2.shuffle(force, force, 1, 1)));
		const mxy = f64x2.mul(byInertia, f64x2.promote_low_f32x4(moment));
		const mz = f64x2.mul(byInertia, f64x2.promote_low_f32x4(i64x2.shuffle(moment, moment, 1, 1)));
		const v0 = calm(f64x2.add(v128.load(m, 48), fxy));
		const v1 = calm(f64x2.add(v128.load(m, 64), i64x2.shuffle(fz, mxy, 0, 2)));
		const v2 = calm(f64x2.add(v128.load(m, 80), i64x2.shuffle(mxy, mz, 1, 2)));
		const u0 = f64x2.add(v128.load(m), f64x2.mul(step, v0));
		const u1 = f64x2.add(v128.load(m, 16), f64x2.mul(step, v1));
		const u2 = f64x2.add(v128.load(m, 32), f64x2.mul(step, v2));
		v128.store(m, v0, 48);
		v128.store(m, v1, 64);
		v128.store(m, v2, 80);
		v128.store(m, u0);
		v128.store(m, u1, 16);
		v128.store(m, u2, 32);
		place(body);
		if (isFast(v0, v1, v2, load<f64>(m, 112), load<f64>(m, 120))) stir(body);
	}
}

/** Whether speed (x y, z u, v w) exceeds what it may be, along or about any axis. */
function isFast(xy: v128, zu: v128, vw: v128, along: f64, about: f64): bool {
	const most0 = f64x2.abs(xy);
	const most1 = f64x2.abs(zu);
	const most2 = f64x2.abs(vw);
	return (
		max(max(f64x2.extract_lane(most0, 0), f64x2.extract_lane(most0, 1)), f64x2.extract_lane(most1, 0)) > along ||
		max(max(f64x2.extract_lane(most1, 1), f64x2.extract_lane(most2, 0)), f64x2.extract_lane(most2, 1)) > about
	);
}

/** Speeds that no one sees are none: numbers below the normal range are slow. */
function calm(v: v128): v128 {
	return v128.and(v, f64x2.ge(f64x2.abs(v), f64x2.splat(1e-15)));
}

/** Adds the forces of all that is awake to its bodies. Returns how many bonds have broken so far, as `break`s: these exert none any more. */
export function pull(): i32 {
	rub();
	bear(false);
	return broken;
}

/** What bonds of listed quads bear; `onlyLooks`: it breaks nothing and pulls at nobody. */
function bear(onlyLooks: bool): void {
	let most = f32x4.splat(highest);
	const one = f32x4.splat(1);
	const none = f32x4.splat(0);
	for (let z = 0; z < fours; z++) {
		const index = listed(quadList, z);
		const q = quads + QUAD * index;
		const a0 = nodes + load<u32>(q, ENDS_A);
		const a1 = nodes + load<u32>(q, ENDS_A + 4);
		const a2 = nodes + load<u32>(q, ENDS_A + 8);
		const a3 = nodes + load<u32>(q, ENDS_A + 12);
		const b0 = nodes + load<u32>(q, ENDS_B);
		const b1 = nodes + load<u32>(q, ENDS_B + 4);
		const b2 = nodes + load<u32>(q, ENDS_B + 8);
		const b3 = nodes + load<u32>(q, ENDS_B + 12);
		// Rows of x y z – per bond to lanes of x, of y and of z.
		let r0 = v128.load(a0, NODE_TURN);
		let r1 = v128.load(a1, NODE_TURN);
		let r2 = v128.load(a2, NODE_TURN);
		let r3 = v128.load(a3, NODE_TURN);
		let s0 = i32x4.shuffle(r0, r1, 0, 4, 1, 5);
		let s1 = i32x4.shuffle(r2, r3, 0, 4, 1, 5);
		const ix = i64x2.shuffle(s0, s1, 0, 2);
		const iy = i64x2.shuffle(s0, s1, 1, 3);
		const iz = i64x2.shuffle(i32x4.shuffle(r0, r1, 2, 6, 3, 7), i32x4.shuffle(r2, r3, 2, 6, 3, 7), 0, 2);
		r0 = v128.load(b0, NODE_TURN);
		r1 = v128.load(b1, NODE_TURN);
		r2 = v128.load(b2, NODE_TURN);
		r3 = v128.load(b3, NODE_TURN);
		s0 = i32x4.shuffle(r0, r1, 0, 4, 1, 5);
		s1 = i32x4.shuffle(r2, r3, 0, 4, 1, 5);
		const jx = i64x2.shuffle(s0, s1, 0, 2);
		const jy = i64x2.shuffle(s0, s1, 1, 3);
		const jz = i64x2.shuffle(i32x4.shuffle(r0, r1, 2, 6, 3, 7), i32x4.shuffle(r2, r3, 2, 6, 3, 7), 0, 2);
		// How far the bodies have moved apart, before turning counts.
		r0 = f32x4.sub(v128.load(b0), v128.load(a0));
		r1 = f32x4.sub(v128.load(b1), v128.load(a1));
		r2 = f32x4.sub(v128.load(b2), v128.load(a2));
		r3 = f32x4.sub(v128.load(b3), v128.load(a3));
		s0 = i32x4.shuffle(r0, r1, 0, 4, 1, 5);
		s1 = i32x4.shuffle(r2, r3, 0, 4, 1, 5);
		const ox = i64x2.shuffle(s0, s1, 0, 2);
		const oy = i64x2.shuffle(s0, s1, 1, 3);
		const oz = i64x2.shuffle(i32x4.shuffle(r0, r1, 2, 6, 3, 7), i32x4.shuffle(r2, r3, 2, 6, 3, 7), 0, 2);
		const ax = v128.load(q, ARM_A);
		const ay = v128.load(q, ARM_A + 16);
		const az = v128.load(q, ARM_A + 32);
		const bx = v128.load(q, ARM_B);
		const by = v128.load(q, ARM_B + 16);
		const bz = v128.load(q, ARM_B + 32);
		const dx = f32x4.add(ox, f32x4.sub(cross(jy, bz, jz, by), cross(iy, az, iz, ay)));
		const dy = f32x4.add(oy, f32x4.sub(cross(jz, bx, jx, bz), cross(iz, ax, ix, az)));
		const dz = f32x4.add(oz, f32x4.sub(cross(jx, by, jy, bx), cross(ix, ay, iy, ax)));
		const rx = f32x4.sub(jx, ix);
		const ry = f32x4.sub(jy, iy);
		const rz = f32x4.sub(jz, iz);
		const nx = v128.load(q, NORMAL);
		const ny = v128.load(q, NORMAL + 16);
		const nz = v128.load(q, NORMAL + 32);
		const tx = v128.load(q, ACROSS);
		const ty = v128.load(q, ACROSS + 16);
		const tz = v128.load(q, ACROSS + 32);
		const ux = v128.load(q, THIRD);
		const uy = v128.load(q, THIRD + 16);
		const uz = v128.load(q, THIRD + 32);
		const slide = v128.load(q, SLIDE);
		const fn = f32x4.mul(v128.load(q, PRESS), inner(dx, dy, dz, nx, ny, nz));
		const ft = f32x4.mul(slide, inner(dx, dy, dz, tx, ty, tz));
		const fu = f32x4.mul(slide, inner(dx, dy, dz, ux, uy, uz));
		const mt = f32x4.mul(v128.load(q, BEND), inner(rx, ry, rz, tx, ty, tz));
		const mu = f32x4.mul(v128.load(q, BEND_THIRD), inner(rx, ry, rz, ux, uy, uz));
		const mn = f32x4.mul(v128.load(q, TWIST), inner(rx, ry, rz, nx, ny, nz));
		const perArea = v128.load(q, PER_AREA);
		const bend = f32x4.add(f32x4.mul(f32x4.abs(mt), v128.load(q, PER_BEND)), f32x4.mul(f32x4.abs(mu), v128.load(q, PER_BEND_THIRD)));
		const opening = f32x4.mul(fn, perArea);
		const tension = f32x4.add(opening, bend);
		const crush = f32x4.sub(bend, opening);
		const shear = f32x4.add(
			f32x4.mul(f32x4.sqrt(f32x4.add(f32x4.mul(ft, ft), f32x4.mul(fu, fu))), perArea),
			f32x4.mul(f32x4.abs(mn), v128.load(q, PER_TWIST)),
		);
		const tensionUse = f32x4.div(tension, v128.load(q, TENSION));
		const rubbing = f32x4.mul(f32x4.splat(friction), f32x4.max(none, f32x4.neg(opening)));
		const shearUse = f32x4.div(shear, f32x4.add(v128.load(q, SHEAR), rubbing));
		const crushUse = f32x4.div(crush, v128.load(q, COMPRESSION));
		let holds = v128.load(q, HOLDS);
		const use = v128.and(holds, f32x4.max(f32x4.max(tensionUse, shearUse), crushUse));
		v128.store(q, f32x4.pmax(v128.load(q, PEAK), use), PEAK);
		if (onlyLooks) continue;
		most = f32x4.pmax(most, use);
		const over = f32x4.gt(use, one);
		if (v128.any_true(over)) {
			// The same numbers that said so say why.
			const isTension = f32x4.eq(use, tensionUse);
			const isShear = v128.andnot(f32x4.eq(use, shearUse), isTension);
			const mode = v128.bitselect(i32x4.splat(0), v128.bitselect(i32x4.splat(1), i32x4.splat(2), isShear), isTension);
			const stress = v128.bitselect(tension, v128.bitselect(shear, crush, isShear), isTension);
			for (let lane = 0; lane < 4; lane++) {
				if ((i32x4.bitmask(over) & (1 << lane)) === 0) continue;
				const at = breaks + BREAK * broken++;
				const bond = 4 * index + lane;
				store<i32>(at, bond);
				store<i32>(at, laneOf(mode, lane), 4);
				store<i32>(at, laneOf(stress, lane), 8);
				store<u8>(states + bond, BROKEN);
				press(bond);
			}
			holds = v128.andnot(holds, over);
			v128.store(q, holds, HOLDS);
		}
		const fx = v128.and(holds, mix(fn, nx, ft, tx, fu, ux));
		const fy = v128.and(holds, mix(fn, ny, ft, ty, fu, uy));
		const fz = v128.and(holds, mix(fn, nz, ft, tz, fu, uz));
		const mx = v128.and(holds, mix(mn, nx, mt, tx, mu, ux));
		const my = v128.and(holds, mix(mn, ny, mt, ty, mu, uy));
		const mz = v128.and(holds, mix(mn, nz, mt, tz, mu, uz));
		// Back to rows, and onto the bodies one after the other: two bonds may pull at the same one.
		s0 = i32x4.shuffle(fx, fy, 0, 4, 1, 5);
		s1 = i32x4.shuffle(fx, fy, 2, 6, 3, 7);
		let z0 = i32x4.shuffle(fz, none, 0, 4, 1, 5);
		let z1 = i32x4.shuffle(fz, none, 2, 6, 3, 7);
		r0 = i64x2.shuffle(s0, z0, 0, 2);
		r1 = i64x2.shuffle(s0, z0, 1, 3);
		r2 = i64x2.shuffle(s1, z1, 0, 2);
		r3 = i64x2.shuffle(s1, z1, 1, 3);
		add(a0 + NODE_FORCE, r0);
		add(a1 + NODE_FORCE, r1);
		add(a2 + NODE_FORCE, r2);
		add(a3 + NODE_FORCE, r3);
		subtract(b0 + NODE_FORCE, r0);
		subtract(b1 + NODE_FORCE, r1);
		subtract(b2 + NODE_FORCE, r2);
		subtract(b3 + NODE_FORCE, r3);
		let gx = f32x4.add(cross(ay, fz, az, fy), mx);
		let gy = f32x4.add(cross(az, fx, ax, fz), my);
		let gz = f32x4.add(cross(ax, fy, ay, fx), mz);
		s0 = i32x4.shuffle(gx, gy, 0, 4, 1, 5);
		s1 = i32x4.shuffle(gx, gy, 2, 6, 3, 7);
		z0 = i32x4.shuffle(gz, none, 0, 4, 1, 5);
		z1 = i32x4.shuffle(gz, none, 2, 6, 3, 7);
		add(a0 + NODE_MOMENT, i64x2.shuffle(s0, z0, 0, 2));
		add(a1 + NODE_MOMENT, i64x2.shuffle(s0, z0, 1, 3));
		add(a2 + NODE_MOMENT, i64x2.shuffle(s1, z1, 0, 2));
		add(a3 + NODE_MOMENT, i64x2.shuffle(s1, z1, 1, 3));
		gx = f32x4.add(cross(by, fz, bz, fy), mx);
		gy = f32x4.add(cross(bz, fx, bx, fz), my);
		gz = f32x4.add(cross(bx, fy, by, fx), mz);
		s0 = i32x4.shuffle(gx, gy, 0, 4, 1, 5);
		s1 = i32x4.shuffle(gx, gy, 2, 6, 3, 7);
		z0 = i32x4.shuffle(gz, none, 0, 4, 1, 5);
		z1 = i32x4.shuffle(gz, none, 2, 6, 3, 7);
		subtract(b0 + NODE_MOMENT, i64x2.shuffle(s0, z0, 0, 2));
		subtract(b1 + NODE_MOMENT, i64x2.shuffle(s0, z0, 1, 3));
		subtract(b2 + NODE_MOMENT, i64x2.shuffle(s1, z1, 0, 2));
		subtract(b3 + NODE_MOMENT, i64x2.shuffle(s1, z1, 1, 3));
	}
	const top = f32x4.max(most, i64x2.shuffle(most, most, 1, 0));
	highest = max(f32x4.extract_lane(top, 0), f32x4.extract_lane(top, 1));
}

/** The bits of a lane that is known only when it runs. */
function laneOf(v: v128, lane: i32): i32 {
	return lane === 0
		? i32x4.extract_lane(v, 0)
		: lane === 1
			? i32x4.extract_lane(v, 1)
			: lane === 2
				? i32x4.extract_lane(v, 2)
				: i32x4.extract_lane(v, 3);
}

/** a b − c d */
function cross(a: v128, b: v128, c: v128, d: v128): v128 {
	return f32x4.sub(f32x4.mul(a, b), f32x4.mul(c, d));
}

function inner(ax: v128, ay: v128, az: v128, bx: v128, by: v128, bz: v128): v128 {
	return f32x4.add(f32x4.add(f32x4.mul(ax, bx), f32x4.mul(ay, by)), f32x4.mul(az, bz));
}

/** a x + b y + c z */
function mix(a: v128, x: v128, b: v128, y: v128, c: v128, z: v128): v128 {
	return f32x4.add(f32x4.add(f32x4.mul(a, x), f32x4.mul(b, y)), f32x4.mul(c, z));
}

function add(at: usize, v: v128): void {
	v128.store(at, f32x4.add(v128.load(at), v));
}

function subtract(at: usize, v: v128): void {
	v128.store(at, f32x4.sub(v128.load(at), v));
}

/** Adds the forces of broken faces that still press and rub; those that have left each other are marked. */
function rub(): void {
	for (let z = 0; z < faces; z++) {
		const bond = listed(rubList, z);
		if (load<u8>(states + bond) !== BROKEN) continue;
		const q = quads + QUAD * (bond >> 2) + ((bond & 3) << 2);
		const i = nodes + load<u32>(q, ENDS_A);
		const j = nodes + load<u32>(q, ENDS_B);
		const ix = load<f32>(i, 16);
		const iy = load<f32>(i, 20);
		const iz = load<f32>(i, 24);
		const jx = load<f32>(j, 16);
		const jy = load<f32>(j, 20);
		const jz = load<f32>(j, 24);
		const ax = load<f32>(q, ARM_A);
		const ay = load<f32>(q, ARM_A + 16);
		const az = load<f32>(q, ARM_A + 32);
		const bx = load<f32>(q, ARM_B);
		const by = load<f32>(q, ARM_B + 16);
		const bz = load<f32>(q, ARM_B + 32);
		const dx = load<f32>(j) - load<f32>(i) + (jy * bz - jz * by - (iy * az - iz * ay));
		const dy = load<f32>(j, 4) - load<f32>(i, 4) + (jz * bx - jx * bz - (iz * ax - ix * az));
		const dz = load<f32>(j, 8) - load<f32>(i, 8) + (jx * by - jy * bx - (ix * ay - iy * ax));
		const nx = load<f32>(q, NORMAL);
		const ny = load<f32>(q, NORMAL + 16);
		const nz = load<f32>(q, NORMAL + 32);
		const open = dx * nx + dy * ny + dz * nz;
		const sx = dx - open * nx;
		const sy = dy - open * ny;
		const sz = dz - open * nz;
		const slip = sqrt<f32>(sx * sx + sy * sy + sz * sz);
		if (slip > SLIP || ix * ix + iy * iy + iz * iz > TURN || jx * jx + jy * jy + jz * jz > TURN) {
			store<u8>(states + bond, GONE);
			continue;
		}
		if (open >= 0) continue;
		const press = load<f32>(q, PRESS);
		const fn = press * open;
		const share: f32 = slip > 1e-12 ? min<f32>(-friction * fn, RUB * press * slip) / slip : 0;
		const fx = fn * nx + share * sx;
		const fy = fn * ny + share * sy;
		const fz = fn * nz + share * sz;
		push(i, fx, fy, fz, ax, ay, az);
		push(j, -fx, -fy, -fz, bx, by, bz);
	}
}

/** A force at an arm from a body's centre. */
function push(n: usize, fx: f32, fy: f32, fz: f32, x: f32, y: f32, z: f32): void {
	store<f32>(n, load<f32>(n, 32) + fx, 32);
	store<f32>(n, load<f32>(n, 36) + fy, 36);
	store<f32>(n, load<f32>(n, 40) + fz, 40);
	store<f32>(n, load<f32>(n, 48) + (y * fz - z * fy), 48);
	store<f32>(n, load<f32>(n, 52) + (z * fx - x * fz), 52);
	store<f32>(n, load<f32>(n, 56) + (x * fy - y * fx), 56);
}

/** A blow is over, or at least its step: nothing is awake, and listed bodies, which had moved before it, are where bonds see no blow. */
export function end(list: usize, count: i32): void {
	for (let z = 0; z < count; z++) forget(listed(list, z));
	for (let z = 0; z < reached; z++) forget(listed(nodeList, z));
	letGo();
}

function forget(body: i32): void {
	store<u8>(marks + body, 0);
	memory.fill(nodes + NODE * body, 0, NODE);
	memory.fill(motions + MOTION * body, 0, MOTION);
}
