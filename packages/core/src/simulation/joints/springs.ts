import { type Joint, jointLength } from "../../connectors";
import { compose, cos, exp, inverse, rotate, tripleAt, type Vec3, vec3 } from "../../maths";
import { meanInertia, rigidGroup } from "../rigid";
import type { Running } from "../running";
import { stepSeconds } from "../scene";
import { AXES, isFree, type JointState, pointOf, turnSince } from "./state";

/**
 * What a damped spring does to the speed of its ends in a step: the step of the exact solution (so that period and decay
 * come out right at any stiffness, and nothing blows up), for speeds that are half a step behind as the engine has them.
 * With x(t + h) = 2 e c x(t) − e² x(t − h), e = exp(−γh), c = cos(ωh), the new speed is e² v − (1 + e² − 2 e c) x / h.
 * Beyond critical damping the cosine is a hyperbolic one.
 */
export function springSpeed(x: number, v: number, stiffness: number, damping: number, mass: number, h: number): number {
	const gamma = damping / (2 * mass);
	const squared = stiffness / mass - gamma * gamma;
	const e = exp(-gamma * h);
	const root = Math.sqrt(Math.abs(squared));
	const both = squared >= 0 ? 2 * e * cos(root * h) : exp((root - gamma) * h) + exp((-root - gamma) * h);
	return e * e * v - ((1 + e * e - both) * x) / h;
}

/** 1 / (mass that a point of a body seems to have along a direction), 1/kg; 0 for what does not move by itself. */
function lightness(run: Running, i: number, at: Vec3, direction: Vec3): number {
	if (!isFree(run, i)) return 0;
	const { scene, engine, before } = run;
	const { mass, centre, inertia } = rigidGroup(scene, engine, before, engine.carrier[i]!);
	const arm = vec3.cross(vec3.subtract(at, centre), direction);
	return 1 / mass + vec3.dot(arm, arm) / inertia;
}

/** Gives the ends of springs the impulses of the coming step. */
export function pullSprings(run: Running, { broken }: JointState): void {
	const { scene, engine, before } = run;
	const h = stepSeconds(scene);
	for (const [n, joint] of scene.joints.entries()) {
		if (joint.kind !== "spring" || broken[n] === 1) continue;
		if (![joint.a, joint.b].some((i) => i >= 0 && engine.moves(i))) continue;
		const [one, other] = [pointOf(scene, before, joint.a, joint.from), pointOf(scene, before, joint.b, joint.to)];
		const apart = vec3.subtract(other.at, one.at);
		const speed = vec3.subtract(other.velocity, one.velocity);
		const { stiffness = 0, damping = 0, acts = "along" } = joint.options;
		const pull = (axis: Vec3, stretch: number, share: number) => {
			const lightest = lightness(run, joint.a, one.at, axis) + lightness(run, joint.b, other.at, axis);
			if (lightest === 0 || share === 0) return;
			const v = vec3.dot(speed, axis);
			const impulse = (springSpeed(stretch, v, stiffness * share, damping * share, 1 / lightest, h) - v) / lightest;
			engine.addImpulse(joint.a, vec3.scale(axis, -impulse), one.at);
			if (joint.b >= 0) engine.addImpulse(joint.b, vec3.scale(axis, impulse), other.at);
		};
		if (acts === "along") {
			const length = vec3.length(apart);
			if (length > 0) pull(vec3.scale(apart, 1 / length), length - jointLength(joint), 1);
			continue;
		}
		// By axis: its own axes go with the first body.
		const turned = turnSince(scene, before, joint.a);
		const rest = vec3.subtract(joint.to, joint.from);
		const shares = [joint.options.shareX ?? 1, joint.options.shareY ?? 1, joint.options.shareZ ?? 1];
		for (let k = 0; k < 3; k++) {
			const own = rotate(joint.turn, AXES[k]!);
			const axis = rotate(turned, own);
			pull(axis, vec3.dot(apart, axis) - vec3.dot(rest, own), shares[k]!);
		}
		twist(run, joint, h);
	}
}

/** The spring against twisting the second body against the first, with a share for each of the connector's axes. */
function twist(run: Running, { a, b, turn, options }: Joint, h: number): void {
	const { turning: stiffness = 0, turnDamping: damping = 0 } = options;
	if (stiffness === 0 && damping === 0) return;
	const { scene, engine, before } = run;
	const [freeA, freeB] = [isFree(run, a), isFree(run, b)];
	const lightest = (freeA ? 1 / meanInertia(scene, a) : 0) + (freeB ? 1 / meanInertia(scene, b) : 0);
	if (lightest === 0) return;
	// Turn of b against a as a vector: twice the vector part, for the turns that springs allow.
	const relative = compose(turnSince(scene, before, b), inverse(turnSince(scene, before, a)));
	const sign = relative[3] < 0 ? -2 : 2;
	const angle: Vec3 = [sign * relative[0], sign * relative[1], sign * relative[2]];
	const speed = vec3.subtract(b < 0 ? vec3.ZERO : tripleAt(before.spin, b), a < 0 ? vec3.ZERO : tripleAt(before.spin, a));
	// The axes go with the first body.
	const turned = turnSince(scene, before, a);
	const shares = [options.turnX ?? 1, options.turnY ?? 1, options.turnZ ?? 1];
	let impulse: Vec3 = vec3.ZERO;
	for (let k = 0; k < 3; k++) {
		if (shares[k] === 0) continue;
		const axis = rotate(turned, rotate(turn, AXES[k]!));
		const v = vec3.dot(speed, axis);
		const next = springSpeed(vec3.dot(angle, axis), v, stiffness * shares[k]!, damping * shares[k]!, 1 / lightest, h);
		impulse = vec3.add(impulse, vec3.scale(axis, (next - v) / lightest));
	}
	if (freeA) engine.addTurn(a, vec3.scale(impulse, -1));
	if (freeB) engine.addTurn(b, impulse);
}
