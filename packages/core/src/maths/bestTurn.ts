import { cos, sin } from "./functions";
import { compose, IDENTITY, normalizeQuat, type Quat } from "./quaternion";
import type { Vec3 } from "./vector";

/** 3×3, column after column. */
export type Columns = readonly [Vec3, Vec3, Vec3];

const MOST_ROUNDS = 60;

/**
 * The rotation that is nearest to a linear map: it is turned towards the map's columns until nothing pulls any more
 * (Müller, Bender, Chentanez and Macklin 2016, "A robust method to extract the rotational part of deformations").
 * Never a mirroring one, whatever the map. `guess`: where to begin.
 */
export function bestTurn([a, b, c]: Columns, guess: Quat = IDENTITY): Quat {
	let q = guess;
	for (let round = 0; round < MOST_ROUNDS; round++) {
		const [x, y, z, w] = q;
		const r0: Vec3 = [1 - 2 * (y * y + z * z), 2 * (x * y + w * z), 2 * (x * z - w * y)];
		const r1: Vec3 = [2 * (x * y - w * z), 1 - 2 * (x * x + z * z), 2 * (y * z + w * x)];
		const r2: Vec3 = [2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x * x + y * y)];
		const pull = [0, 1, 2].map((k) => {
			const [i, j] = [(k + 1) % 3, (k + 2) % 3] as [0, 0];
			return r0[i] * a[j] - r0[j] * a[i] + r1[i] * b[j] - r1[j] * b[i] + r2[i] * c[j] - r2[j] * c[i];
		});
		const dot = [r0, r1, r2].reduce((sum, r, n) => sum + [a, b, c][n]!.reduce((all, v, k) => all + v * r[k]!, 0), 0);
		const size = Math.sqrt(pull.reduce((sum, v) => sum + v * v, 0));
		const angle = size / (Math.abs(dot) + 1e-12);
		if (size === 0 || angle < 1e-10) break;
		const s = sin(angle / 2) / size;
		q = normalizeQuat(compose([pull[0]! * s, pull[1]! * s, pull[2]! * s, cos(angle / 2)], q));
	}
	return q;
}
