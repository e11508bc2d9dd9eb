import RAPIER from "@dimforge/rapier3d-simd-compat";
import type { ColliderShape } from "../../bodies";
import { boxCorners, compose, IDENTITY, inverse, type Quat, quatAt, rotate, tripleAt, type Vec3, vec3 } from "../../maths";
import { contactFrequency } from "../contactSpring";
import { sceneGuards } from "../guards";
import { Held, Kind, type SimScene, stepSeconds } from "../scene";
import { type Carriers, decodeCarriers, encodeCarriers, isAlone, makeCarriers, seatOf, standsOn } from "./carriers";
import { makeContactReader } from "./contactReader";
import { addCollider, describeBody, describeColliders, quaternionAt, typicalLength, vectorAt } from "./describe";
import { byIndex } from "./handles";
import { createJoints, cutJoint, type JointTable, moveJoints, NONE, stretchJoint } from "./joints";
import { setPose, xyz, xyzw } from "./poses";
import { regroup } from "./regroup";
import { type BodyState, type Contacts, type Engine, type EngineFactory, makeBodyState, type Overlap, type Touch } from "./types";

/**
 * The physics library, which nothing outside of this folder knows. Always the SIMD build: its results differ from the plain builds, and
 * the same build gives the same bits in Node and in browsers.
 */
export const ENGINE_BUILD = "rapier3d-simd 0.20.0";

let ready: Promise<void> | undefined;

export const rapierEngine: EngineFactory = async (scene, held, snapshot) => {
	ready ??= RAPIER.init();
	await ready;
	return snapshot ? restore(scene, held, snapshot) : build(scene, held);
};

/**
 * The library pushes overlaps apart at up to ten of its lengths a second, which squirts pieces out of a block that lands:
 * 25 m/s out of a fall at 3. With a shorter length it is gentler; the tolerances are given in metres, so they stay.
 *
 * It also looks for the contact of two bodies anew only when they have moved by a twentieth of its length against each other, and keeps
 * what it has found and been told until then. Heaps rest no better where that is a tenth of what it is here.
 */
const CORRECTION = 0.25;
/** The library holds velocities to so many of its lengths a second: things of 5 mm could be no faster than 3 m/s. */
const MOST_LENGTHS = 400;
/** Shares of the typical length. Five times the library's look-ahead: with less one heap in three kept a piece that never stopped. */
const TOLERATED_OVERLAP = 0.001;
const LOOK_AHEAD = 0.01;
/** Passes of the solver within an iteration where there are joints: a chain of 10 links with 880 kg stretches by 4 % with one, by 1 % with four. */
const JOINT_PASSES = 4;
/** Nearer than this is touching. m */
const TOUCHING = 1e-3;
function build(scene: SimScene, held: Uint8Array): Engine {
	const { settings } = scene;
	const [gx, gy, gz] = tripleAt(scene.gravity, 0);
	const world = new RAPIER.World({ x: gx, y: gy, z: gz });
	const unit = typicalLength(scene);
	setLength(world, unit * CORRECTION, unit);
	world.numSolverIterations = settings.solverIterations;
	world.integrationParameters.contact_natural_frequency = contactFrequency(scene.settings);
	world.timestep = stepSeconds(scene);
	if (scene.joints.length > 0) world.numInternalPgsIterations = JOINT_PASSES;
	const followers = new Set(scene.followers);
	const owner = new Map<number, number>();
	for (let i = 0; i < scene.count; i++) {
		const body = world.createRigidBody(describeBody(scene, i, held[i]!, followers.has(i)));
		for (const collider of describeColliders(scene, i)) owner.set(addCollider(world, collider, body).handle, i);
	}
	const carriers = makeCarriers(scene);
	const { bodies } = tables(world, scene.count, owner);
	return adapt(scene, world, held.slice(), carriers, owner, createJoints(scene, world, bodies, carriers));
}

/** The library's own length, metres, with tolerances that stay what they are in metres. */
function setLength(world: RAPIER.World, length: number, unit: number): void {
	world.lengthUnit = length;
	world.integrationParameters.normalizedAllowedLinearError = (TOLERATED_OVERLAP * unit) / length;
	world.integrationParameters.normalizedPredictionDistance = (LOOK_AHEAD * unit) / length;
}

function restore(scene: SimScene, held: Uint8Array, snapshot: Uint8Array): Engine {
	const { carriers, owner, joints, lists, library } = decodeSnapshot(scene, snapshot);
	const world = RAPIER.World.restoreSnapshot(library);
	// Snapshots do not hold these.
	world.timestep = stepSeconds(scene);
	world.integrationParameters.contact_natural_frequency = contactFrequency(scene.settings);
	if (scene.joints.length > 0) world.numInternalPgsIterations = JOINT_PASSES;
	const anchor = joints.length > 0 && world.bodies.len() > scene.count ? tables(world, scene.count, owner).rest : undefined;
	return adapt(scene, world, held.slice(), carriers, owner, { handles: joints, guards: sceneGuards(scene), world: anchor }, lists);
}

