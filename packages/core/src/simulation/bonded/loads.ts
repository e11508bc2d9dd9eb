import { rotate, tripleAt, type Vec3, vec3 } from "../../maths";
import { type ContactLoad, contactLoads } from "../contactLoads";
import { addInertia, solve3 } from "../rigid";
import type { SimScene } from "../scene";
import { forgetBent, shiftOf, unbend } from "./bent";
import { useOfStrength } from "./bondNet";
import { balance, stressOf } from "./equilibrium";
import { atFirstFrame } from "./firstFrame";
import { frameOfGroup, type GroupFrame } from "./groupFrame";
import { BOND_BROKEN, type Break, BreakMode } from "./lattice";
import { holdingBonds, isTied, partsOf } from "./parts";
import { gather, spread } from "./sixes";
import { type Bonded, type BondState, type BreakEvent, Look, type Running } from "./state";
import { makeStructures, structureOf } from "./structures";

/** Relative change of loads from which they are looked at again. */
const LOAD_CHANGE = 0.05;
/** Iterations a frame, and bonds looked at in all of them together: a large structure goes on in the next frame. */
const LEAST_ITERATIONS = 3;
const WORK = 45_000;
/** Iterations for looking at a structure once, before anything moves. */
const PATIENT = 300;
/** Residual up to which stresses are believed. */
const BELIEVED = 0.02;
/** How often a frame breaks by slow loads and looks again, and which bonds go together with the worst. */
const ROUNDS = 4;
/**
 * Structures of more bodies than this are looked at once a frame, and not while a blow goes through them: it bears far more, and
 * changes them before the look is done. What it has undermined does not wait for longer than so many frames.
 */
const LARGE = 1400;
const MOST_PUT_OFF = 3;
const WITH_THE_WORST = 0.9;

/**
 * Slow loads of all groups at the end of a frame: own weight, forces of the shot (3 per body, N), what connectors pull at them, and what
 * lies or leans on them. Returns what broke.
 */
export function bearLoads(run: Running, bonded: Bonded, pushed: ReadonlyMap<number, Vec3>): BreakEvent[] {
	const { scene, engine } = run;
	const { bonds } = scene;
	const { state } = bonded;
	const broke: BreakEvent[] = [];
	const seen = new Set<number>();
	const first = run.step * scene.settings.fps <= scene.settings.stepsPerSecond;
	const contacts = contactLoads(run, (i) => isTied(run, i));
	const pulled = Array.from(scene.jointed.keys()).filter((i) => scene.jointed[i] === 1 && isPulled(state, i));
	const touched = new Set([...contacts.keys(), ...pushed.keys(), ...pulled].map((i) => engine.carrier[i]!));
	for (let i = 0; i < scene.count; i++) {
		if (!isTied(run, i)) continue;
		const carrier = engine.carrier[i]!;
		if (seen.has(carrier)) continue;
		seen.add(carrier);
		let members = engine.membersOf(carrier);
		let anchored = engine.isAnchored(carrier);
		// Nothing has changed for what stands by itself, untouched as before.
		if (anchored && !touched.has(carrier) && members.every((body) => state.settled[body] === Look.Untouched)) continue;
		if (isPutOff(bonded, members)) continue;
		const balanced = anchored && !touched.has(carrier) ? Look.Untouched : Look.Balanced;
		for (let round = 0; round < ROUNDS; round++) {
			const list = holdingBonds(scene, bonded, members);
			if (list.length === 0) break;
			const frame = frameOfGroup({ scene, before: run.after }, bonded.net, members[0]!, anchored, true);
			const load = loadOf(run, bonded, members, anchored, frame, contacts, pushed);
			if (!needsLook(state, members, load)) break;
			spread(load, members, state.load);
			const u = gather(state.bent, members);
			const search = gather(state.search, members);
			// The first look has time.
			const iterations = first ? PATIENT : Math.max(LEAST_ITERATIONS, Math.min(PATIENT, Math.round(WORK / list.length)));
			const residual = balance(structureOf(bonded.structures, bonded.net, scene, { members, list }), load, u, search, iterations);
			spread(u, members, state.bent);
			spread(residual <= BELIEVED ? search.fill(0) : search, members, state.search);
			for (const body of members) state.settled[body] = residual <= BELIEVED ? balanced : Look.Due;
			if (residual > BELIEVED) break;
			const over = overloaded(bonded, bonds, members, list, u);
			if (over.length === 0) break;
			for (const one of over) state.state[one.bond] = BOND_BROKEN;
			broke.push(...over.map((one) => ({ ...one, a: bonds.a[one.bond]!, b: bonds.b[one.bond]! })));
			for (const body of members) state.settled[body] = Look.Due;
			const parts = partsOf(scene, bonded, members);
			if (parts.length > 1 || parts[0]!.anchored !== anchored) {
				const off = parts.flatMap((part) => (part.anchored ? [] : part.bodies));
				const shifted = parts.map((part) => (part.anchored ? part : { ...part, shift: shiftOf(run, bonded, frame, part.bodies, state.u) }));
				unbend(run, bonded, off);
				engine.regroup(shifted);
				forgetBent(bonded, off);
			}
			const rest = parts.find((part) => part.anchored) ?? [...parts].sort((x, y) => y.bodies.length - x.bodies.length)[0]!;
			members = rest.bodies;
			anchored = rest.anchored;
			if ((members.length === 1 && !anchored) || members.length > LARGE) break;
		}
	}
	bonded.struck.fill(0);
	return broke;
}

