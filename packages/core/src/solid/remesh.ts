import { bounds, type Mesh, topology } from "../mesh";
import { fromSolid, type Solids } from "./solids";

/** More grid points than this are refused; 300³ take about 110 MB and several seconds. */
const MOST_POINTS = 300 ** 3;

/**
 * A new closed surface around whatever the mesh encloses, holes and crossings or not.
 *
 * A grid point is inside where most of the three axis-parallel lines through it say so (counts with a vote: Nooruddin & Turk 2003,
 * "Simplification and Repair of Polygonal Models Using Volumetric Techniques"); a line through a hole is outvoted by the other two.
 * Where all faces look the same way round, a line goes by how often it has entered more than left, so that what lies in two
 * parts of a surface that passes through itself is inside; else by whether it has crossed an odd number of faces. Within a band of two voxels the
 * distance to the triangles is exact, so that the surface lies where the old one did. Contoured by the solids
 * library, whose level sets are closed by construction.
 *
 * `voxel`: grid spacing in metres. Throws a RangeError above the largest grid.
 */
export function remesh(solids: Solids, mesh: Mesh, voxel: number): Mesh {
	const grid = makeGrid(mesh, voxel);
	voteInside(grid, mesh);
	measureDistance(grid, mesh);
	const { origin, size, values } = grid;
	const [nx, ny] = size;
	const sample = (x: number, y: number, z: number): number => {
		const fx = Math.min(Math.max((x - origin[0]) / voxel, 0), nx - 1.001);
		const fy = Math.min(Math.max((y - origin[1]) / voxel, 0), ny - 1.001);
		const fz = Math.min(Math.max((z - origin[2]) / voxel, 0), size[2] - 1.001);
		const i = Math.floor(fx);
		const j = Math.floor(fy);
		const k = Math.floor(fz);
		const u = fx - i;
		const v = fy - j;
		const w = fz - k;
		const at = i + nx * (j + ny * k);
		const up = nx * ny;
		const near = (values[at]! * (1 - u) + values[at + 1]! * u) * (1 - v) + (values[at + nx]! * (1 - u) + values[at + nx + 1]! * u) * v;
		const far =
			(values[at + up]! * (1 - u) + values[at + up + 1]! * u) * (1 - v) +
			(values[at + up + nx]! * (1 - u) + values[at + up + nx + 1]! * u) * v;
		return near * (1 - w) + far * w;
	};
	const high = [0, 1, 2].map((a) => origin[a]! + (size[a]! - 1) * voxel) as [number, number, number];
	const surface = solids.Manifold.levelSet(
		(p) => sample(p[0], p[1], p[2]),
		{ min: [...origin] as [number, number, number], max: high },
		voxel,
	);
	const parts = surface.decompose();
	surface.delete();
	if (parts.length === 0) throw new RangeError("remesh: the mesh encloses nothing at this voxel size; try a smaller one");
	// Crumbs that come from a torn surface are not kept.
	const largest = Math.max(...parts.map((part) => part.volume()));
	const kept = parts.filter((part) => part.volume() > 1e-4 * largest);
	const whole = solids.Manifold.compose(kept);
	const result = fromSolid(whole);
	for (const part of [...parts, whole]) part.delete();
	return result;
}

interface Grid {
	readonly origin: readonly [number, number, number];
	readonly voxel: number;
	readonly size: readonly [number, number, number];
	/** Signed distance in metres, positive inside; x runs fastest. */
	readonly values: Float32Array;
}

function makeGrid(mesh: Mesh, voxel: number): Grid {
	if (!(voxel > 0)) throw new RangeError("remesh: the voxel size must be above zero");
	const box = bounds(mesh);
	const margin = 3;
	const size = [0, 1, 2].map((a) => Math.ceil((box.max[a]! - box.min[a]!) / voxel) + 2 * margin + 1) as [number, number, number];
	if (size[0] * size[1] * size[2] > MOST_POINTS)
		throw new RangeError(`remesh: ${voxel * 1000} mm voxels would need ${size.join(" × ")} points; use a larger voxel`);
	const origin = box.min.map((v) => v - margin * voxel) as [number, number, number];
	return { origin, voxel, size, values: new Float32Array(size[0] * size[1] * size[2]) };
}

