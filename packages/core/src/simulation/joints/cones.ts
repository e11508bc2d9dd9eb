import { acos, clamp, radians, rotate, type Vec3, vec3 } from "../../maths";
import { rigidGroup } from "../rigid";
import type { Running } from "../running";
import { stepSeconds } from "../scene";
import { isFree, type JointState, pointOf, turnSince } from "./state";

/** Share of what a pin is beyond its cone that it comes back by in a step: less than all, or it would be flung back. */
const WAY_BACK = 0.2;

/**
 * Keeps the second body of a pin within the cone about the connector's own axis, which goes with the first. The physics
 * library has no such limit. Before each step the speed of swinging outwards is cut so that the step ends at the rim; what
 * pushes it there has nothing to spring back from. Turning about the axis stays free.
 */
export function stopCones(run: Running, { broken }: JointState): void {
	const { scene, engine, before } = run;
	const h = stepSeconds(scene);
	for (const [n, joint] of scene.joints.entries()) {
		if (joint.kind !== "pin" || joint.options.limits !== "cone" || broken[n] === 1) continue;
		const { a, b } = joint;
		if (![a, b].some((i) => i >= 0 && engine.moves(i))) continue;
		const own = rotate(joint.turn, [1, 0, 0]);
		const [one, other] = [rotate(turnSince(scene, before, a), own), rotate(turnSince(scene, before, b), own)];
		const across = vec3.cross(one, other);
		const size = vec3.length(across);
		if (size < 1e-9) continue;
		const axis = vec3.scale(across, 1 / size);
		const angle = acos(clamp(vec3.dot(one, other), -1, 1));
		const spin = (i: number): Vec3 => (i < 0 ? vec3.ZERO : [before.spin[3 * i]!, before.spin[3 * i + 1]!, before.spin[3 * i + 2]!]);
		const speed = vec3.dot(vec3.subtract(spin(b), spin(a)), axis);
		const room = radians(joint.options.cone ?? 45) - angle;
		const most = room >= 0 ? room / h : (WAY_BACK * room) / h;
		if (speed <= most) continue;
		const ends = [
			[a, joint.from, -1],
			[b, joint.to, 1],
		] as const;
		const lightest = ends.reduce((sum, [i, place]) => sum + lightness(run, i, pointOf(scene, before, i, place).at, axis), 0);
		if (lightest === 0) continue;
		const impulse = (most - speed) / lightest;
		for (const [i, , sign] of ends) if (i >= 0 && engine.moves(i)) engine.addTurn(i, vec3.scale(axis, sign * impulse));
	}
}

/** 1 / (moment of inertia about an axis through the pin), 1/(kg m²); 0 for what does not move by itself. */
function lightness(run: Running, i: number, pin: Vec3, axis: Vec3): number {
	if (!isFree(run, i)) return 0;
	const { scene, engine, before } = run;
	const { mass, centre, inertia } = rigidGroup(scene, engine, before, engine.carrier[i]!);
	const arm = vec3.cross(axis, vec3.subtract(centre, pin));
	return 1 / (inertia + mass * vec3.dot(arm, arm));
}
