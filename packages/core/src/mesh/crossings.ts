import { bounds, boundsSize, diagonal } from "./measure";
import type { Mesh } from "./types";

// Looking them up in the global object is most of the time where that is a proxy, as under test runners.
const { abs, ceil, floor, max: most, min: least, round, sqrt } = Math;

/** Surfaces that reach through each other by less, as a share of the mesh's diagonal, only touch: vertices are single precision. */
const TOUCH = 1e-6;
/** Along each side of the grid that triangles are sorted into, at most. */
const MOST_CELLS = 96;
/** Triangles in a cell that the surface goes through, about. */
const PER_CELL = 4;

/**
 * How many pairs of triangles of one shell pass through each other: an edge of one goes through the inside of the other. 0 for a
 * surface that only touches itself. `shellOf`: per triangle, see `topology`; pairs of two shells do not count, they overlap.
 *
 * Triangles are sorted into a uniform grid with a few of them in each cell that the surface goes through, so that the time grows with
 * their number as long as they are of about one size: see “Looking a mesh over” in docs/performance.md.
 */
export function selfCrossings(mesh: Mesh, shellOf: Int32Array): number {
	const { triangles: t } = mesh;
	const touch = TOUCH * diagonal(mesh);
	const boxes = boxesOf(mesh, touch);
	const { start, members, firstShared } = sortIntoGrid(mesh, boxes);
	let crossings = 0;
	for (let cell = 0; cell + 1 < start.length; cell++)
		for (let i = start[cell]!; i < start[cell + 1]!; i++) {
			const a = members[i]!;
			for (let j = i + 1; j < start[cell + 1]!; j++) {
				const b = members[j]!;
				if (shellOf[a] !== shellOf[b] || !meet(boxes, a, b) || firstShared(a, b) !== cell || sharesEdge(t, a, b)) continue;
				if (crosses(mesh, a, b, touch) || crosses(mesh, b, a, touch)) crossings++;
			}
		}
	return crossings;
}

/** Lowest and highest corner of each triangle, 6 numbers, metres; larger by `more` on all sides. */
function boxesOf({ positions: p, triangles: t }: Mesh, more: number): Float64Array {
	const boxes = new Float64Array(2 * t.length);
	for (let f = 0; f < t.length; f += 3)
		for (let axis = 0; axis < 3; axis++) {
			const a = p[3 * t[f]! + axis]!;
			const b = p[3 * t[f + 1]! + axis]!;
			const c = p[3 * t[f + 2]! + axis]!;
			boxes[2 * f + axis] = least(a, b, c) - more;
			boxes[2 * f + 3 + axis] = most(a, b, c) + more;
		}
	return boxes;
}

const meet = (boxes: Float64Array, a: number, b: number): boolean =>
	boxes[6 * a]! <= boxes[6 * b + 3]! &&
	boxes[6 * b]! <= boxes[6 * a + 3]! &&
	boxes[6 * a + 1]! <= boxes[6 * b + 4]! &&
	boxes[6 * b + 1]! <= boxes[6 * a + 4]! &&
	boxes[6 * a + 2]! <= boxes[6 * b + 5]! &&
	boxes[6 * b + 2]! <= boxes[6 * a + 5]!;

/** Neighbours across an edge can lie on each other, but not pass through each other. */
function sharesEdge(t: Uint32Array, a: number, b: number): boolean {
	let shared = 0;
	for (let i = 3 * a; i < 3 * a + 3; i++) if (t[i] === t[3 * b] || t[i] === t[3 * b + 1] || t[i] === t[3 * b + 2]) shared++;
	return shared > 1;
}

interface Grid {
	/** Per cell, where its triangles begin in `members`; one more entry than there are cells. */
	readonly start: Uint32Array;
	/** Triangles whose boxes reach into the cell. */
	readonly members: Uint32Array;
	/** The first of the cells that two triangles whose boxes meet are both in: there alone the pair is looked at. */
	readonly firstShared: (a: number, b: number) => number;
}