const isPulled = ({ pull }: BondState, i: number): boolean => {
	for (let d = 6 * i; d < 6 * i + 6; d++) if (pull[d] !== 0) return true;
	return false;
};

/** Whether a group's loads wait for a blow to be over; counts how often. */
function isPutOff(bonded: Bonded, members: readonly number[]): boolean {
	const { settled } = bonded.state;
	const first = members[0]!;
	const times = Math.max(0, settled[first]! + 1 - Look.PutOff);
	if (bonded.struck[first] === 0 || times === MOST_PUT_OFF || members.length <= LARGE) return false;
	settled[first] = Look.PutOff + times;
	return true;
}

/** Whether the loads have changed since they were last in balance. */
function needsLook(state: BondState, members: readonly number[], load: Float64Array): boolean {
	let change = 0;
	let whole = 0;
	for (const [z, body] of members.entries())
		for (let d = 0; d < 6; d++) {
			const value = load[6 * z + d]!;
			change += (value - state.load[6 * body + d]!) ** 2;
			whole += value * value;
		}
	if (members.some((body) => state.settled[body] === Look.Due || state.settled[body]! >= Look.PutOff)) return whole > 0;
	return change > LOAD_CHANGE * LOAD_CHANGE * whole;
}

/** Bonds over their limit in a solution: the worst, and those nearly as bad. */
function overloaded(
	{ net, left }: Bonded,
	bonds: SimScene["bonds"],
	members: readonly number[],
	list: readonly number[],
	u: Float64Array,
): Break[] {
	const local = new Map(members.map((body, z) => [body, z]));
	const all = list.map((bond) => {
		const stress = stressOf(net, bonds, bond, u, local.get(bonds.a[bond]!) ?? -1, local.get(bonds.b[bond]!) ?? -1);
		const limits = {
			tension: bonds.tension[bond]! * left[bond]!,
			shear: bonds.shear[bond]! * left[bond]!,
			compression: bonds.compression[bond]! * left[bond]!,
		};
		return { bond, stress, limits, use: useOfStrength(stress, limits) };
	});
	const worst = all.reduce((most, { use }) => Math.max(most, use), 0);
	if (!(worst > 1)) return [];
	return all
		.filter(({ use }) => use >= Math.max(1, WITH_THE_WORST * worst))
		.map(({ bond, stress: { tension, shear, compression }, limits, use }) => {
			const mode =
				tension / limits.tension >= use
					? BreakMode.Tension
					: compression / limits.compression >= use
						? BreakMode.Compression
						: BreakMode.Shear;
			const stress = { [BreakMode.Tension]: tension, [BreakMode.Shear]: shear, [BreakMode.Compression]: compression }[mode];
			// It gave way before it bore all that.
			return { bond, mode, stress: stress / use };
		});
}

