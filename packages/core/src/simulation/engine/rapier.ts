import RAPIER from "@dimforge/rapier3d-simd-compat";
import { compose, inverse, quatAt, rotate, tripleAt, type Vec3, vec3 } from "../../maths";
import { contactFrequency } from "../contactSpring";
import { sceneGuards } from "../guards";
import { Held, Kind, type SimScene, stepSeconds } from "../scene";
import { type Carriers, isAlone, makeCarriers, seatOf, standsOn } from "./carriers";
import { makeContactReader } from "./contactReader";
import { addContact, growingContacts } from "./contacts";
import { addCollider, describeBody, describeColliders, quaternionAt, typicalLength, vectorAt } from "./describe";
import { byIndex } from "./handles";
import { createJoints, cutJoint, type JointTable, moveJoints, NONE, stretchJoint } from "./joints";
import { findOverlaps } from "./overlaps";
import { setPose, xyz, xyzw } from "./poses";
import { regroup } from "./regroup";
import { decodeSnapshot, encodeSnapshot, type Lists, NO_LISTS } from "./snapshot";
import { carrierVelocity, copyPlace, movesByItself, pointVelocity, readBody, readMember, readPlace, readSpeed, writeBody } from "./states";
import { type BodyState, type Engine, type EngineFactory, makeBodyState, type Touch } from "./types";

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