/** Sets the sign of every value to the vote of the three axes (+1 inside, −1 outside). */
function voteInside(grid: Grid, mesh: Mesh): void {
	const votes = new Uint8Array(grid.values.length);
	const oriented = topology(mesh).flippedEdges === 0;
	for (let axis = 0; axis < 3; axis++) castLines(grid, mesh, axis, oriented, votes);
	for (let i = 0; i < votes.length; i++) grid.values[i] = votes[i]! >= 2 ? 1 : -1;
}

/** One vote for each grid point that the lines along an axis find inside. */
function castLines({ origin, voxel, size }: Grid, mesh: Mesh, axis: number, oriented: boolean, votes: Uint8Array): void {
	const [u, v] = axis === 0 ? [1, 2] : axis === 1 ? [2, 0] : [0, 1];
	const stride = [1, size[0], size[0] * size[1]];
	const crossings: { readonly at: number; readonly enters: 1 | -1 }[][] = Array.from({ length: size[u]! * size[v]! }, () => []);
	const { positions: p, triangles: t } = mesh;
	// Lines are shifted by an odd fraction of a voxel, so that they miss vertices and edges.
	const shiftU = voxel * 1.234e-4;
	const shiftV = voxel * 2.718e-4;
	for (let f = 0; f < t.length; f += 3) {
		const a = t[f]! * 3;
		const b = t[f + 1]! * 3;
		const c = t[f + 2]! * 3;
		const au = p[a + u]!;
		const av = p[a + v]!;
		const bu = p[b + u]!;
		const bv = p[b + v]!;
		const cu = p[c + u]!;
		const cv = p[c + v]!;
		const det = (bu - au) * (cv - av) - (bv - av) * (cu - au);
		if (det === 0) continue;
		const u0 = Math.ceil((Math.min(au, bu, cu) - origin[u]! - shiftU) / voxel);
		const u1 = Math.floor((Math.max(au, bu, cu) - origin[u]! - shiftU) / voxel);
		const v0 = Math.ceil((Math.min(av, bv, cv) - origin[v]! - shiftV) / voxel);
		const v1 = Math.floor((Math.max(av, bv, cv) - origin[v]! - shiftV) / voxel);
		for (let j = v0; j <= v1; j++)
			for (let i = u0; i <= u1; i++) {
				const x = origin[u]! + i * voxel + shiftU;
				const y = origin[v]! + j * voxel + shiftV;
				const s = ((x - au) * (cv - av) - (y - av) * (cu - au)) / det;
				const r = ((bu - au) * (y - av) - (bv - av) * (x - au)) / det;
				if (s < 0 || r < 0 || s + r > 1) continue;
				const at = p[a + axis]! + s * (p[b + axis]! - p[a + axis]!) + r * (p[c + axis]! - p[a + axis]!);
				crossings[i + size[u]! * j]!.push({ at, enters: det < 0 ? 1 : -1 });
			}
	}
	for (let j = 0; j < size[v]!; j++)
		for (let i = 0; i < size[u]!; i++) {
			const line = crossings[i + size[u]! * j]!;
			if (line.length === 0) continue;
			line.sort((x, y) => x.at - y.at);
			// What does not leave as often as it enters runs through a hole: it cannot tell, and does not vote.
			if (oriented ? line.reduce((sum, { enters }) => sum + enters, 0) !== 0 : line.length % 2 === 1) continue;
			let depth = 0;
			for (let n = 0; n + 1 < line.length; n++) {
				depth = oriented ? depth + line[n]!.enters : 1 - depth;
				if (depth === 0) continue;
				const from = Math.ceil((line[n]!.at - origin[axis]!) / voxel);
				const to = Math.floor((line[n + 1]!.at - origin[axis]!) / voxel);
				for (let k = from; k <= to; k++) votes[i * stride[u]! + j * stride[v]! + k * stride[axis]!]!++;
			}
		}
}