/** What the library does not tell of itself; bodies and carriers by number, in the order in which it was told of them. */
interface Lists {
	/** Carriers that have been given forces, which stay until they are taken back. */
	readonly pushed: readonly number[];
	/** Bodies of pairs that were muted in the last step. */
	readonly hushed: readonly number[];
	/** Bodies whose joints are to be made anew before the next step, and joints that are to be taken out. */
	readonly moved: readonly number[];
	readonly cut: readonly number[];
}
const NO_LISTS: Lists = { pushed: [], hushed: [], moved: [], cut: [] };

/** Numbers that a snapshot begins with, 4 bytes each. */
const SNAPSHOT_HEADER = 7;

/**
 * Little-endian: bytes of the carriers, number of colliders, of joints, and of what is in each of the lists; the carriers; for each
 * collider its handle (f64); whose it is (i32 each); the joints' handles (f64 each); the lists (i32 each); the library's own bytes.
 */
function encodeSnapshot(
	carriers: Carriers,
	owner: ReadonlyMap<number, number>,
	joints: Float64Array,
	{ pushed, hushed, moved, cut }: Lists,
	library: Uint8Array,
): Uint8Array {
	const own = encodeCarriers(carriers);
	const header = 4 * SNAPSHOT_HEADER;
	const numbers = [...pushed, ...hushed, ...moved, ...cut];
	const bytes = new Uint8Array(header + own.length + 12 * owner.size + 8 * joints.length + 4 * numbers.length + library.length);
	const view = new DataView(bytes.buffer);
	[own.length, owner.size, joints.length, pushed.length, hushed.length, moved.length, cut.length].forEach((value, i) => {
		view.setUint32(4 * i, value, true);
	});
	bytes.set(own, header);
	let at = header + own.length;
	[...owner].forEach(([handle, body], k) => {
		view.setFloat64(at + 8 * k, handle, true);
		view.setInt32(at + 8 * owner.size + 4 * k, body, true);
	});
	at += 12 * owner.size;
	joints.forEach((handle, k) => {
		view.setFloat64(at + 8 * k, handle, true);
	});
	at += 8 * joints.length;
	numbers.forEach((value, k) => {
		view.setInt32(at + 4 * k, value, true);
	});
	bytes.set(library, at + 4 * numbers.length);
	return bytes;
}

function decodeSnapshot(scene: SimScene, bytes: Uint8Array) {
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	const [length, size, jointCount, ...counts] = Array.from({ length: SNAPSHOT_HEADER }, (_, i) => view.getUint32(4 * i, true)) as [
		number,
		number,
		number,
		...number[],
	];
	const header = 4 * SNAPSHOT_HEADER;
	let at = header + length;
	const owner = new Map<number, number>();
	for (let k = 0; k < size; k++) owner.set(view.getFloat64(at + 8 * k, true), view.getInt32(at + 8 * size + 4 * k, true));
	at += 12 * size;
	const joints = Float64Array.from({ length: jointCount }, (_, k) => view.getFloat64(at + 8 * k, true));
	at += 8 * jointCount;
	const [pushed, hushed, moved, cut] = counts.map((count) => {
		const list = Array.from({ length: count }, (_, k) => view.getInt32(at + 4 * k, true));
		at += 4 * count;
		return list;
	}) as [number[], number[], number[], number[]];
	return {
		carriers: decodeCarriers(scene, bytes.slice(header, header + length)),
		owner,
		joints,
		lists: { pushed, hushed, moved, cut },
		library: bytes.slice(at),
	};
}

/** Carriers of a world in scene order, in which they are created and handles keep them; and the colliders of each body. */
function tables(world: RAPIER.World, count: number, owner: ReadonlyMap<number, number>) {
	const bodies: RAPIER.RigidBody[] = [];
	world.forEachRigidBody((body) => bodies.push(body));
	bodies.sort((a, b) => byIndex(a.handle, b.handle));
	if (bodies.length < count || bodies.length > count + 1) throw new Error(`engine: ${bodies.length} bodies for a scene of ${count}`);
	// What stands for the world in joints comes last.
	const rest = bodies.length > count ? bodies.pop() : undefined;
	const colliders: RAPIER.Collider[][] = Array.from({ length: count }, () => []);
	for (const [handle, i] of owner) colliders[i]!.push(world.getCollider(handle));
	return { bodies, colliders, rest };
}

