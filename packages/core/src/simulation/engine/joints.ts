import RAPIER from "@dimforge/rapier3d-simd-compat";
import { type Guard, jointLength } from "../../connectors";
import { compose, IDENTITY, inverse, type Quat, rotate, type Vec3, vec3 } from "../../maths";
import { sceneGuards } from "../guards";
import type { SimScene } from "../scene";
import { type Carriers, HOME, seatOf, standsOn } from "./carriers";

/**
 * Joints of a scene in the library. Springs are none of them: they are our own forces (see `simulation/joints/`), since
 * the library's are damped by its step.
 */
export interface JointTable {
	/** By number of the scene's joint, then of the lines that help heavy bodies on chains (`guardsOf`); or `NONE`, or `WITHIN`. */
	readonly handles: Float64Array;
	readonly guards: readonly Guard[];
	/** What stands for the world; undefined where no joint needs it. */
	readonly world: RAPIER.RigidBody | undefined;
}

/** Springs have none here, and what has been cut has none any more. */
export const NONE = -1;
/** Both ends are on one carrier: what ties pieces that are bonded acts when they have come apart. */
const WITHIN = -2;

const RADIANS = Math.PI / 180;
/** Share of a radian or a metre in which a motor that holds a place puts all its power. */
const MOTOR_REACH = 0.05;
/** Of critical: seconds in which such a motor gives up its speed. */
const MOTOR_SECONDS = 0.1;
/** How much of its power a motor that holds a speed uses against an error of 1 rad/s or m/s: enough to hold it to a percent. */
const MOTOR_GAIN = 200;

export function createJoints(scene: SimScene, world: RAPIER.World, bodies: readonly RAPIER.RigidBody[], carriers: Carriers): JointTable {
	const guards = sceneGuards(scene);
	const table: JointTable = {
		handles: new Float64Array(scene.joints.length + guards.length).fill(NONE),
		guards,
		world: scene.joints.some(({ b }) => b < 0) ? world.createRigidBody(RAPIER.RigidBodyDesc.fixed()) : undefined,
	};
	for (let n = 0; n < scene.joints.length; n++) createJoint(scene, world, bodies, carriers, table, n);
	for (let n = 0; n < guards.length; n++) createGuard(scene, world, bodies, carriers, table, n);
	return table;
}

function createGuard(
	scene: SimScene,
	world: RAPIER.World,
	bodies: readonly RAPIER.RigidBody[],
	carriers: Carriers,
	table: JointTable,
	n: number,
): void {
	const { root, rootPoint, body, point, length } = table.guards[n]!;
	const one = root < 0 ? rootPoint : onCarrier(scene, carriers, root, rootPoint, IDENTITY).place;
	const other = onCarrier(scene, carriers, body, point, IDENTITY).place;
	const data = RAPIER.JointData.rope(length, vector(one), vector(other));
	const joint = world.createImpulseJoint(
		data,
		root < 0 ? table.world! : bodies[standsOn(carriers, root)]!,
		bodies[standsOn(carriers, body)]!,
		true,
	);
	table.handles[scene.joints.length + n] = joint.handle;
}

function createJoint(
	scene: SimScene,
	world: RAPIER.World,
	bodies: readonly RAPIER.RigidBody[],
	carriers: Carriers,
	table: JointTable,
	n: number,
): void {
	const { a, b, kind, from, to, turn, options } = scene.joints[n]!;
	const one = onCarrier(scene, carriers, a, from, turn);
	const other = b < 0 ? { place: to, turn } : onCarrier(scene, carriers, b, to, turn);
	const [body1, body2] = [bodies[standsOn(carriers, a)]!, b < 0 ? table.world! : bodies[standsOn(carriers, b)]!];
	const data = describe(kind, vector(one.place), vector(other.place), jointLength(scene.joints[n]!));
	if (!data) return;
	if (b >= 0 && carriers.of[a] === carriers.of[b]) {
		table.handles[n] = WITHIN;
		return;
	}
	const joint = world.createImpulseJoint(data, body1, body2, true);
	if (kind !== "rope") {
		joint.setLocalFrame1(vector(one.place), quaternion(one.turn));
		joint.setLocalFrame2(vector(other.place), quaternion(other.turn));
	}
	joint.setContactsEnabled(options.collide === "yes");
	const unit = kind === "hinge" ? RADIANS : 1;
	if (joint instanceof RAPIER.UnitImpulseJoint) {
		// The library has the second body against the first.
		if (options.limits === "between") joint.setLimits(-options.most! * unit, -options.least! * unit);
		if (options.motor === "speed" || options.motor === "place") {
			joint.configureMotorModel(RAPIER.MotorModel.ForceBased);
			joint.setMotorMaxForce(options.power!);
			if (options.motor === "speed") joint.configureMotorVelocity(-options.speed! * unit, options.power! * MOTOR_GAIN);
			else
				joint.configureMotorPosition(-options.place! * unit, options.power! / MOTOR_REACH, (options.power! / MOTOR_REACH) * MOTOR_SECONDS);
		}
	}
	table.handles[n] = joint.handle;
}

