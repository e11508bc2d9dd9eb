import RAPIER from "@dimforge/rapier3d-simd-compat";
import type { ColliderShape } from "../../bodies";
import { IDENTITY, rotate, type Vec3, vec3 } from "../../maths";
import { bounds, boundsCentre, boundsSize } from "../../mesh";
import { Kind, type SimScene, Wake } from "../scene";
import type { BodyState, Contacts, Engine, EngineFactory, KeyedPose, Overlap, Touch } from "./types";

/**
 * The one file that knows the physics library. Always the SIMD build: its results differ from the plain builds, and
 * the same build gives the same bits in Node and in browsers.
 */
export const ENGINE_BUILD = "rapier3d-simd 0.20.0";

let ready: Promise<void> | undefined;

export const rapierEngine: EngineFactory = async (scene, held, snapshot) => {
	ready ??= RAPIER.init();
	await ready;
	return snapshot ? restore(scene, held, snapshot) : build(scene, held);
};

/** Contacts softer than this sink in under load; stiffer ones jitter at the default step. Hz */
const CONTACT_FREQUENCY = 60;
/**
 * The library pushes overlaps apart at up to ten of its lengths a second, which squirts pieces out of a block that lands:
 * 25 m/s out of a fall at 3. With a shorter length it is gentler; the tolerances are given in metres, so they stay.
 */
const CORRECTION = 0.25;
/** Shares of the typical length. Five times the library's look-ahead: with less one heap in three kept a piece that never stopped. */
const TOLERATED_OVERLAP = 0.001;
const LOOK_AHEAD = 0.01;
/** Nearer than this is touching. m */
const TOUCHING = 1e-3;
/** Contact events from this multiple of a body's weight. */
const HIT_WEIGHTS = 4;

function build(scene: SimScene, held: Uint8Array): Engine {
	const { settings } = scene;
	const [gx, gy, gz] = settings.gravity;
	const world = new RAPIER.World({ x: gx, y: gy, z: gz });
	const unit = typicalLength(scene);
	world.lengthUnit = unit * CORRECTION;
	world.integrationParameters.normalizedAllowedLinearError = TOLERATED_OVERLAP / CORRECTION;
	world.integrationParameters.normalizedPredictionDistance = LOOK_AHEAD / CORRECTION;
	world.numSolverIterations = settings.solverIterations;
	world.integrationParameters.contact_natural_frequency = CONTACT_FREQUENCY;
	world.timestep = stepSeconds(scene);
	const bodies: RAPIER.RigidBody[] = [];
	const followers = new Set(scene.followers);
	for (let i = 0; i < scene.count; i++) {
		const body = world.createRigidBody(describeBody(scene, i, held[i] === 1, followers.has(i)));
		bodies.push(body);
		for (const collider of describeColliders(scene, i)) addCollider(world, collider, body);
	}
	return adapt(scene, world, held.slice());
}

function restore(scene: SimScene, held: Uint8Array, snapshot: Uint8Array): Engine {
	const world = RAPIER.World.restoreSnapshot(snapshot);
	// Snapshots do not hold these.
	world.timestep = stepSeconds(scene);
	world.integrationParameters.contact_natural_frequency = CONTACT_FREQUENCY;
	return adapt(scene, world, held.slice());
}

const stepSeconds = ({ settings }: SimScene): number => settings.timeScale / settings.stepsPerSecond;

/**
 * The length that the library takes for one: it scales its tolerances and the speed under which things may sleep
 * (0.4 of it a second). A dozen times the middle thickness, in powers of two so that small edits do not change it;
 * at most 1. With less the tolerated overlap (a thousandth of it) gets so small that heaps never come to rest.
 */
const UNITS_OF_THICKNESS = 12;
function typicalLength(scene: SimScene): number {
	const sizes: number[] = [];
	for (let i = 0; i < scene.count; i++) if (scene.kind[i] === Kind.Active && scene.thickness[i]! > 0) sizes.push(scene.thickness[i]!);
	if (sizes.length === 0) return 1;
	sizes.sort((a, b) => a - b);
	const middle = sizes[sizes.length >> 1]!;
	let unit = 1;
	while (unit > UNITS_OF_THICKNESS * middle && unit > 1 / 64) unit /= 2;
	return unit;
}