function adapt(
	scene: SimScene,
	world: RAPIER.World,
	held: Uint8Array,
	carriers: Carriers,
	bodyOf: Map<number, number>,
	joints: JointTable,
	lists: Lists = NO_LISTS,
): Engine {
	const { bodies, colliders } = tables(world, scene.count, bodyOf);
	const carrier = carriers.of;
	/** What each carrier did before the step, where it carries a group. */
	const memory = makeBodyState(scene.count);
	/** By record of states: carriers (1 per carrier) that stand still, and that it has the places of. */
	const standing = new Map<BodyState, Uint8Array>();
	/** Carriers of groups, in order. */
	let groups = groupsOf(carriers);
	/** Bodies of groups are asked through their carrier. */
	const bodyAt = (i: number) => bodies[carrier[i]!]!;
	const isFirst = (i: number) => carriers.members[carrier[i]!]![0] === i;
	const queue = new RAPIER.EventQueue(true);
	const contacts = growingContacts();
	const muted = new Set<number>();
	const pairKey = (a: number, b: number) => (a < b ? a * scene.count + b : b * scene.count + a);
	const hooks: RAPIER.PhysicsHooks = {
		filterContactPair: (c1, c2) => {
			const [a, b] = [bodyOf.get(c1)!, bodyOf.get(c2)!];
			return muted.has(pairKey(a, b)) || isTiedTo(a, b) || isTiedTo(b, a) ? RAPIER.SolverFlags.EMPTY : RAPIER.SolverFlags.COMPUTE_IMPULSE;
		},
		filterIntersectionPair: () => false,
	};
	let dt = stepSeconds(scene);
	const unit = typicalLength(scene);
	const pushed = new Set(lists.pushed);
	const vector = { x: 0, y: 0, z: 0 };
	const quaternion = { x: 0, y: 0, z: 0, w: 1 };
	const groupState = makeBodyState(scene.count);
	/** Where bodies that move alone were before the step. */
	let alone = memory;
	const reader = makeContactReader(world, bodyOf, (i) => {
		const from = carriers.anchored[carrier[i]!] === 0 && isGroup(carriers, carrier[i]!) ? memory : alone;
		const at = standsOn(carriers, i);
		return { position: tripleAt(from.position, at), rotation: quatAt(from.rotation, at) };
	});
	/** Where the first of two approaches the other one fastest; `velocity`: of it against the other. */
	const fastest = (one: RAPIER.Collider, other: RAPIER.Collider, velocity: (place: Vec3) => RAPIER.Vector3) => {
		let best: Touch | undefined;
		for (const { place, normal, distance } of reader.points(one, other)) {
			const { x, y, z } = velocity(place);
			const approach = vec3.dot([x, y, z], normal);
			if (!best || approach > best.approach) best = { approach, distance };
		}
		return best;
	};
	const fastestOfPair = (a: number, b: number, velocity: (place: Vec3) => RAPIER.Vector3) => {
		let best: Touch | undefined;
		for (const one of colliders[a]!)
			for (const other of colliders[b]!) {
				const touch = fastest(one, other, velocity);
				if (touch && (!best || touch.approach > best.approach)) best = touch;
			}
		return best;
	};
	const centreNow = (i: number) => {
		const { translation, rotation } = seatOf(carriers, i);
		const onCarrier = vec3.add(translation, rotate(rotation, [scene.centre[3 * i]!, scene.centre[3 * i + 1]!, scene.centre[3 * i + 2]!]));
		const q = bodyAt(i).rotation();
		const t = bodyAt(i).translation();
		const [x, y, z] = vec3.add([t.x, t.y, t.z], rotate([q.x, q.y, q.z, q.w], onCarrier));
		return { x, y, z };
	};
	/** Connectors that let no contact through, by body. The library leaves out the two that they tie, but not what holds still with one of them. */
	const ties = new Map<number, number[]>();
	for (const [n, { a, b, options }] of scene.joints.entries())
		if (b >= 0 && options.collide !== "yes") for (const i of [a, b]) ties.set(i, [...(ties.get(i) ?? []), n]);
	const isTiedTo = (i: number, other: number): boolean =>
		(ties.get(i) ?? []).some((n) => joints.handles[n] !== NONE && holdsStillWith(endBeside(scene, n, i), other));
	const holdsStillWith = (i: number, other: number): boolean => carriers.anchored[carrier[i]!] === 1 && carrier[i] === carrier[other];
	/** Bodies whose contacts are asked about, as the library has been told: telling it of all of them at each step is dear. In order. */
	let asked = new Set([...colliders.keys()].filter((i) => colliders[i]!.some((one) => one.activeHooks() !== RAPIER.ActiveHooks.NONE)));
	/**
	 * Bodies of pairs that were muted in the last step: where it need not ask, the library keeps with a contact that it should not push,
	 * see `CORRECTION`. So these are asked about once more.
	 */
	let hushed = new Set(lists.hushed);
	const silence = () => {
		const tied = [...ties].filter(([i, list]) => list.some((n) => carriers.anchored[carrier[endBeside(scene, n, i)]!] === 1));
		const silent = new Set([...mutedBodies(), ...hushed, ...tied.map(([i]) => i)].sort((a, b) => a - b));
		for (const i of asked) if (!silent.has(i)) setHooks(i, RAPIER.ActiveHooks.NONE);
		for (const i of silent) if (!asked.has(i)) setHooks(i, RAPIER.ActiveHooks.FILTER_CONTACT_PAIRS);
		asked = silent;
	};
	/**
	 * Joints are made and taken out before a step, not after one: the library keeps lists of these until it steps, and a snapshot does
	 * without.
	 */
	const toMove = new Set(lists.moved);
	const toCut = new Set(lists.cut);
	const settleJoints = () => {
		for (const n of toCut) cutJoint(scene, world, joints, n);
		if (toMove.size > 0) moveJoints(scene, world, bodies, carriers, joints, toMove);
		toCut.clear();
		toMove.clear();
	};
	const mutedBodies = () => new Set([...muted].flatMap((key) => [Math.floor(key / scene.count), key % scene.count]));
	const setHooks = (i: number, hooks: RAPIER.ActiveHooks) => {
		for (const collider of colliders[i]!) collider.setActiveHooks(hooks);
	};
	const drain = () => {
		contacts.count = 0;
		// An exception in here would be swallowed by the library: nothing in it throws.
		queue.drainContactForceEvents((event) => {
			addContact(contacts, bodyOf.get(event.collider1())!, bodyOf.get(event.collider2())!, event.totalForceMagnitude() * dt);
		});
	};
	return {
		count: scene.count,
		contacts,
		step() {
			settleJoints();
			silence();
			world.step(queue, asked.size > 0 ? hooks : undefined);
			hushed = mutedBodies();
			reader.forget();
			drain();
		},
		setStep(seconds) {
			dt = seconds;
			world.timestep = seconds;
		},
		setKeyed(i, from, to) {
			const body = bodies[i]!;
			setPose(body, from);
			body.setNextKinematicTranslation(xyz(to));
			body.setNextKinematicRotation(xyzw(to));
		},
		setGravity([x, y, z]) {
			const { gravity } = world;
			if (gravity.x === x && gravity.y === y && gravity.z === z) return;
			world.gravity = { x, y, z } as RAPIER.Vector3;
			for (const body of bodies) if (body.isDynamic()) body.wakeUp();
		},
		setPoints(i, points) {
			// The library's own way to give a collider another shape leaves contacts with the old one.
			const old = colliders[i]![0]!;
			bodyOf.delete(old.handle);
			world.removeCollider(old, true);
			const [description] = describeColliders(scene, i, { kind: "hulls", hulls: [points] });
			const made = addCollider(world, description!, bodies[i]!);
			colliders[i] = [made];
			bodyOf.set(made.handle, i);
			if (asked.has(i)) setHooks(i, RAPIER.ActiveHooks.FILTER_CONTACT_PAIRS);
		},
		readState(into) {
			const known = standing.get(into) ?? new Uint8Array(scene.count);
			standing.set(into, known);
			// What moves neither by itself nor by keys is where this record has it already: in a heap at rest that is nearly all.
			const stands = (c: number, moves: boolean): boolean => {
				const still = !moves && !bodies[c]!.isKinematic();
				if (still && known[c] === 1) return true;
				known[c] = still ? 1 : 0;
				return false;
			};
			for (let i = 0; i < bodies.length; i++) {
				if (!isAlone(carriers, i)) continue;
				const moves = movesByItself(bodies[i]!);
				if (stands(i, moves)) continue;
				readPlace(bodies[i]!, into, i, vector, quaternion);
				readSpeed(bodies[i]!, into, i, vector, moves);
			}
			for (const c of groups) {
				if (stands(c, movesByItself(bodies[c]!))) continue;
				if (carriers.anchored[c] === 1) {
					for (const i of carriers.members[c]!) readBody(bodies[standsOn(carriers, i)]!, into, i, vector, quaternion);
					continue;
				}
				readBody(bodies[c]!, groupState, c, vector, quaternion);
				for (const i of carriers.members[c]!) readMember(scene, carriers, groupState, c, into, i);
			}
		},
		writeState(from) {
			// What slept and was met has been moved, too.
			for (let i = 0; i < bodies.length; i++)
				if (isAlone(carriers, i) && (from.awake[i] === 1 || movesByItself(bodies[i]!))) writeBody(bodies[i]!, from, i);
			for (const c of groups) if (memory.awake[c] === 1 || movesByItself(bodies[c]!)) writeBody(bodies[c]!, memory, c);
		},
		place(from) {
			for (let c = 0; c < scene.count; c++) {
				const first = carriers.members[c]![0];
				if (first === undefined || scene.kind[first] !== Kind.Active) continue;
				const seat = seatOf(carriers, first);
				const rotation = compose(quatAt(from.rotation, first), inverse(seat.rotation));
				const translation = vec3.subtract(tripleAt(from.position, first), rotate(rotation, seat.translation));
				setPose(bodies[c]!, { translation, rotation });
				if (carriers.anchored[c] === 1)
					for (const i of carriers.members[c]!)
						setPose(bodies[i]!, { translation: tripleAt(from.position, i), rotation: quatAt(from.rotation, i) });
				if (!bodies[c]!.isDynamic()) continue;
				bodies[c]!.setLinvel(carrierVelocity(bodies[c]!, centreNow(first), from.velocity, from.spin, first), true);
				bodies[c]!.setAngvel(vectorAt(from.spin, first), true);
			}
			world.propagateModifiedBodyPositionsToColliders();
			standing.clear();
		},
		release(list, { velocity, spin }) {
			for (const i of list) {
				held[i] = Held.Free;
				const c = carrier[i]!;
				if (carriers.anchored[c] === 1) continue;
				const body = bodies[c]!;
				body.setBodyType(RAPIER.RigidBodyType.Dynamic, true);
				body.setLinvel(vectorAt(velocity, i), true);
				body.setAngvel(vectorAt(spin, i), true);
				// From here on it is remembered like everything that moves.
				if (!isAlone(carriers, i)) readBody(body, memory, c, vector, quaternion);
			}
		},
		remember(before) {
			alone = before;
			reader.forget();
			for (const c of groups) readBody(bodies[c]!, memory, c, vector, quaternion);
		},
		carrier,
		membersOf: (c) => carriers.members[c]!,
		isAnchored: (c) => carriers.anchored[c] === 1,
		regroup(list) {
			reader.forget();
			const changed = regroup({ scene, world, bodies, colliders, bodyOf, carriers, held }, list);
			for (const known of standing.values()) for (const c of changed) known[c] = 0;
			// Colliders of what has changed may be new.
			for (const i of asked)
				if (changed.has(carrier[i]!)) {
					setHooks(i, RAPIER.ActiveHooks.NONE);
					asked.delete(i);
				}
			if (scene.joints.length > 0) for (const { bodies: members } of list) for (const i of members) toMove.add(i);
			groups = groupsOf(carriers);
			for (const { bodies: members } of list) {
				const c = carrier[members[0]!]!;
				readBody(bodies[c]!, memory, c, vector, quaternion);
			}
			// Some colliders stand where the step had brought them, others where it began: whoever asks how far apart they are.
			world.propagateModifiedBodyPositionsToColliders();
		},
		bend(list, poseOf) {
			reader.forget();
			const [first, ...others] = standing.keys();
			for (const i of list) {
				const body = bodies[standsOn(carriers, i)]!;
				setPose(body, poseOf(i));
				if (!first) continue;
				readPlace(body, first, i, vector, quaternion);
				for (const record of others) copyPlace(first, record, i);
			}
			if (list.length > 0) world.propagateModifiedBodyPositionsToColliders();
		},
		contactsWith(i, matters, visit) {
			for (const collider of colliders[i]!)
				for (const { body, other } of reader.near(collider))
					if (matters(body)) for (const point of reader.points(collider, other)) visit(body, point);
		},
		addImpulse(i, [x, y, z], [px, py, pz]) {
			bodyAt(i).applyImpulseAtPoint({ x, y, z }, { x: px, y: py, z: pz }, true);
		},
		addTurn(i, [x, y, z]) {
			bodyAt(i).applyTorqueImpulse({ x, y, z }, true);
		},
		cutJoint: (n) => toCut.add(n),
		stretchJoint(n, by) {
			settleJoints();
			stretchJoint(scene, world, carriers, joints, n, by);
		},
		moves: (i) => movesByItself(bodyAt(i)),
		hold(list) {
			for (const i of list) {
				held[i] = Held.Taken;
				bodyAt(i).setBodyType(RAPIER.RigidBodyType.KinematicPositionBased, true);
			}
		},
		push(list, count, forces, wakes) {
			for (const c of pushed) {
				bodies[c]!.resetForces(false);
				bodies[c]!.resetTorques(false);
			}
			pushed.clear();
			for (let k = 0; k < count; k++) {
				const i = list[k]!;
				vector.x = forces[3 * k]!;
				vector.y = forces[3 * k + 1]!;
				vector.z = forces[3 * k + 2]!;
				if (isAlone(carriers, i)) bodies[i]!.addForce(vector, wakes[k] === 1);
				else bodyAt(i).addForceAtPoint(vector, centreNow(i), wakes[k] === 1);
				pushed.add(carrier[i]!);
			}
		},
		touches(i) {
			let any = false;
			for (const collider of colliders[i]!)
				world.contactPairsWith(collider, (other) => {
					if (!any)
						world.contactPair(collider, other, (manifold) => {
							for (let k = 0; k < manifold.numContacts(); k++) if (manifold.contactDist(k) <= TOUCHING) any = true;
						});
				});
			return any;
		},
		nearKeyed(i, visit) {
			const found = new Map<number, Touch>();
			for (const collider of colliders[i]!)
				for (const { body: h, other } of reader.near(collider)) {
					if (held[h] !== Held.Waits && carriers.anchored[carrier[h]!] !== 1) continue;
					const touch = fastest(collider, other, ([x, y, z]) => bodyAt(i).velocityAtPoint({ x, y, z }));
					const known = found.get(h);
					if (touch && (!known || touch.approach > known.approach)) found.set(h, touch);
				}
			for (const [h, touch] of [...found].sort((a, b) => a[0] - b[0])) visit(h, touch);
		},
		touch: (a, b, before) =>
			fastestOfPair(a, b, (place) => {
				const va = pointVelocity(before, scene, a, place);
				const vb = pointVelocity(before, scene, b, place);
				return { x: va.x - vb.x, y: va.y - vb.y, z: va.z - vb.z };
			}),
		approach: (a, b) =>
			fastestOfPair(a, b, ([x, y, z]) => {
				const [va, vb] = [bodyAt(a).velocityAtPoint({ x, y, z }), bodyAt(b).velocityAtPoint({ x, y, z })];
				return { x: va.x - vb.x, y: va.y - vb.y, z: va.z - vb.z };
			})?.approach,
		velocityOf(i) {
			const { x, y, z } = bodyAt(i).linvel();
			return [x, y, z];
		},
		setInertia(i, times, turns) {
			if (!isAlone(carriers, i)) return;
			const { x, y, z } = vectorAt(scene.inertia, i);
			const body = bodies[i]!;
			body.setAdditionalMassProperties(
				times * scene.mass[i]!,
				vectorAt(scene.centre, i),
				{ x: turns * x, y: turns * y, z: turns * z },
				quaternionAt(scene.inertiaFrame, i),
				false,
			);
			body.recomputeMassPropertiesFromColliders();
			if (scene.world[i] === 0) body.setGravityScale(1 / times, false);
		},
		overlaps: (tolerance) => findOverlaps(scene, world, carriers, colliders, tolerance, (i) => bodyAt(i).isEnabled()),
		nearest(body, [x, y, z]) {
			const found = colliders[body]!.map((collider) => collider.projectPoint({ x, y, z }, false)!.point);
			const [best] = found
				.map((point): Vec3 => [point.x, point.y, point.z])
				.sort((one, other) => vec3.length(vec3.subtract(one, [x, y, z])) - vec3.length(vec3.subtract(other, [x, y, z])));
			return best!;
		},
		mute(pairs) {
			muted.clear();
			for (const [a, b] of pairs) muted.add(pairKey(a, b));
		},
		separation(a, b, reach) {
			let least: number | undefined;
			for (const one of colliders[a]!)
				for (const other of colliders[b]!) {
					const contact = one.contactCollider(other, reach);
					if (contact && (least === undefined || contact.distance < least)) least = contact.distance;
				}
			return least;
		},
		setSweep(i, distance) {
			// Told anew in every step, though mostly the same: a body that is left alone is another one in a snapshot.
			if (isFirst(i)) bodyAt(i).setSoftCcdPrediction(distance);
		},
		allowSpeed(speed) {
			// In steps of two, so that it seldom changes.
			let length = unit * CORRECTION;
			while (MOST_LENGTHS * length < speed) length *= 2;
			if (world.lengthUnit !== length) setLength(world, length, unit);
		},
		setVelocities(list, { velocity, spin }) {
			for (const i of list) {
				if (!isFirst(i)) continue;
				const at = isAlone(carriers, i) ? vectorAt(velocity, i) : carrierVelocity(bodyAt(i), centreNow(i), velocity, spin, i);
				bodyAt(i).setLinvel(at, false);
				bodyAt(i).setAngvel(vectorAt(spin, i), false);
			}
		},
		neighbours(i, visit) {
			for (const collider of colliders[i]!) world.contactPairsWith(collider, (other) => visit(bodyOf.get(other.handle)!));
		},
		sleep(list) {
			for (const i of list) bodyAt(i).sleep();
		},
		remove(list) {
			for (const i of list) bodyAt(i).setEnabled(false);
		},
		appear(list, from) {
			for (const i of list) {
				held[i] = Held.Free;
				writeBody(bodies[i]!, from, i);
				bodies[i]!.setEnabled(true);
			}
		},
		snapshot: () =>
			encodeSnapshot(
				carriers,
				bodyOf,
				joints.handles,
				{ pushed: [...pushed], hushed: [...hushed], moved: [...toMove], cut: [...toCut] },
				world.takeSnapshot(),
			),
		dispose() {
			queue.free();
			world.free();
		},
	};
}

