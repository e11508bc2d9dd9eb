import { type Vec3, vec3 } from "../maths";
import { type Corner, overTriangle } from "./raster";
import type { FilmSun } from "./types";

const SIZE = 2048;
/** A surface does not shade itself: it is looked up so many texels towards the light and along its normal. */
const BIAS = 1.5;

export interface Shadows {
	/** Share of the sun that reaches a place on a surface with this normal, 0 to 1. */
	readonly lit: (x: number, y: number, z: number, nx: number, ny: number, nz: number) => number;
}

/**
 * What stands in the sun's way: the heights of all triangles over a plane across its rays (Williams 1978, "Casting
 * curved shadows on curved surfaces"), looked up at four places (Reeves et al. 1987).
 * `triangles`: 9 numbers each, world.
 */
export function castShadows({ direction }: FilmSun, triangles: readonly Float64Array[], middle: Vec3, radius: number): Shadows {
	const up = vec3.normalize(vec3.scale(direction, -1));
	const right = vec3.normalize(vec3.cross(Math.abs(up[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0], up));
	const ahead = vec3.cross(up, right);
	const texel = (2 * radius) / SIZE;
	const along = (axis: Vec3, x: number, y: number, z: number) =>
		axis[0] * (x - middle[0]) + axis[1] * (y - middle[1]) + axis[2] * (z - middle[2]);
	const heights = new Float32Array(SIZE * SIZE).fill(Number.NEGATIVE_INFINITY);
	const keep = (pixel: number, near: number) => {
		if (near > heights[pixel]!) heights[pixel] = near;
	};
	const corner = (t: Float64Array, at: number): Corner => ({
		x: along(right, t[at]!, t[at + 1]!, t[at + 2]!) / texel + SIZE / 2,
		y: along(ahead, t[at]!, t[at + 1]!, t[at + 2]!) / texel + SIZE / 2,
		near: along(up, t[at]!, t[at + 1]!, t[at + 2]!),
	});
	for (const own of triangles)
		for (let at = 0; at < own.length; at += 9) overTriangle([corner(own, at), corner(own, at + 3), corner(own, at + 6)], SIZE, SIZE, keep);
	return {
		lit(x, y, z, nx, ny, nz) {
			const [px, py, pz] = [x + BIAS * texel * nx, y + BIAS * texel * ny, z + BIAS * texel * nz];
			const u = along(right, px, py, pz) / texel + SIZE / 2 - 0.5;
			const v = along(ahead, px, py, pz) / texel + SIZE / 2 - 0.5;
			const height = along(up, px, py, pz) + BIAS * texel;
			const [column, row] = [Math.floor(u), Math.floor(v)];
			if (column < 0 || row < 0 || column + 1 >= SIZE || row + 1 >= SIZE) return 1;
			const at = row * SIZE + column;
			const [fu, fv] = [u - column, v - row];
			const upper = (heights[at]! > height ? 0 : 1 - fu) + (heights[at + 1]! > height ? 0 : fu);
			const lower = (heights[at + SIZE]! > height ? 0 : 1 - fu) + (heights[at + SIZE + 1]! > height ? 0 : fu);
			return (1 - fv) * upper + fv * lower;
		},
	};
}
