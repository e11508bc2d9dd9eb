/// <reference path="./constrainautor.d.ts" />
import Constrainautor from "@kninnug/constrainautor";
import Delaunator from "delaunator";

type Point = readonly [number, number];

/**
 * Constrained Delaunay triangulation (Chew 1989) of the inside of loops. Edges are pairs of indices of points; inside
 * is what an odd number of them lies around. Triangles run counter-clockwise. Undefined where edges cross or points
 * coincide.
 */
export function triangulateLoops(points: readonly Point[], edges: readonly Point[]): [number, number, number][] | undefined {
	let mesh: Delaunator<Float64Array>;
	try {
		mesh = new Delaunator(Float64Array.from([...points, ...cornersAround(points)].flat()));
		new Constrainautor(mesh, edges);
	} catch {
		return undefined;
	}
	const { triangles, halfedges } = mesh;
	const all = points.length + 4;
	const rim = new Set(edges.map(([a, b]) => keyOf(a, b, all)));
	const next = (h: number) => (h % 3 === 2 ? h - 2 : h + 1);
	const isRim = (h: number) => rim.has(keyOf(triangles[h]!, triangles[next(h)]!, all));
	/** 0: outside, 1: inside, −1: not known yet. Each rim that is crossed changes sides, from outside on. */
	const side = new Int8Array(triangles.length / 3).fill(-1);
	const open: number[] = [];
	const settle = (triangle: number, value: number) => {
		if (side[triangle] !== -1) return;
		side[triangle] = value;
		open.push(triangle);
	};
	for (let h = 0; h < halfedges.length; h++) if (halfedges[h] === -1) settle(Math.floor(h / 3), isRim(h) ? 1 : 0);
	for (let triangle = open.pop(); triangle !== undefined; triangle = open.pop())
		for (let h = 3 * triangle; h < 3 * triangle + 3; h++)
			if (halfedges[h]! >= 0) settle(Math.floor(halfedges[h]! / 3), isRim(h) ? 1 - side[triangle]! : side[triangle]!);
	const inside: [number, number, number][] = [];
	for (let f = 0; f < side.length; f++) {
		if (side[f] !== 1) continue;
		const corners = [triangles[3 * f]!, triangles[3 * f + 1]!, triangles[3 * f + 2]!] as [number, number, number];
		const [a, b, c] = corners.map((i) => points[i]!) as [Point, Point, Point];
		const twice = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
		inside.push(twice >= 0 ? corners : [corners[0], corners[2], corners[1]]);
	}
	return inside;
}

/** Four places far outside: rows of points on a straight rim must not lie on the hull, where rounding would bend it. */
function cornersAround(points: readonly Point[]): Point[] {
	const low = [0, 1].map((k) => points.reduce((least, p) => Math.min(least, p[k]!), Infinity));
	const high = [0, 1].map((k) => points.reduce((most, p) => Math.max(most, p[k]!), -Infinity));
	const far = 4 * Math.max(high[0]! - low[0]!, high[1]! - low[1]!);
	return [
		[low[0]! - far, low[1]! - far],
		[high[0]! + far, low[1]! - far],
		[high[0]! + far, high[1]! + far],
		[low[0]! - far, high[1]! + far],
	];
}

const keyOf = (a: number, b: number, count: number): number => Math.min(a, b) * count + Math.max(a, b);