/** The other end of a connector between two bodies. */
const endBeside = ({ joints }: SimScene, n: number, i: number): number => (joints[n]!.a === i ? joints[n]!.b : joints[n]!.a);

const isGroup = (carriers: Carriers, c: number): boolean => carriers.members[c]!.length > 0 && !isAlone(carriers, carriers.members[c]![0]!);

function groupsOf(carriers: Carriers): number[] {
	const groups: number[] = [];
	for (let c = 0; c < carriers.members.length; c++) if (isGroup(carriers, c)) groups.push(c);
	return groups;
}

/** The velocity of a carrier's centre of mass that gives the centre of one of its bodies this velocity. */
function carrierVelocity(body: RAPIER.RigidBody, centre: RAPIER.Vector3, velocity: Float32Array, spin: Float32Array, i: number) {
	const to = body.worldCom();
	const w: Vec3 = [spin[3 * i]!, spin[3 * i + 1]!, spin[3 * i + 2]!];
	const [x, y, z] = vec3.add(
		[velocity[3 * i]!, velocity[3 * i + 1]!, velocity[3 * i + 2]!],
		vec3.cross(w, [to.x - centre.x, to.y - centre.y, to.z - centre.z]),
	);
	return { x, y, z };
}

/** A body's state from that of its carrier. */
function readMember(scene: SimScene, carriers: Carriers, from: BodyState, c: number, into: BodyState, i: number): void {
	const { translation, rotation } = seatOf(carriers, i);
	const q: Quat = [from.rotation[4 * c]!, from.rotation[4 * c + 1]!, from.rotation[4 * c + 2]!, from.rotation[4 * c + 3]!];
	const p: Vec3 = [from.position[3 * c]!, from.position[3 * c + 1]!, from.position[3 * c + 2]!];
	into.position.set(vec3.add(p, rotate(q, translation)), 3 * i);
	into.rotation.set(compose(q, rotation), 4 * i);
	const own: Vec3 = [scene.centre[3 * i]!, scene.centre[3 * i + 1]!, scene.centre[3 * i + 2]!];
	const whole: Vec3 = [carriers.centre[3 * c]!, carriers.centre[3 * c + 1]!, carriers.centre[3 * c + 2]!];
	const arm = rotate(q, vec3.subtract(vec3.add(translation, rotate(rotation, own)), whole));
	const w: Vec3 = [from.spin[3 * c]!, from.spin[3 * c + 1]!, from.spin[3 * c + 2]!];
	const v: Vec3 = [from.velocity[3 * c]!, from.velocity[3 * c + 1]!, from.velocity[3 * c + 2]!];
	into.velocity.set(vec3.add(v, vec3.cross(w, arm)), 3 * i);
	into.spin.set(w, 3 * i);
	into.awake[i] = from.awake[c]!;
}