function describeBody(scene: SimScene, i: number, isHeld: boolean, follows: boolean): RAPIER.RigidBodyDesc {
	const kind = scene.kind[i];
	const description =
		kind === Kind.Animated || (isHeld && follows)
			? RAPIER.RigidBodyDesc.kinematicPositionBased()
			: kind === Kind.Active && !isHeld
				? RAPIER.RigidBodyDesc.dynamic()
				: RAPIER.RigidBodyDesc.fixed();
	const p = scene.position;
	description.setTranslation(p[3 * i]!, p[3 * i + 1]!, p[3 * i + 2]!).setRotation(quaternionAt(scene.rotation, i));
	if (kind === Kind.Active) {
		const v = scene.velocity;
		if (!isHeld) description.setLinvel(v[3 * i]!, v[3 * i + 1]!, v[3 * i + 2]!).setAngvel(vectorAt(scene.spin, i));
		description
			// Other worlds pull by their own gravity, as a force.
			.setGravityScale(scene.world[i] === 0 ? 1 : 0)
			.setLinearDamping(scene.linearDamping[i]!)
			.setAngularDamping(scene.angularDamping[i]!)
			.setAdditionalMassProperties(
				scene.mass[i]!,
				vectorAt(scene.centre, i),
				vectorAt(scene.inertia, i),
				quaternionAt(scene.inertiaFrame, i),
			);
	}
	return description;
}

function describeColliders(scene: SimScene, i: number): RAPIER.ColliderDesc[] {
	const kind = scene.kind[i]!;
	const descriptions = shapes(scene.colliders[i]!.shape);
	const gravity = Math.sqrt(scene.settings.gravity.reduce((sum, g) => sum + g * g, 0));
	for (const description of descriptions) {
		description
			// Mass and inertia come from the real shape, not from what collides.
			.setDensity(0)
			.setContactSkin(scene.margin[i]!)
			.setCollisionGroups(groupOf(scene.world[i]!))
			.setFriction(scene.friction[i]!)
			.setFrictionCombineRule(RAPIER.CoefficientCombineRule.Average)
			.setRestitution(scene.bounce[i]!)
			.setRestitutionCombineRule(RAPIER.CoefficientCombineRule.Max);
		if (kind === Kind.Active) {
			description
				.setActiveEvents(RAPIER.ActiveEvents.CONTACT_FORCE_EVENTS)
				.setContactForceEventThreshold(scene.wake[i] === Wake.Touched ? 0 : HIT_WEIGHTS * scene.mass[i]! * gravity);
			// Held bodies are fixed ones to the library: keyed ones must meet them too.
			if (scene.wake[i] === Wake.Touched)
				description.setActiveCollisionTypes(RAPIER.ActiveCollisionTypes.DEFAULT | RAPIER.ActiveCollisionTypes.KINEMATIC_FIXED);
		}
	}
	return descriptions;
}

/** Member of the world's group, meeting only that. */
const groupOf = (world: number): number => ((1 << (world + 16)) | (1 << world)) >>> 0;

function shapes(shape: ColliderShape): RAPIER.ColliderDesc[] {
	switch (shape.kind) {
		case "sphere":
			return [RAPIER.ColliderDesc.ball(shape.radius).setTranslation(...shape.centre)];
		case "box":
			return [
				RAPIER.ColliderDesc.cuboid(...shape.half)
					.setTranslation(...shape.centre)
					.setRotation(turnOf(shape.turn)),
			];
		case "capsule":
			return [
				RAPIER.ColliderDesc.capsule(shape.half, shape.radius)
					.setTranslation(...shape.centre)
					.setRotation(turnOf(shape.turn)),
			];
		case "hulls":
			return shape.hulls.map((points) => RAPIER.ColliderDesc.convexHull(points)!);
		case "mesh":
			return [RAPIER.ColliderDesc.trimesh(shape.mesh.positions, shape.mesh.triangles, RAPIER.TriMeshFlags.FIX_INTERNAL_EDGES)];
		case "ground":
			return [RAPIER.ColliderDesc.cuboid(1000, 10, 1000).setTranslation(0, -10, 0)];
	}
}

const turnOf = ([x, y, z, w]: readonly [number, number, number, number]) => ({ x, y, z, w });

/**
 * Slivers of a few flat triangles have no hull that the library can find: it then has no shape, and says so with an
 * exception when the collider is made. Their box stands in, a little thickened.
 */
