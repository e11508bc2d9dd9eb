import type { Body } from "../bodies";
import { crumbledAt, type FrameStore, lostAt, POSE_STRIDE } from "../cache";
import type { Vec3 } from "../maths";
import { type Bounds, reach } from "../mesh";

/**
 * The box in which all stays that moves by itself in a take, over all stored frames: each body counts as the ball that holds
 * it however it is turned, until it has crumbled or fallen out of the scene. World, metres; undefined where nothing moves by
 * itself. `bodies`: those of the take's own shot.
 */
export function motionBounds(
	bodies: readonly Body[],
	takeBodies: readonly { readonly id: string }[],
	store: FrameStore,
): Bounds | undefined {
	const movers = new Map(bodies.filter(({ settings }) => settings.kind === "active").map((body) => [body.id, body]));
	const gone = [crumbledAt(store), lostAt(store)];
	const min = [Infinity, Infinity, Infinity];
	const max = [-Infinity, -Infinity, -Infinity];
	takeBodies.forEach(({ id }, i) => {
		const body = movers.get(id);
		if (!body) return;
		const radius = reach(body.mesh) * body.scale;
		const end = Math.min(...gone.map((at) => at.get(i) ?? Infinity));
		for (const { firstFrame, frames, poses } of store.chunks)
			for (let n = 0; n < frames && firstFrame + n < end; n++)
				for (let axis = 0; axis < 3; axis++) {
					const at = poses[(n * store.bodies + i) * POSE_STRIDE + axis]!;
					min[axis] = Math.min(min[axis]!, at - radius);
					max[axis] = Math.max(max[axis]!, at + radius);
				}
	});
	return min[0]! <= max[0]! ? { min: min as unknown as Vec3, max: max as unknown as Vec3 } : undefined;
}