function growingContacts(): Contacts & { a: Int32Array; b: Int32Array; impulse: Float32Array } {
	return { count: 0, a: new Int32Array(1024), b: new Int32Array(1024), impulse: new Float32Array(1024) };
}

function addContact(contacts: ReturnType<typeof growingContacts>, a: number, b: number, impulse: number): void {
	if (contacts.count === contacts.a.length) {
		for (const field of ["a", "b", "impulse"] as const) {
			const grown = field === "impulse" ? new Float32Array(2 * contacts.count) : new Int32Array(2 * contacts.count);
			grown.set(contacts[field]);
			(contacts[field] as typeof grown) = grown;
		}
	}
	contacts.a[contacts.count] = a;
	contacts.b[contacts.count] = b;
	contacts.impulse[contacts.count++] = impulse;
}

const movesByItself = (body: RAPIER.RigidBody): boolean => body.isDynamic() && !body.isSleeping() && body.isEnabled();

function readBody(body: RAPIER.RigidBody, into: BodyState, i: number, v: RAPIER.Vector3, q: RAPIER.Quaternion): void {
	readPlace(body, into, i, v, q);
	readSpeed(body, into, i, v, movesByItself(body));
}

function readPlace(body: RAPIER.RigidBody, into: BodyState, i: number, v: RAPIER.Vector3, q: RAPIER.Quaternion): void {
	body.translation(v);
	into.position[3 * i] = v.x;
	into.position[3 * i + 1] = v.y;
	into.position[3 * i + 2] = v.z;
	body.rotation(q);
	into.rotation[4 * i] = q.x;
	into.rotation[4 * i + 1] = q.y;
	into.rotation[4 * i + 2] = q.z;
	into.rotation[4 * i + 3] = q.w;
}

