import { type Progress, report } from "../common";
import { type ConvexPlanes, convexPlanes, type Mesh, makeMesh, shells, triangleCount, uvMap } from "../mesh";
import { fromSolid, type Manifold, type Solids, scoped, toSolid } from "../solid";
import type { CarvedCell } from "./assemble";
import { type Cell, makeDomain, voronoiCells } from "./cells";
import type { Work } from "./crew";
import { planarUv, withPlanarInside } from "./planarUv";

/** Above this many planes a boolean per cell is cheaper than clipping each cell by all of them. */
const MOST_PLANES = 64;

/**
 * Cuts a closed mesh along the Voronoi cells of `points`.
 *
 * A convex source of few planes needs no booleans: its cells, clipped by its planes, are the pieces. For any other
 * the source is first cropped, eight ways at a time, to the boxes of groups of cells, until a group holds at most
 * 12 cells or its crop fewer than 400 triangles; then each cell is one small boolean. On a ball of 100,000
 * triangles in 500 pieces the crops take the time from 14.6 s (each cell against the whole) to 5.3 s; one boolean
 * with all cells at once fuses touching cells, and trimming by each plane of a cell is slower than either.
 */
export async function carve(solids: Solids, mesh: Mesh, points: Float64Array, gap: number, work: Work): Promise<CarvedCell[]> {
	const convex = convexPlanes(mesh, MOST_PLANES);
	const affine = convex && (mesh.uv.length === 0 || isAffine(mesh, convex));
	if (affine) return carveConvex(mesh, convex, points, gap, work);
	const { min, max } = roomAround(mesh);
	return carveCells(solids, mesh, [...voronoiCells(points, makeDomain(min, max), gap)], work);
}

async function carveConvex(mesh: Mesh, convex: ConvexPlanes, points: Float64Array, gap: number, progress: Progress): Promise<CarvedCell[]> {
	const { min, max } = roomAround(mesh);
	const domain = makeDomain(min, max, [...convex.planes]);
	const carved: CarvedCell[] = [];
	const total = points.length / 3;
	for (const cell of voronoiCells(points, domain, gap)) {
		const { mesh: part, face } = cellMesh(cell);
		const neighbour = face.map((f) => Math.max(-1, cell.neighbour[f]!));
		// A face of the source that was laid open before stays so. Domain planes: six of the box, then the source's.
		const inside = Uint8Array.from(face, (f) => {
			const beyond = cell.neighbour[f]!;
			return beyond >= 0 ? 1 : (mesh.inside[convex.triangle[-7 - beyond] ?? -1] ?? 0);
		});
		const tagged = { ...part, inside, neighbour };
		carved.push({ seed: cell.seed, parts: [mesh.uv.length > 0 ? { ...tagged, uv: planeUv(mesh, convex, tagged, cell, face) } : tagged] });
		if (cell.seed % 64 === 0) await report(progress, cell.seed / total, "Cutting");
	}
	return carved;
}

/** A cell as triangles (fans of its faces); `face` is each triangle's face. */
function cellMesh(cell: Cell): { mesh: Mesh; face: Int32Array } {
	const triangles: number[] = [];
	const face: number[] = [];
	for (let f = 0; f < cell.neighbour.length; f++) {
		const start = cell.faceStart[f]!;
		for (let l = start + 1; l + 1 < cell.faceStart[f + 1]!; l++) {
			triangles.push(cell.loops[start]!, cell.loops[l]!, cell.loops[l + 1]!);
			face.push(f);
		}
	}
	return { mesh: makeMesh(Float32Array.from(cell.vertices), triangles), face: Int32Array.from(face) };
}

/** Whether all triangles of each plane share one affine map from place to uv. */
function isAffine(mesh: Mesh, convex: ConvexPlanes): boolean {
	const { positions: p, triangles: t, uv } = mesh;
	for (let f = 0; f < triangleCount(mesh); f++) {
		const a = t[3 * f]! * 3;
		const plane = convex.triangle.findIndex((_, k) => {
			const n = convex.planes;
			return [0, 1, 2].every((c) => {
				const v = t[3 * f + c]! * 3;
				return (
					Math.abs(n[4 * k]! * p[v]! + n[4 * k + 1]! * p[v + 1]! + n[4 * k + 2]! * p[v + 2]! - n[4 * k + 3]!) < 1e-5 * (1 + Math.abs(p[a]!))
				);
			});
		});
		if (plane < 0) return false;
		const map = uvMap(mesh, convex.triangle[plane]!);
		for (let c = 0; c < 3; c++) {
			const v = t[3 * f + c]! * 3;
			const [u, w] = map(p[v]!, p[v + 1]!, p[v + 2]!);
			if (Math.abs(u - uv[6 * f + 2 * c]!) + Math.abs(w - uv[6 * f + 2 * c + 1]!) > 1e-4) return false;
		}
	}
	return true;
}

