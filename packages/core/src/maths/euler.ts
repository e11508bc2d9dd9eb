import { acos, atan2 } from "./functions";
import type { Quat } from "./quaternion";
import type { Vec3 } from "./vector";

/** Turns about x, then y, then z of the world, in radians: the inverse of `fromEuler`, y within a quarter turn. */
export function toEuler([x, y, z, w]: Quat): Vec3 {
	const down = Math.min(1, Math.max(-1, 2 * (w * y - x * z)));
	// Upright: x and z turn alike, so all of it is z.
	if (Math.abs(down) > 1 - 1e-12) return [0, (Math.sign(down) * Math.PI) / 2, -2 * Math.sign(down) * atan2(x, w)];
	return [
		atan2(2 * (y * z + w * x), 1 - 2 * (x * x + y * y)),
		Math.PI / 2 - acos(down),
		atan2(2 * (x * y + w * z), 1 - 2 * (y * y + z * z)),
	];
}

/** Of all turns that come to the same, those nearest to others: curves through them have no flips. Radians. */
export function eulerNear(rotation: Quat, near: Vec3): Vec3 {
	const [x, y, z] = toEuler(rotation);
	const options: readonly Vec3[] = [
		[x, y, z],
		[x + Math.PI, Math.PI - y, z + Math.PI],
	];
	const close = options.map(
		(turns) => turns.map((turn, k) => turn + 2 * Math.PI * Math.round((near[k]! - turn) / (2 * Math.PI))) as unknown as Vec3,
	);
	const far = (turns: Vec3) => turns.reduce((sum, turn, k) => sum + (turn - near[k]!) ** 2, 0);
	return far(close[0]!) <= far(close[1]!) ? close[0]! : close[1]!;
}