function addCollider(world: RAPIER.World, description: RAPIER.ColliderDesc, body: RAPIER.RigidBody): void {
	const { shape } = description;
	try {
		world.createCollider(description, body);
	} catch (error) {
		if (!(shape instanceof RAPIER.ConvexPolyhedron)) throw error;
		const { min, max } = bounds({ positions: shape.vertices });
		const half = boundsSize({ min, max }).map((side) => Math.max(side / 2, THINNEST)) as [number, number, number];
		description.shape = new RAPIER.Cuboid(...half);
		world.createCollider(description.setTranslation(...boundsCentre({ min, max })), body);
	}
}
/** Half of the least thickness of a box that stands in for a hull. m */
const THINNEST = 5e-5;

const vectorAt = (a: ArrayLike<number>, i: number) => ({ x: a[3 * i]!, y: a[3 * i + 1]!, z: a[3 * i + 2]! });
const quaternionAt = (a: ArrayLike<number>, i: number) => ({ x: a[4 * i]!, y: a[4 * i + 1]!, z: a[4 * i + 2]!, w: a[4 * i + 3]! });

/** Bodies and colliders of a world in scene order; both are created in that order, and handles keep it. */
function tables(world: RAPIER.World, count: number) {
	const bodies: RAPIER.RigidBody[] = [];
	world.forEachRigidBody((body) => bodies.push(body));
	bodies.sort((a, b) => index32(a.handle) - index32(b.handle));
	if (bodies.length !== count) throw new Error(`engine: ${bodies.length} bodies for a scene of ${count}`);
	const bodyOf = new Map<number, number>();
	const colliders = bodies.map((body, i) => {
		const own = Array.from({ length: body.numColliders() }, (_, c) => body.collider(c));
		for (const collider of own) bodyOf.set(collider.handle, i);
		return own;
	});
	return { bodies, colliders, bodyOf };
}

/** Handles are (index, generation) packed into the bits of a double. */
const HANDLE_BITS = new DataView(new ArrayBuffer(8));
function index32(handle: number): number {
	HANDLE_BITS.setFloat64(0, handle, true);
	return HANDLE_BITS.getUint32(0, true);
}