function sortIntoGrid(mesh: Mesh, boxes: Float64Array): Grid {
	const count = boxes.length / 6;
	const { min, max } = bounds(mesh);
	const size = boundsSize({ min, max });
	const side = most(1, least(MOST_CELLS, round(sqrt(count / PER_CELL))));
	const edge = most(...size) / side || 1;
	const cells = size.map((s) => most(1, ceil(s / edge)));
	const [nx, ny, nz] = cells as [number, number, number];
	const cellOf = (value: number, axis: number) => least(cells[axis]! - 1, most(0, floor((value - min[axis]!) / edge)));
	const each = (visit: (cell: number, triangle: number) => void) => {
		for (let f = 0; f < count; f++) {
			const x0 = cellOf(boxes[6 * f]!, 0);
			const x1 = cellOf(boxes[6 * f + 3]!, 0);
			const y1 = cellOf(boxes[6 * f + 4]!, 1);
			const z1 = cellOf(boxes[6 * f + 5]!, 2);
			for (let z = cellOf(boxes[6 * f + 2]!, 2); z <= z1; z++)
				for (let y = cellOf(boxes[6 * f + 1]!, 1); y <= y1; y++) for (let x = x0; x <= x1; x++) visit(x + nx * (y + ny * z), f);
		}
	};
	const start = new Uint32Array(nx * ny * nz + 1);
	each((cell) => {
		start[cell + 1]!++;
	});
	for (let cell = 0; cell + 1 < start.length; cell++) start[cell + 1]! += start[cell]!;
	const members = new Uint32Array(start[start.length - 1]!);
	const next = start.slice();
	each((cell, triangle) => {
		members[next[cell]!++] = triangle;
	});
	const firstShared = (a: number, b: number): number =>
		cellOf(most(boxes[6 * a]!, boxes[6 * b]!), 0) +
		nx * (cellOf(most(boxes[6 * a + 1]!, boxes[6 * b + 1]!), 1) + ny * cellOf(most(boxes[6 * a + 2]!, boxes[6 * b + 2]!), 2));
	return { start, members, firstShared };
}

/** Whether an edge of `a` goes through the inside of `b`, by more than `touch` to all sides. */
function crosses({ positions: p, triangles: t }: Mesh, a: number, b: number, touch: number): boolean {
	const o = 3 * t[3 * b]!;
	const u = 3 * t[3 * b + 1]!;
	const v = 3 * t[3 * b + 2]!;
	const ux = p[u]! - p[o]!;
	const uy = p[u + 1]! - p[o + 1]!;
	const uz = p[u + 2]! - p[o + 2]!;
	const vx = p[v]! - p[o]!;
	const vy = p[v + 1]! - p[o + 1]!;
	const vz = p[v + 2]! - p[o + 2]!;
	const nx = uy * vz - uz * vy;
	const ny = uz * vx - ux * vz;
	const nz = ux * vy - uy * vx;
	const area = sqrt(nx * nx + ny * ny + nz * nz);
	if (area === 0) return false;
	const level = nx * p[o]! + ny * p[o + 1]! + nz * p[o + 2]!;
	for (let k = 0; k < 3; k++) {
		const from = 3 * t[3 * a + k]!;
		const to = 3 * t[3 * a + (k === 2 ? 0 : k + 1)]!;
		const low = (nx * p[from]! + ny * p[from + 1]! + nz * p[from + 2]! - level) / area;
		const high = (nx * p[to]! + ny * p[to + 1]! + nz * p[to + 2]! - level) / area;
		// Ends that both triangles share lie in the plane.
		if (!(least(low, high) < -touch && most(low, high) > touch)) continue;
		const s = low / (low - high);
		const x = p[from]! + s * (p[to]! - p[from]!) - p[o]!;
		const y = p[from + 1]! + s * (p[to + 1]! - p[from + 1]!) - p[o + 1]!;
		const z = p[from + 2]! + s * (p[to + 2]! - p[from + 2]!) - p[o + 2]!;
		// Barycentric: the share of each corner is how far the point is from the side across it.
		const r1 = (nx * (y * vz - z * vy) + ny * (z * vx - x * vz) + nz * (x * vy - y * vx)) / (area * area);
		const r2 = (nx * (uy * z - uz * y) + ny * (uz * x - ux * z) + nz * (ux * y - uy * x)) / (area * area);
		const margin = (touch * most(abs(ux) + abs(uy) + abs(uz), abs(vx) + abs(vy) + abs(vz))) / area;
		if (r1 > margin && r2 > margin && 1 - r1 - r2 > margin) return true;
	}
	return false;
}
