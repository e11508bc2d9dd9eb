import { compose, fromAxisAngle, type Quat, rotate, type Vec3, vec3 } from "../maths";
import type { BodyState, Engine } from "./engine";
import { centreOfMass } from "./pushes";
import type { SimScene } from "./scene";

/** Mean moment of inertia of a body, kg m². */
export const meanInertia = ({ inertia }: Pick<SimScene, "inertia">, i: number): number =>
	(inertia[3 * i]! + inertia[3 * i + 1]! + inertia[3 * i + 2]!) / 3;

/** All bodies on a carrier as one: mass in kg, centre in the world, mean inertia about it in kg m². */
export function rigidGroup(scene: SimScene, engine: Engine, state: BodyState, carrier: number) {
	const members = engine.membersOf(carrier);
	const mass = members.reduce((sum, i) => sum + scene.mass[i]!, 0);
	const places = members.map((i) => centreOfMass(scene, state, i));
	let centre: Vec3 = vec3.ZERO;
	for (const [z, i] of members.entries()) centre = vec3.add(centre, vec3.scale(places[z]!, scene.mass[i]! / mass));
	let inertia = 0;
	for (const [z, i] of members.entries()) {
		const r = vec3.subtract(places[z]!, centre);
		inertia += meanInertia(scene, i) + (2 / 3) * scene.mass[i]! * vec3.dot(r, r);
	}
	return { mass, centre, inertia };
}

/** Adds a body to an inertia tensor (row by row): its mass, where its centre is from the common one, its own mean inertia. */
export function addInertia(tensor: number[], mass: number, r: Vec3, own: number): void {
	const rr = vec3.dot(r, r);
	for (let a = 0; a < 3; a++) for (let b = 0; b < 3; b++) tensor[3 * a + b]! += (a === b ? mass * rr + own : 0) - mass * r[a]! * r[b]!;
}

/** x of A x = b, by Cramer's rule; A row by row. */
export function solve3(a: readonly number[], b: Vec3): Vec3 {
	const rows = [0, 3, 6].map((r) => [a[r]!, a[r + 1]!, a[r + 2]!] as const) as [Vec3, Vec3, Vec3];
	const det = vec3.dot(rows[0], vec3.cross(rows[1], rows[2]));
	if (det === 0) return vec3.ZERO;
	const columns = [0, 1, 2].map((c) => [rows[0][c]!, rows[1][c]!, rows[2][c]!] as const) as [Vec3, Vec3, Vec3];
	return [
		vec3.dot(b, vec3.cross(columns[1], columns[2])) / det,
		vec3.dot(columns[0], vec3.cross(b, columns[2])) / det,
		vec3.dot(columns[0], vec3.cross(columns[1], b)) / det,
	];
}

/** A small motion as one: along (m, or m/s), and about a centre (rad, or rad/s). */
export interface RigidMotion {
	readonly along: Vec3;
	readonly about: Vec3;
	readonly centre: Vec3;
}

interface Pose {
	readonly translation: Vec3;
	readonly rotation: Quat;
}

/** Where such a motion brings what has this pose. */
export function movedPose({ translation, rotation }: Pose, { along, about, centre }: RigidMotion): Pose {
	const angle = vec3.length(about);
	const turn = fromAxisAngle(angle > 0 ? vec3.scale(about, 1 / angle) : [0, 1, 0], angle);
	return {
		translation: vec3.add(vec3.add(centre, along), rotate(turn, vec3.subtract(translation, centre))),
		rotation: compose(turn, rotation),
	};
}
