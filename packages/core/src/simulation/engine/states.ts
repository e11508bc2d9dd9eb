import type RAPIER from "@dimforge/rapier3d-simd-compat";
import { compose, type Quat, rotate, type Vec3, vec3 } from "../../maths";
import type { SimScene } from "../scene";
import { type Carriers, seatOf } from "./carriers";
import { quaternionAt, vectorAt } from "./describe";
import type { BodyState } from "./types";

/** The velocity of a carrier's centre of mass that gives the centre of one of its bodies this velocity. */
export function carrierVelocity(body: RAPIER.RigidBody, centre: RAPIER.Vector3, velocity: Float32Array, spin: Float32Array, i: number) {
	const to = body.worldCom();
	const w: Vec3 = [spin[3 * i]!, spin[3 * i + 1]!, spin[3 * i + 2]!];
	const [x, y, z] = vec3.add(
		[velocity[3 * i]!, velocity[3 * i + 1]!, velocity[3 * i + 2]!],
		vec3.cross(w, [to.x - centre.x, to.y - centre.y, to.z - centre.z]),
	);
	return { x, y, z };
}

/** A body's state from that of its carrier. */
export function readMember(scene: SimScene, carriers: Carriers, from: BodyState, c: number, into: BodyState, i: number): void {
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

/** Whether the library moves it: it is no keyed or held one, does not sleep, and is there. */
export const movesByItself = (body: RAPIER.RigidBody): boolean => body.isDynamic() && !body.isSleeping() && body.isEnabled();

export function readBody(body: RAPIER.RigidBody, into: BodyState, i: number, v: RAPIER.Vector3, q: RAPIER.Quaternion): void {
	readPlace(body, into, i, v, q);
	readSpeed(body, into, i, v, movesByItself(body));
}

export function readPlace(body: RAPIER.RigidBody, into: BodyState, i: number, v: RAPIER.Vector3, q: RAPIER.Quaternion): void {
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

export function copyPlace(from: BodyState, into: BodyState, i: number): void {
	for (let d = 3 * i; d < 3 * i + 3; d++) into.position[d] = from.position[d]!;
	for (let d = 4 * i; d < 4 * i + 4; d++) into.rotation[d] = from.rotation[d]!;
}

export function readSpeed(body: RAPIER.RigidBody, into: BodyState, i: number, v: RAPIER.Vector3, moves: boolean): void {
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

export function writeBody(body: RAPIER.RigidBody, from: BodyState, i: number): void {
	body.setTranslation(vectorAt(from.position, i), false);
	body.setRotation(quaternionAt(from.rotation, i), false);
	body.setLinvel(vectorAt(from.velocity, i), false);
	body.setAngvel(vectorAt(from.spin, i), false);
}

/** Velocity of the material point of a body at a place in the world, from remembered state. */
export function pointVelocity(state: BodyState, scene: SimScene, i: number, [x, y, z]: Vec3): RAPIER.Vector3 {
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

export function rotated(q: Float32Array, i: number, v: Float64Array): RAPIER.Vector3 {
	const [x, y, z, w] = [q[4 * i]!, q[4 * i + 1]!, q[4 * i + 2]!, q[4 * i + 3]!];
	const [vx, vy, vz] = [v[3 * i]!, v[3 * i + 1]!, v[3 * i + 2]!];
	const tx = 2 * (y * vz - z * vy);
	const ty = 2 * (z * vx - x * vz);
	const tz = 2 * (x * vy - y * vx);
	return { x: vx + w * tx + y * tz - z * ty, y: vy + w * ty + z * tx - x * tz, z: vz + w * tz + x * ty - y * tx };
}
