import { angularVelocityBetween, rotate, type Vec3, vec3 } from "../maths";
import { type ShotSettings, TICKS_PER_SECOND, type Ticks } from "../shot";
import type { Pose } from "./evaluate";

/** m/s of the centre of mass, and rad/s. */
export interface Speed {
	readonly velocity: Vec3;
	readonly spin: Vec3;
}

/** How something goes from one pose to another in so many seconds; `centre` is the point (in its own frame, m) whose velocity is meant. */
export function speedBetween(a: Pose, b: Pose, centre: Vec3, seconds: number): Speed {
	const [from, to] = [a, b].map(({ translation, rotation }) => vec3.add(translation, rotate(rotation, centre))) as [Vec3, Vec3];
	return {
		velocity: vec3.scale(vec3.subtract(to, from), 1 / seconds),
		spin: angularVelocityBetween(a.rotation, b.rotation, seconds),
	};
}

/** The speed at a tick of what goes by keys: over the step that ends there, in simulated seconds. */
export function speedAt(
	{ stepsPerSecond, timeScale }: Pick<ShotSettings, "stepsPerSecond" | "timeScale">,
	poseAt: (tick: Ticks) => Pose,
	centre: Vec3,
	tick: Ticks,
): Speed {
	const step = TICKS_PER_SECOND / stepsPerSecond;
	// At the first frame keys have no past: what they are about to do counts.
	const [from, to] = tick >= step ? [tick - step, tick] : [tick, tick + step];
	return speedBetween(poseAt(from), poseAt(to), centre, timeScale / stepsPerSecond);
}