function describe(kind: string, a: RAPIER.Vector3, b: RAPIER.Vector3, length: number): RAPIER.JointData | undefined {
	switch (kind) {
		case "fixed":
			return RAPIER.JointData.fixed(a, UPRIGHT, b, UPRIGHT);
		case "pin":
			return RAPIER.JointData.spherical(a, b);
		case "hinge":
			return RAPIER.JointData.revolute(a, b, X);
		case "slider":
			return RAPIER.JointData.prismatic(a, b, X);
		case "rope":
			return RAPIER.JointData.rope(length, a, b);
		default:
			return undefined;
	}
}

const UPRIGHT = { x: 0, y: 0, z: 0, w: 1 };
const X = { x: 1, y: 0, z: 0 };

/** A place and axes of the first frame, on the carrier of a body; the place shifted by so much in the body's axes. */
function onCarrier(
	scene: SimScene,
	carriers: Carriers,
	i: number,
	place: Vec3,
	turn: Quat,
	by: Vec3 = vec3.ZERO,
): { place: Vec3; turn: Quat } {
	const back = inverse([scene.rotation[4 * i]!, scene.rotation[4 * i + 1]!, scene.rotation[4 * i + 2]!, scene.rotation[4 * i + 3]!]);
	const from = vec3.subtract(place, [scene.position[3 * i]!, scene.position[3 * i + 1]!, scene.position[3 * i + 2]!]);
	const local = vec3.add(rotate(back, from), by);
	const seat = standsOn(carriers, i) === carriers.of[i] ? seatOf(carriers, i) : HOME;
	return { place: vec3.add(seat.translation, rotate(seat.rotation, local)), turn: compose(seat.rotation, compose(back, turn)) };
}

/** Lets a joint out: it holds its first body so far, metres in that one's axes, from where it is meant to. */
export function stretchJoint(scene: SimScene, world: RAPIER.World, carriers: Carriers, table: JointTable, n: number, by: Vec3): void {
	const joint = jointOf(world, table, n);
	if (!joint) return;
	const { a, from } = scene.joints[n]!;
	joint.setAnchor1(vector(onCarrier(scene, carriers, a, from, IDENTITY, by).place));
}

/** Takes a joint out, and the lines along it. */
export function cutJoint(scene: SimScene, world: RAPIER.World, table: JointTable, n: number): void {
	takeOut(world, table, n);
	for (const [g, { path }] of table.guards.entries()) if (path.includes(n)) takeOut(world, table, scene.joints.length + g);
}

function takeOut(world: RAPIER.World, table: JointTable, n: number): void {
	const joint = jointOf(world, table, n);
	if (joint) world.removeImpulseJoint(joint, true);
	table.handles[n] = NONE;
}

function jointOf(world: RAPIER.World, { handles }: JointTable, n: number): RAPIER.ImpulseJoint | undefined {
	const handle = handles[n]!;
	return handle === NONE || handle === WITHIN ? undefined : world.getImpulseJoint(handle);
}

/** Joints on bodies that have changed carriers are made anew; those that were cut stay so. */
export function moveJoints(
	scene: SimScene,
	world: RAPIER.World,
	bodies: readonly RAPIER.RigidBody[],
	carriers: Carriers,
	table: JointTable,
	moved: ReadonlySet<number>,
): void {
	for (const [n, { a, b }] of scene.joints.entries()) {
		if (!moved.has(a) && !moved.has(b)) continue;
		if (table.handles[n] === NONE) continue;
		takeOut(world, table, n);
		createJoint(scene, world, bodies, carriers, table, n);
	}
	for (const [g, { root, body }] of table.guards.entries()) {
		const n = scene.joints.length + g;
		if ((!moved.has(root) && !moved.has(body)) || table.handles[n] === NONE) continue;
		takeOut(world, table, n);
		createGuard(scene, world, bodies, carriers, table, g);
	}
}

const vector = ([x, y, z]: Vec3): RAPIER.Vector3 => ({ x, y, z }) as RAPIER.Vector3;
const quaternion = ([x, y, z, w]: Quat) => ({ x, y, z, w });
