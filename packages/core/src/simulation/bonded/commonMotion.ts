import { tripleAt, type Vec3, vec3 } from "../../maths";
import { addInertia, type RigidMotion, solve3 } from "../rigid";
import type { SimScene } from "../scene";
import type { BondNet } from "./bondNet";

/**
 * What of the motions of bodies is one of them all: the one with their momentum and their angular momentum. `motions`: 6 per body of the
 * scene, along and about the axes of the first frame, m and rad or per second.
 */
export function commonMotion(scene: SimScene, net: BondNet, bodies: readonly number[], motions: Float64Array): RigidMotion {
	const along = (i: number): Vec3 => tripleAt(motions, 2 * i);
	const about = (i: number): Vec3 => tripleAt(motions, 2 * i + 1);
	const first = bodies[0]!;
	if (bodies.length === 1) return { along: along(first), about: about(first), centre: tripleAt(net.centre, first) };
	let mass = 0;
	let centre: Vec3 = vec3.ZERO;
	let momentum: Vec3 = vec3.ZERO;
	for (const i of bodies) {
		const m = scene.mass[i]!;
		mass += m;
		centre = vec3.add(centre, vec3.scale(tripleAt(net.centre, i), m));
		momentum = vec3.add(momentum, vec3.scale(along(i), m));
	}
	centre = vec3.scale(centre, 1 / mass);
	let turning: Vec3 = vec3.ZERO;
	const tensor = [0, 0, 0, 0, 0, 0, 0, 0, 0];
	for (const i of bodies) {
		const m = scene.mass[i]!;
		const r = vec3.subtract(tripleAt(net.centre, i), centre);
		turning = vec3.add(turning, vec3.add(vec3.scale(vec3.cross(r, along(i)), m), vec3.scale(about(i), net.inertia[i]!)));
		addInertia(tensor, m, r, net.inertia[i]!);
	}
	return { along: vec3.scale(momentum, 1 / mass), about: solve3(tensor, turning), centre };
}

/** Takes a motion that bodies have in common off theirs. */
export function takeOff({ along, about, centre }: RigidMotion, net: BondNet, bodies: readonly number[], motions: Float64Array): void {
	for (const i of bodies) {
		const own = vec3.add(along, vec3.cross(about, vec3.subtract(tripleAt(net.centre, i), centre)));
		for (let d = 0; d < 3; d++) {
			motions[6 * i + d]! -= own[d]!;
			motions[6 * i + 3 + d]! -= about[d]!;
		}
	}
}