function copyPlace(from: BodyState, into: BodyState, i: number): void {
	for (let d = 3 * i; d < 3 * i + 3; d++) into.position[d] = from.position[d]!;
	for (let d = 4 * i; d < 4 * i + 4; d++) into.rotation[d] = from.rotation[d]!;
}

function readSpeed(body: RAPIER.RigidBody, into: BodyState, i: number, v: RAPIER.Vector3, moves: boolean): void {
	body.linvel(v);
	into.velocity[3 * i] = v.x;
	into.velocity[3 * i + 1] = v.y;
	into.velocity[3 * i + 2] = v.z;
	body.angvel(v);
	into.spin[3 * i] = v.x;
	into.spin[3 * i + 1] = v.y;
	into.spin[3 * i + 2] = v.z;
	into.awake[i] = moves ? 1 : 0;
}

function writeBody(body: RAPIER.RigidBody, from: BodyState, i: number): void {
	body.setTranslation(vectorAt(from.position, i), false);
	body.setRotation(quaternionAt(from.rotation, i), false);
	body.setLinvel(vectorAt(from.velocity, i), false);
	body.setAngvel(vectorAt(from.spin, i), false);
}

/** Velocity of the material point of a body at a place in the world, from remembered state. */
function pointVelocity(state: BodyState, scene: SimScene, i: number, [x, y, z]: Vec3): RAPIER.Vector3 {
	const c = rotated(state.rotation, i, scene.centre);
	const rx = x - state.position[3 * i]! - c.x;
	const ry = y - state.position[3 * i + 1]! - c.y;
	const rz = z - state.position[3 * i + 2]! - c.z;
	const wx = state.spin[3 * i]!;
	const wy = state.spin[3 * i + 1]!;
	const wz = state.spin[3 * i + 2]!;
	return {
		x: state.velocity[3 * i]! + wy * rz - wz * ry,
		y: state.velocity[3 * i + 1]! + wz * rx - wx * rz,
		z: state.velocity[3 * i + 2]! + wx * ry - wy * rx,
	};
}

