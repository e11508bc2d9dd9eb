import { tripleAt, type Vec3, vec3 } from "../maths";
import { type Mesh, makeMesh } from "../mesh";
import type { Shape } from "./types";

const side = (label: string, size: number) =>
	({ label, unit: "m", default: size, least: 0.0005, most: 10_000, help: `${label} in metres` }) as const;

export const box: Shape = {
	id: "box",
	label: "Box",
	help: "A block with six flat sides, with bevelled edges where wanted.",
	parameters: {
		width: side("Width", 1),
		height: side("Height", 1),
		depth: side("Depth", 1),
		bevel: { ...side("Bevel", 0), least: 0, addsFaces: true, help: "How far its edges are cut off" },
	},
	problem: ({ width, height, depth, bevel }) =>
		2 * bevel! >= Math.min(width!, height!, depth!) ? "The bevel must be less than half of the shortest side." : undefined,
	build: ({ width, height, depth, bevel }) =>
		bevel! > 0 ? bevelledMesh([width!, height!, depth!], bevel!) : boxMesh(width!, height!, depth!),
};

/** A thin slab that stands upright: the way panes and boards are used. */
export const panel: Shape = {
	id: "panel",
	label: "Panel",
	help: "A thin upright slab, such as a pane or a board.",
	parameters: {
		width: side("Width", 1.2),
		height: side("Height", 1.6),
		thickness: { ...side("Thickness", 0.004), help: "Glass panes are 3 to 10 mm thick" },
	},
	build: ({ width, height, thickness }) => boxMesh(width!, height!, thickness!),
};

/** Corners around each side, and the axes along which they lie in it; corner k has +x where bit 0 is set, +y where bit 1, +z where bit 2. */
const SIDES = [
	[4, 5, 7, 6, 0, 1],
	[1, 0, 2, 3, 0, 1],
	[5, 1, 3, 7, 2, 1],
	[0, 4, 6, 2, 2, 1],
	[6, 7, 3, 2, 0, 2],
	[0, 1, 5, 4, 0, 2],
] as const;

/** UVs run over each side in metres. */
function boxMesh(width: number, height: number, depth: number): Mesh {
	const positions = new Float32Array(24);
	for (let k = 0; k < 8; k++) {
		positions[3 * k] = k & 1 ? width / 2 : -width / 2;
		positions[3 * k + 1] = k & 2 ? height / 2 : -height / 2;
		positions[3 * k + 2] = k & 4 ? depth / 2 : -depth / 2;
	}
	const triangles: number[] = [];
	const uv: number[] = [];
	const size = [width, height, depth];
	for (const [a, b, c, d, along, up] of SIDES) {
		const [u, v] = [size[along]!, size[up]!];
		triangles.push(a, b, c, a, c, d);
		uv.push(0, 0, u, 0, u, v, 0, 0, u, v, 0, v);
	}
	return makeMesh(positions, triangles, { uv: Float32Array.from(uv) });
}

/** Each corner as three points, one in each of its sides; a strip along each edge, a triangle at each corner. */
function bevelledMesh(size: readonly [number, number, number], bevel: number): Mesh {
	const positions = new Float32Array(72);
	const point = (corner: number, axis: number): number => 3 * corner + axis;
	for (let corner = 0; corner < 8; corner++)
		for (let axis = 0; axis < 3; axis++)
			for (let k = 0; k < 3; k++)
				positions[3 * point(corner, axis) + k] = (corner & (1 << k) ? 1 : -1) * (size[k]! / 2 - (k === axis ? 0 : bevel));
	const triangles: number[] = [];
	const uv: number[] = [];
	const add = (corners: readonly number[], places: readonly (readonly [number, number])[]): void => {
		const [a, b, c] = corners.map((v) => tripleAt(positions, v)) as [Vec3, Vec3, Vec3];
		// The middle of the box is behind every face.
		const outwards = vec3.dot(vec3.cross(vec3.subtract(b, a), vec3.subtract(c, a)), a) > 0;
		for (let k = 1; k + 1 < corners.length; k++)
			for (const at of outwards ? [0, k, k + 1] : [0, k + 1, k]) {
				triangles.push(corners[at]!);
				uv.push(...places[at]!);
			}
	};
	for (const [a, b, c, d, along, up] of SIDES) {
		const [u, v] = [size[along]! - bevel, size[up]! - bevel];
		const across = 3 - along - up;
		add(
			[a, b, c, d].map((corner) => point(corner, across)),
			[
				[bevel, bevel],
				[u, bevel],
				[u, v],
				[bevel, v],
			],
		);
	}
	const wide = Math.SQRT2 * bevel;
	for (let axis = 0; axis < 3; axis++)
		for (let corner = 0; corner < 8; corner++) {
			if (corner & (1 << axis)) continue;
			const [e, f] = [(axis + 1) % 3, (axis + 2) % 3];
			const end = corner | (1 << axis);
			add(
				[point(corner, e), point(end, e), point(end, f), point(corner, f)],
				[
					[bevel, 0],
					[size[axis]! - bevel, 0],
					[size[axis]! - bevel, wide],
					[bevel, wide],
				],
			);
		}
	for (let corner = 0; corner < 8; corner++)
		add(
			[point(corner, 0), point(corner, 1), point(corner, 2)],
			[
				[0, 0],
				[wide, 0],
				[wide / 2, (Math.sqrt(3) / 2) * wide],
			],
		);
	return makeMesh(positions, triangles, { uv: Float32Array.from(uv) });
}