function adapt(scene: SimScene, world: RAPIER.World, held: Uint8Array): Engine {
	const { bodies, colliders, bodyOf } = tables(world, scene.count);
	const queue = new RAPIER.EventQueue(true);
	const contacts = growingContacts();
	const muted = new Set<number>();
	const pairKey = (a: number, b: number) => (a < b ? a * scene.count + b : b * scene.count + a);
	const hooks: RAPIER.PhysicsHooks = {
		filterContactPair: (c1, c2) =>
			muted.has(pairKey(bodyOf.get(c1)!, bodyOf.get(c2)!)) ? RAPIER.SolverFlags.EMPTY : RAPIER.SolverFlags.COMPUTE_IMPULSE,
		filterIntersectionPair: () => false,
	};
	const dt = stepSeconds(scene);
	// A snapshot holds the forces of its last step.
	for (let i = 0; i < bodies.length; i++) if (scene.kind[i] === Kind.Active) bodies[i]!.resetForces(false);
	const pushed: number[] = [];
	const vector = { x: 0, y: 0, z: 0 };
	const quaternion = { x: 0, y: 0, z: 0, w: 1 };
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
			world.step(queue, muted.size > 0 ? hooks : undefined);
			drain();
		},
		setKeyed(i, from, to) {
			const body = bodies[i]!;
			setPose(body, from);
			body.setNextKinematicTranslation(xyz(to));
			body.setNextKinematicRotation(xyzw(to));
		},
		readState(into) {
			for (let i = 0; i < bodies.length; i++) readBody(bodies[i]!, into, i, vector, quaternion);
		},
		writeState(from) {
			for (let i = 0; i < bodies.length; i++) if (from.awake[i] === 1) writeBody(bodies[i]!, from, i);
		},
		release(list, { velocity, spin }) {
			for (const i of list) {
				held[i] = 0;
				bodies[i]!.setBodyType(RAPIER.RigidBodyType.Dynamic, true);
				bodies[i]!.setLinvel(vectorAt(velocity, i), true);
				bodies[i]!.setAngvel(vectorAt(spin, i), true);
			}
		},
		hold(list) {
			for (const i of list) {
				held[i] = 2;
				bodies[i]!.setBodyType(RAPIER.RigidBodyType.KinematicPositionBased, true);
			}
		},
		push(list, count, forces, wakes) {
			for (const i of pushed) bodies[i]!.resetForces(false);
			pushed.length = 0;
			for (let k = 0; k < count; k++) {
				const i = list[k]!;
				vector.x = forces[3 * k]!;
				vector.y = forces[3 * k + 1]!;
				vector.z = forces[3 * k + 2]!;
				bodies[i]!.addForce(vector, wakes[k] === 1);
				pushed.push(i);
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
				world.contactPairsWith(collider, (other) => {
					const h = bodyOf.get(other.handle)!;
					if (held[h] !== 1) return;
					const touch = nearest(world, collider, other, (point) => bodies[i]!.velocityAtPoint(point));
					const known = found.get(h);
					if (touch && (!known || touch.approach > known.approach)) found.set(h, touch);
				});
			for (const [h, touch] of [...found].sort((a, b) => a[0] - b[0])) visit(h, touch);
		},
		touch(a, b, before) {
			let best: Touch | undefined;
			for (const one of colliders[a]!)
				for (const other of colliders[b]!) {
					const touch = nearest(world, one, other, (point) => {
						const va = pointVelocity(before, scene, a, point);
						const vb = pointVelocity(before, scene, b, point);
						return { x: va.x - vb.x, y: va.y - vb.y, z: va.z - vb.z };
					});
					if (touch && (!best || touch.approach > best.approach)) best = touch;
				}
			return best;
		},
		overlaps: (tolerance) => findOverlaps(scene, world, bodies, colliders, tolerance),
		mute(pairs) {
			const silent = new Set<number>();
			muted.clear();
			for (const [a, b] of pairs) {
				muted.add(pairKey(a, b));
				silent.add(a);
				silent.add(b);
			}
			for (let i = 0; i < bodies.length; i++)
				for (const collider of colliders[i]!)
					collider.setActiveHooks(silent.has(i) ? RAPIER.ActiveHooks.FILTER_CONTACT_PAIRS : RAPIER.ActiveHooks.NONE);
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
			bodies[i]!.setSoftCcdPrediction(distance);
		},
		setVelocities(list, { velocity, spin }) {
			for (const i of list) {
				bodies[i]!.setLinvel(vectorAt(velocity, i), false);
				bodies[i]!.setAngvel(vectorAt(spin, i), false);
			}
		},
		neighbours(i, visit) {
			for (const collider of colliders[i]!) world.contactPairsWith(collider, (other) => visit(bodyOf.get(other.handle)!));
		},
		sleep(list) {
			for (const i of list) bodies[i]!.sleep();
		},
		snapshot: () => world.takeSnapshot(),
		dispose() {
			queue.free();
			world.free();
		},
	};
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

const xyz = ({ translation: [x, y, z] }: KeyedPose) => ({ x, y, z });
const xyzw = ({ rotation: [x, y, z, w] }: KeyedPose) => ({ x, y, z, w });

function setPose(body: RAPIER.RigidBody, pose: KeyedPose): void {
	body.setTranslation(xyz(pose), false);
	body.setRotation(xyzw(pose), false);
}

function readBody(body: RAPIER.RigidBody, into: BodyState, i: number, v: RAPIER.Vector3, q: RAPIER.Quaternion): void {
	body.translation(v);
	into.position[3 * i] = v.x;
	into.position[3 * i + 1] = v.y;
	into.position[3 * i + 2] = v.z;
	body.rotation(q);
	into.rotation[4 * i] = q.x;
	into.rotation[4 * i + 1] = q.y;
	into.rotation[4 * i + 2] = q.z;
	into.rotation[4 * i + 3] = q.w;
	body.linvel(v);
	into.velocity[3 * i] = v.x;
	into.velocity[3 * i + 1] = v.y;
	into.velocity[3 * i + 2] = v.z;
	body.angvel(v);
	into.spin[3 * i] = v.x;
	into.spin[3 * i + 1] = v.y;
	into.spin[3 * i + 2] = v.z;
	into.awake[i] = body.isDynamic() && !body.isSleeping() ? 1 : 0;
}