function rotated(q: Float32Array, i: number, v: Float64Array): RAPIER.Vector3 {
	const [x, y, z, w] = [q[4 * i]!, q[4 * i + 1]!, q[4 * i + 2]!, q[4 * i + 3]!];
	const [vx, vy, vz] = [v[3 * i]!, v[3 * i + 1]!, v[3 * i + 2]!];
	const tx = 2 * (y * vz - z * vy);
	const ty = 2 * (z * vx - x * vz);
	const tz = 2 * (x * vy - y * vx);
	return { x: vx + w * tx + y * tz - z * ty, y: vy + w * ty + z * tx - x * tz, z: vz + w * tz + x * ty - y * tx };
}

/** Sweep along x over the bodies' boxes, then the exact distance of what remains. */
function findOverlaps(
	scene: SimScene,
	world: RAPIER.World,
	{ of }: Carriers,
	colliders: readonly RAPIER.Collider[][],
	tolerance: number,
	isThere: (body: number) => boolean,
): Overlap[] {
	world.propagateModifiedBodyPositionsToColliders();
	const boxes = Array.from(of, (_, i) => worldBox(scene, i));
	const order = [...boxes.keys()].filter(isThere).sort((a, b) => boxes[a]![0]! - boxes[b]![0]! || a - b);
	const found: Overlap[] = [];
	const open: number[] = [];
	for (const i of order) {
		for (let k = open.length - 1; k >= 0; k--) if (boxes[open[k]!]![3]! < boxes[i]![0]!) open.splice(k, 1);
		for (const j of open) {
			if (scene.kind[i] !== Kind.Active && scene.kind[j] !== Kind.Active) continue;
			if (scene.world[i] !== scene.world[j] || of[i] === of[j]) continue;
			if ([1, 2].some((k) => boxes[i]![k]! > boxes[j]![k + 3]! || boxes[j]![k]! > boxes[i]![k + 3]!)) continue;
			const [a, b] = [Math.min(i, j), Math.max(i, j)];
			let least = 0;
			let normal: Vec3 = [0, 1, 0];
			for (const one of colliders[a]!)
				for (const other of colliders[b]!) {
					const contact = one.contactCollider(other, 0);
					if (!contact || contact.distance >= least) continue;
					least = contact.distance;
					normal = [contact.normal1.x, contact.normal1.y, contact.normal1.z];
				}
			if (-least > tolerance) found.push({ a, b, depth: -least, normal });
		}
		open.push(i);
	}
	return found.sort((x, y) => x.a - y.a || x.b - y.b);
}