function planeUv(source: Mesh, convex: ConvexPlanes, part: Mesh, cell: Cell, face: Int32Array): Float32Array {
	const uv = planarUv(part);
	for (let f = 0; f < face.length; f++) {
		if (part.inside[f] === 1) continue;
		// Domain planes: six of the box, then the source's; the box lies a little outside and never shows.
		const plane = -1 - cell.neighbour[face[f]!]! - 6;
		const map = uvMap(source, convex.triangle[Math.max(0, plane)]!);
		for (let c = 0; c < 3; c++) {
			const v = part.triangles[3 * f + c]! * 3;
			uv.set(map(part.positions[v]!, part.positions[v + 1]!, part.positions[v + 2]!), 6 * f + 2 * c);
		}
	}
	return uv;
}

interface Carver {
	readonly solids: Solids;
	readonly cells: readonly Cell[];
	readonly boxes: readonly Float64Array[];
	readonly firstId: number;
	readonly walls: number;
	readonly margin: number;
	/** The source's tag and faces: what was laid open before stays so. */
	readonly sourceId: number;
	readonly source: Mesh;
	readonly carved: CarvedCell[];
	/** Cells of the whole work, of which these may be a part. */
	readonly progress: Progress;
}

const CELLS_PER_CROP = 12;
const TRIANGLES_PER_CROP = 400;
/** Below so many triangles times cells the way to other threads costs more than it saves. */
const WORTH_SHARING = 400_000;

/**
 * Cuts a closed mesh by convex cells of any kind. A face's `neighbour` comes back on every triangle of it; negative
 * ones are walls, which must lie outside the mesh. With a crew eight groups of cells are cut side by side; the bytes
 * are the same.
 */
export async function carveCells(solids: Solids, mesh: Mesh, cells: readonly Cell[], work: Work): Promise<CarvedCell[]> {
	let walls = 0;
	for (const { neighbour } of cells) for (const tag of neighbour) walls = Math.max(walls, tag + 1);
	const whole = { mesh, cells, walls, cropped: false };
	if (!work.crew || cells.length * triangleCount(mesh) < WORTH_SHARING || cells.length <= CELLS_PER_CROP)
		return carvePart(solids, whole, work);
	const groups = eighths(cells.map(cellBox), [...cells.keys()]);
	const parts = await work.crew.run(
		"carve",
		groups.map((group) => ({ ...whole, cells: group.map((c) => cells[c]!), cropped: true })),
		work,
	);
	return parts.flat().sort((a, b) => a.seed - b.seed);
}

export interface CarvePart {
	readonly mesh: Mesh;
	readonly cells: readonly Cell[];
	/** Tags of walls begin here. */
	readonly walls: number;
	/** These cells are one of several groups: the mesh is cropped to them first. */
	readonly cropped: boolean;
}

/** Cuts one group of cells. */
export async function carvePart(
	solids: Solids,
	{ mesh, cells, walls, cropped }: CarvePart,
	progress: Progress = {},
): Promise<CarvedCell[]> {
	const carver: Carver = {
		solids,
		cells,
		boxes: cells.map(cellBox),
		firstId: solids.Manifold.reserveIDs(cells.length),
		sourceId: solids.Manifold.reserveIDs(1),
		source: mesh,
		walls,
		margin: roomAround(mesh).margin,
		carved: [],
		progress,
	};
	const wasBroken = mesh.inside.length > 0;
	const faces = Uint32Array.from({ length: triangleCount(mesh) }, (_, f) => f);
	const source = toSolid(solids, mesh, wasBroken ? { id: carver.sourceId, faces } : undefined);
	try {
		await (cropped ? carveCropped : carveGroup)(carver, source, [...cells.keys()]);
	} finally {
		source.delete();
	}
	return carver.carved.sort((a, b) => a.seed - b.seed);
}

/** `local` is the source, cropped to (at least) the boxes of these cells. */
async function carveGroup(carver: Carver, local: Manifold, group: number[]): Promise<void> {
	if (local.isEmpty()) return;
	if (group.length <= CELLS_PER_CROP || local.numTri() < TRIANGLES_PER_CROP) {
		for (const c of group) {
			const parts = carveCell(carver, local, c);
			if (parts.length > 0) carver.carved.push({ seed: carver.cells[c]!.seed, parts });
		}
		await report(carver.progress, carver.carved.length / carver.cells.length, "Cutting");
		return;
	}
	for (const part of eighths(carver.boxes, group)) await carveCropped(carver, local, part);
}

