import { type Vec3, vec3 } from "../maths";
import { centreOfMass } from "./pushes";
import type { Running } from "./running";
import { stepSeconds } from "./scene";

/** What touches a body, world axes. */
export interface ContactLoad {
	/** N */
	force: Vec3;
	/** N m about the body's centre of mass. */
	moment: Vec3;
}

/** What touched bodies that matter in the last step, by body. Along the normals: the engine does not say which way it rubs. */
export function contactLoads(
	{ scene, engine, after, held }: Omit<Running, "before">,
	matters: (body: number) => boolean,
): Map<number, ContactLoad> {
	const dt = stepSeconds(scene);
	const { contacts } = engine;
	const touched = new Map<number, Map<number, number>>();
	for (let k = 0; k < contacts.count; k++)
		for (const [body, by] of [
			[contacts.a[k]!, contacts.b[k]!],
			[contacts.b[k]!, contacts.a[k]!],
		] as const) {
			if (!matters(body) || held[body] !== 0 || engine.carrier[body] === engine.carrier[by]) continue;
			const others = touched.get(body) ?? new Map<number, number>();
			touched.set(body, others);
			others.set(by, (others.get(by) ?? 0) + contacts.impulse[k]!);
		}
	// Of S iterations the engine reports (S + 1) / S of a resting load.
	const share = scene.settings.solverIterations / (scene.settings.solverIterations + 1);
	const loads = new Map<number, ContactLoad>();
	for (const [body, others] of touched) {
		const points: { by: number; place: Vec3; normal: Vec3; weight: number }[] = [];
		const sums = new Map<number, number>();
		engine.contactsWith(
			body,
			(by) => others.has(by),
			(by, { place, normal, impulse }) => {
				if (impulse <= 0) return;
				points.push({ by, place, normal, weight: impulse });
				sums.set(by, (sums.get(by) ?? 0) + impulse);
			},
		);
		const load: ContactLoad = { force: vec3.ZERO, moment: vec3.ZERO };
		const centre = centreOfMass(scene, after, body);
		for (const { by, place, normal, weight } of points) {
			const force = vec3.scale(normal, (-share * others.get(by)! * weight) / (sums.get(by)! * dt));
			load.force = vec3.add(load.force, force);
			load.moment = vec3.add(load.moment, vec3.cross(vec3.subtract(place, centre), force));
		}
		loads.set(body, load);
	}
	return loads;
}