function writeBody(body: RAPIER.RigidBody, from: BodyState, i: number): void {
	body.setTranslation(vectorAt(from.position, i), false);
	body.setRotation(quaternionAt(from.rotation, i), false);
	body.setLinvel(vectorAt(from.velocity, i), false);
	body.setAngvel(vectorAt(from.spin, i), false);
}

/** Velocity of the material point of a body at a place in the world, from remembered state. */
function pointVelocity(state: BodyState, scene: SimScene, i: number, point: RAPIER.Vector): RAPIER.Vector3 {
	const c = rotated(state.rotation, i, scene.centre);
	const rx = point.x - state.position[3 * i]! - c.x;
	const ry = point.y - state.position[3 * i + 1]! - c.y;
	const rz = point.z - state.position[3 * i + 2]! - c.z;
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

/** The fastest approach among the contact points of two colliders. `velocity`: of the first against the second. */
function nearest(
	world: RAPIER.World,
	one: RAPIER.Collider,
	other: RAPIER.Collider,
	velocity: (point: RAPIER.Vector) => RAPIER.Vector,
): Touch | undefined {
	let best: Touch | undefined;
	world.contactPair(one, other, (manifold, flipped) => {
		const n = manifold.normal();
		const sign = flipped ? -1 : 1;
		for (let k = 0; k < manifold.numContacts(); k++) {
			const local = flipped ? manifold.localContactPoint2(k) : manifold.localContactPoint1(k);
			if (!local) continue;
			const point = toWorld(one, local);
			const v = velocity(point);
			const approach = sign * (v.x * n.x + v.y * n.y + v.z * n.z);
			if (!best || approach > best.approach) best = { approach, distance: manifold.contactDist(k) };
		}
	});
	return best;
}

function toWorld(collider: RAPIER.Collider, local: RAPIER.Vector): RAPIER.Vector3 {
	const q = collider.rotation();
	const t = collider.translation();
	const r = rotated(Float32Array.of(q.x, q.y, q.z, q.w), 0, Float64Array.of(local.x, local.y, local.z));
	return { x: r.x + t.x, y: r.y + t.y, z: r.z + t.z };
}

/** Sweep along x over the bodies' boxes, then the exact distance of what remains. */
function findOverlaps(
	scene: SimScene,
	world: RAPIER.World,
	bodies: readonly RAPIER.RigidBody[],
	colliders: readonly RAPIER.Collider[][],
	tolerance: number,
): Overlap[] {
	world.propagateModifiedBodyPositionsToColliders();
	const boxes = bodies.map((_, i) => worldBox(scene, i));
	const order = [...boxes.keys()].sort((a, b) => boxes[a]![0]! - boxes[b]![0]! || a - b);
	const found: Overlap[] = [];
	const open: number[] = [];
	for (const i of order) {
		for (let k = open.length - 1; k >= 0; k--) if (boxes[open[k]!]![3]! < boxes[i]![0]!) open.splice(k, 1);
		for (const j of open) {
			if (scene.kind[i] !== Kind.Active && scene.kind[j] !== Kind.Active) continue;
			if (scene.world[i] !== scene.world[j]) continue;
			if ([1, 2].some((k) => boxes[i]![k]! > boxes[j]![k + 3]! || boxes[j]![k]! > boxes[i]![k + 3]!)) continue;
			let least = 0;
			for (const one of colliders[i]!)
				for (const other of colliders[j]!) least = Math.min(least, one.contactCollider(other, 0)?.distance ?? 0);
			if (-least > tolerance) found.push({ a: Math.min(i, j), b: Math.max(i, j), depth: -least });
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

/** Corners of a box around a simple shape, 3 numbers each. */
function cornersOf(shape: Extract<ColliderShape, { kind: "sphere" | "box" | "capsule" }>): number[] {
	const half =
		shape.kind === "box"
			? shape.half
			: shape.kind === "capsule"
				? ([shape.radius, shape.half + shape.radius, shape.radius] as const)
				: ([shape.radius, shape.radius, shape.radius] as const);
	const turn = shape.kind === "sphere" ? IDENTITY : shape.turn;
	return Array.from({ length: 8 }, (_, k) =>
		vec3.add(shape.centre, rotate(turn, [0, 1, 2].map((axis) => (k & (1 << axis) ? half[axis]! : -half[axis]!)) as unknown as Vec3)),
	).flat();
}