async function carveCropped(carver: Carver, local: Manifold, part: number[]): Promise<void> {
	const box = new Float64Array([Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity]);
	for (const c of part)
		for (let k = 0; k < 3; k++) {
			box[k] = Math.min(box[k]!, carver.boxes[c]![k]!);
			box[k + 3] = Math.max(box[k + 3]!, carver.boxes[c]![k + 3]!);
		}
	const m = carver.margin;
	const crop = scoped((keep) => {
		const cube = keep(carver.solids.Manifold.cube([box[3]! - box[0]! + 2 * m, box[4]! - box[1]! + 2 * m, box[5]! - box[2]! + 2 * m]));
		return local.intersect(keep(cube.translate([box[0]! - m, box[1]! - m, box[2]! - m])));
	});
	try {
		await carveGroup(carver, crop, part);
	} finally {
		crop.delete();
	}
}

/** A group halved three times, each time at the middle of its longest extent. */
const eighths = (boxes: readonly Float64Array[], group: number[]): number[][] =>
	[0, 1, 2].reduce((parts) => parts.flatMap((part) => halves(boxes, part)), [group]);

/** Splits a group at the middle of its longest extent. */
function halves(boxes: readonly Float64Array[], group: number[]): number[][] {
	if (group.length < 2) return [group];
	const middle = (c: number, k: number) => boxes[c]![k]! + boxes[c]![k + 3]!;
	const extent = [0, 1, 2].map((k) => {
		const values = group.map((c) => middle(c, k));
		return Math.max(...values) - Math.min(...values);
	});
	const axis = extent.indexOf(Math.max(...extent));
	const sorted = [...group].sort((a, b) => middle(a, axis) - middle(b, axis) || a - b);
	return [sorted.slice(0, sorted.length >> 1), sorted.slice(sorted.length >> 1)];
}

function carveCell(carver: Carver, local: Manifold, index: number): Mesh[] {
	const cell = carver.cells[index]!;
	const { mesh, face } = cellMesh(cell);
	const id = carver.firstId + index;
	// Each face carries the neighbour's number; walls of the room carry numbers beyond all cells.
	const faces = Uint32Array.from(face, (f) => (cell.neighbour[f]! >= 0 ? cell.neighbour[f]! : carver.walls - 1 - cell.neighbour[f]!));
	const cutter = toSolid(carver.solids, mesh, { id, faces });
	const result = local.intersect(cutter);
	cutter.delete();
	if (result.isEmpty()) {
		result.delete();
		return [];
	}
	const triangles = result.numTri();
	const neighbour = new Int32Array(triangles).fill(-1);
	const inside = new Uint8Array(triangles);
	const raw = fromSolid(result, (triangle, from, beyond) => {
		if (from === carver.sourceId) {
			inside[triangle] = carver.source.inside[beyond] ?? 0;
			neighbour[triangle] = carver.source.neighbour[beyond] ?? -1;
		}
		if (from !== id) return;
		inside[triangle] = 1;
		if (beyond < carver.walls) neighbour[triangle] = beyond;
	});
	result.delete();
	const cut = { ...raw, inside, neighbour };
	return shells(raw.uv.length > 0 ? { ...cut, uv: withPlanarInside(cut) } : cut);
}

function cellBox(cell: Cell): Float64Array {
	const box = new Float64Array([Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity]);
	for (let v = 0; v < cell.vertices.length; v += 3)
		for (let k = 0; k < 3; k++) {
			box[k] = Math.min(box[k]!, cell.vertices[v + k]!);
			box[k + 3] = Math.max(box[k + 3]!, cell.vertices[v + k]!);
		}
	return box;
}

/** A box around the mesh, a little larger than it, so that its walls never coincide with the surface. */
export function roomAround({ positions: p }: Mesh) {
	const min: [number, number, number] = [Infinity, Infinity, Infinity];
	const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
	for (let v = 0; v < p.length; v += 3)
		for (let k = 0; k < 3; k++) {
			min[k] = Math.min(min[k]!, p[v + k]!);
			max[k] = Math.max(max[k]!, p[v + k]!);
		}
	const margin = 0.01 * Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2]);
	return { min: min.map((v) => v - margin) as typeof min, max: max.map((v) => v + margin) as typeof max, margin: 0.01 * margin };
}