/** Replaces ±1 by the exact distance near the surface, and by the band's width beyond. */
function measureDistance({ origin, voxel, size, values }: Grid, mesh: Mesh): void {
	const band = 2;
	const squared = new Float32Array(values.length).fill((band * voxel) ** 2);
	const { positions: p, triangles: t } = mesh;
	for (let f = 0; f < t.length; f += 3) {
		const corners = [t[f]! * 3, t[f + 1]! * 3, t[f + 2]! * 3] as const;
		const low = [0, 1, 2].map((a) => Math.max(0, Math.floor((Math.min(...corners.map((c) => p[c + a]!)) - origin[a]!) / voxel) - band + 1));
		const high = [0, 1, 2].map((a) =>
			Math.min(size[a]! - 1, Math.ceil((Math.max(...corners.map((c) => p[c + a]!)) - origin[a]!) / voxel) + band - 1),
		);
		for (let k = low[2]!; k <= high[2]!; k++)
			for (let j = low[1]!; j <= high[1]!; j++)
				for (let i = low[0]!; i <= high[0]!; i++) {
					const at = i + size[0] * (j + size[1] * k);
					const d = pointTriangle(p, corners, origin[0] + i * voxel, origin[1] + j * voxel, origin[2] + k * voxel);
					if (d < squared[at]!) squared[at] = d;
				}
	}
	for (let i = 0; i < values.length; i++) values[i] = Math.sign(values[i]!) * Math.sqrt(squared[i]!);
}

/** Squared distance from a point to a triangle (Ericson, Real-Time Collision Detection, §5.1.5). */
function pointTriangle(p: Float32Array, [a, b, c]: readonly [number, number, number], x: number, y: number, z: number): number {
	const abx = p[b]! - p[a]!;
	const aby = p[b + 1]! - p[a + 1]!;
	const abz = p[b + 2]! - p[a + 2]!;
	const acx = p[c]! - p[a]!;
	const acy = p[c + 1]! - p[a + 1]!;
	const acz = p[c + 2]! - p[a + 2]!;
	const apx = x - p[a]!;
	const apy = y - p[a + 1]!;
	const apz = z - p[a + 2]!;
	const d1 = abx * apx + aby * apy + abz * apz;
	const d2 = acx * apx + acy * apy + acz * apz;
	let s = 0;
	let r = 0;
	const bpx = x - p[b]!;
	const bpy = y - p[b + 1]!;
	const bpz = z - p[b + 2]!;
	const d3 = abx * bpx + aby * bpy + abz * bpz;
	const d4 = acx * bpx + acy * bpy + acz * bpz;
	const cpx = x - p[c]!;
	const cpy = y - p[c + 1]!;
	const cpz = z - p[c + 2]!;
	const d5 = abx * cpx + aby * cpy + abz * cpz;
	const d6 = acx * cpx + acy * cpy + acz * cpz;
	const vc = d1 * d4 - d3 * d2;
	const vb = d5 * d2 - d1 * d6;
	const va = d3 * d6 - d5 * d4;
	if (d1 <= 0 && d2 <= 0) {
		s = 0;
	} else if (d3 >= 0 && d4 <= d3) {
		s = 1;
	} else if (vc <= 0 && d1 >= 0 && d3 <= 0) {
		s = d1 / (d1 - d3);
	} else if (d6 >= 0 && d5 <= d6) {
		r = 1;
	} else if (vb <= 0 && d2 >= 0 && d6 <= 0) {
		r = d2 / (d2 - d6);
	} else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
		r = (d4 - d3) / (d4 - d3 + (d5 - d6));
		s = 1 - r;
	} else {
		const sum = va + vb + vc;
		s = vb / sum;
		r = vc / sum;
	}
	const dx = apx - s * abx - r * acx;
	const dy = apy - s * aby - r * acy;
	const dz = apz - s * abz - r * acz;
	return dx * dx + dy * dy + dz * dz;
}