/** 6 per member, in the axes of the first frame; of a group that nothing holds, against its own acceleration. */
function loadOf(
	run: Running,
	bonded: Bonded,
	members: readonly number[],
	anchored: boolean,
	frame: GroupFrame,
	contacts: ReadonlyMap<number, ContactLoad>,
	pushed: ReadonlyMap<number, Vec3>,
): Float64Array {
	const { scene } = run;
	const { net, state } = bonded;
	const load = new Float64Array(6 * members.length);
	const weight = Array.from({ length: scene.gravity.length / 3 }, (_, world) => rotate(frame.back, tripleAt(scene.gravity, world)));
	for (let z = 0; z < members.length; z++) {
		const i = members[z]!;
		const g = weight[scene.world[i]!]!;
		const m = scene.mass[i]!;
		for (let d = 0; d < 3; d++) load[6 * z + d] = m * g[d]!;
		const contact = contacts.get(i);
		if (contact) addForce(load, 6 * z, rotate(frame.back, contact.force), rotate(frame.back, contact.moment));
		const push = pushed.get(i);
		if (push) addForce(load, 6 * z, rotate(frame.back, push));
		if (isPulled(state, i))
			addForce(load, 6 * z, rotate(frame.back, tripleAt(state.pull, 2 * i)), rotate(frame.back, tripleAt(state.pull, 2 * i + 1)));
	}
	if (anchored) return load;
	let mass = 0;
	let centre: Vec3 = vec3.ZERO;
	for (const i of members) {
		mass += scene.mass[i]!;
		centre = vec3.add(centre, vec3.scale(tripleAt(net.centre, i), scene.mass[i]!));
	}
	centre = vec3.scale(centre, 1 / mass);
	let force: Vec3 = vec3.ZERO;
	let moment: Vec3 = vec3.ZERO;
	for (const [z, i] of members.entries()) {
		const own = tripleAt(load, 2 * z);
		force = vec3.add(force, own);
		moment = vec3.add(moment, vec3.add(tripleAt(load, 2 * z + 1), vec3.cross(vec3.subtract(tripleAt(net.centre, i), centre), own)));
	}
	const acceleration = vec3.scale(force, 1 / mass);
	const tensor = [0, 0, 0, 0, 0, 0, 0, 0, 0];
	for (const i of members) {
		const r = vec3.subtract(tripleAt(net.centre, i), centre);
		addInertia(tensor, scene.mass[i]!, r, net.inertia[i]!);
	}
	const turning = solve3(tensor, moment);
	let largest = 0;
	for (const [z, i] of members.entries()) {
		const r = vec3.subtract(tripleAt(net.centre, i), centre);
		const f = vec3.scale(vec3.add(acceleration, vec3.cross(turning, r)), scene.mass[i]!);
		const t = vec3.scale(turning, net.inertia[i]!);
		for (let d = 0; d < 3; d++) {
			load[6 * z + d]! -= f[d]!;
			load[6 * z + 3 + d]! -= t[d]!;
			largest = Math.max(largest, Math.abs(load[6 * z + d]!));
		}
	}
	// In free fall nothing but rounding is left.
	return largest < 1e-6 * mass * 9.81 ? new Float64Array(load.length) : load;
}

function addForce(load: Float64Array, at: number, force: Vec3, moment: Vec3 = vec3.ZERO): void {
	for (let d = 0; d < 3; d++) {
		load[at + d]! += force[d]!;
		load[at + 3 + d]! += moment[d]!;
	}
}

/** 1 per bond: the share of its strength that the structure's own weight takes while it stands; 0 where nothing holds it. */
export function restingUse(scene: SimScene): Float64Array {
	const { bonds } = scene;
	const use = new Float64Array(bonds.count);
	const { net, wholes } = atFirstFrame(scene);
	const structures = makeStructures(scene, wholes);
	for (const { members, list, anchored } of wholes) {
		if (!anchored) continue;
		const load = new Float64Array(6 * members.length);
		for (const [z, i] of members.entries()) load.set(vec3.scale(tripleAt(scene.gravity, scene.world[i]!), scene.mass[i]!), 6 * z);
		const u = new Float64Array(load.length);
		balance(structureOf(structures, net, scene, { members, list }), load, u, new Float64Array(load.length), PATIENT);
		const local = new Map(members.map((body, z) => [body, z]));
		for (const k of list) {
			const stress = stressOf(net, bonds, k, u, local.get(bonds.a[k]!) ?? -1, local.get(bonds.b[k]!) ?? -1);
			use[k] = Math.max(
				0,
				useOfStrength(stress, { tension: bonds.tension[k]!, shear: bonds.shear[k]!, compression: bonds.compression[k]! }),
			);
		}
	}
	return use;
}