/** min x y z, max x y z of a body's collider in the world. */
function worldBox(scene: SimScene, i: number): number[] {
	const { shape } = scene.colliders[i]!;
	if (shape.kind === "ground") return [-Infinity, -Infinity, -Infinity, Infinity, scene.position[3 * i + 1]!, Infinity];
	const points =
		shape.kind === "hulls" ? shape.hulls : shape.kind === "mesh" ? [shape.mesh.positions] : [Float32Array.from(cornersOf(shape))];
	const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
	const q = Float32Array.from(scene.rotation.subarray(4 * i, 4 * i + 4));
	const local = new Float64Array(3);
	for (const list of points)
		for (let v = 0; v < list.length; v += 3) {
			local.set(list.subarray(v, v + 3));
			const p = rotated(q, 0, local);
			[p.x, p.y, p.z].forEach((value, k) => {
				box[k] = Math.min(box[k]!, value + scene.position[3 * i + k]!);
				box[k + 3] = Math.max(box[k + 3]!, value + scene.position[3 * i + k]!);
			});
		}
	return box;
}

/** From the middle of a round shape to its end. */
function upTo(shape: Exclude<ColliderShape, { kind: "box" | "hulls" | "mesh" | "ground" }>): number {
	if (shape.kind === "sphere") return shape.radius;
	return shape.kind === "capsule" ? shape.half + shape.radius : shape.half;
}

/** Corners of a box around a simple shape, 3 numbers each. */
function cornersOf(shape: Exclude<ColliderShape, { kind: "hulls" | "mesh" | "ground" }>): number[] {
	const half = shape.kind === "box" ? shape.half : ([shape.radius, upTo(shape), shape.radius] as const);
	return boxCorners(shape.centre, half, shape.kind === "sphere" ? IDENTITY : shape.turn).flat();
}
