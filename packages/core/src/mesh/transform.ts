import { type Quat, rotate, type Vec3 } from "../maths";
import { flip } from "./orient";
import type { Mesh } from "./types";

/** Scale, then turn, then move. A mirroring scale also flips the triangles, so that outside stays outside. */
export function transformMesh(mesh: Mesh, { scale, rotation, translation }: { scale?: Vec3; rotation?: Quat; translation?: Vec3 }): Mesh {
	const positions = new Float32Array(mesh.positions.length);
	const [sx, sy, sz] = scale ?? [1, 1, 1];
	const [tx, ty, tz] = translation ?? [0, 0, 0];
	for (let i = 0; i < positions.length; i += 3) {
		let p: Vec3 = [mesh.positions[i]! * sx, mesh.positions[i + 1]! * sy, mesh.positions[i + 2]! * sz];
		if (rotation) p = rotate(rotation, p);
		positions[i] = p[0] + tx;
		positions[i + 1] = p[1] + ty;
		positions[i + 2] = p[2] + tz;
	}
	const moved = { ...mesh, positions };
	return sx * sy * sz < 0 ? flip(moved) : moved;
}
