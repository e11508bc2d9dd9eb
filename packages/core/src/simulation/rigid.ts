import { type Vec3, vec3 } from "../maths";
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
