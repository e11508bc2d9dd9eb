import { atOnce } from "../common";
import { bestTurn, inverse, type Quat, rotate, type Vec3, vec3 } from "../maths";
import { bounds, boundsSize, type Mesh, meanPoint, solid } from "../mesh";
import type { Solids } from "../solid";
import type { PartsOptions } from "./collider";
import { decompose, halveHull } from "./decompose";

/**
 * The collider of something that bends or grows by keys: convex hulls, each of which follows its patch of the surface.
 * It moves as the best rigid fit to the patch, so that it pushes with the patch's speed, and its points are those of
 * the patch, so that it is where the patch is. What is left out is the speed of stretching within a patch; patches
 * are split until that is small.
 */
export interface Patches {
	readonly count: number;
	/** Volume of all hulls at rest against the real one: 0.03 = 3 % too much. */
	readonly error: number;
	/** Where the patches stand when the surface is this, in the body's frame. */
	readonly fit: (mesh: Mesh) => PatchPose[];
}

export interface PatchPose {
	readonly translation: Vec3;
	readonly rotation: Quat;
	/** 3 per point, in the patch's own frame, metres. */
	readonly points: Float32Array;
}

/** A patch is split while it strays farther from a rigid motion than this share of the body's extent. */
const STRAY = 0.001;

/** `rest`: the surface to split; `states`: what it becomes, with the same triangles. */
export function makePatches(solids: Solids, rest: Mesh, states: readonly Mesh[], options: PartsOptions): Patches {
	const limit = STRAY * Math.max(...boundsSize(bounds(rest)));
	const parts = atOnce(decompose(solids, rest, options));
	// Splitting a hull in two leaves the sum.
	const error = parts.reduce((sum, part) => sum + part.volume, 0) / solid(rest).volume - 1;
	let patches = parts.map(({ points }) => measured(rest, states, points));
	while (patches.length < options.mostHulls) {
		const worst = patches.reduce((a, b) => (b.strays > a.strays ? b : a));
		if (worst.strays <= limit) break;
		const options = ([0, 1, 2] as const).flatMap((axis) => {
			const halves = halveHull(solids, worst.points, axis)?.map((points) => measured(rest, states, points));
			return halves ? [{ halves, strays: halves.reduce((sum, half) => sum + half.strays, 0) }] : [];
		});
		if (options.length === 0) {
			worst.strays = 0; // cannot be split: do not try again
			continue;
		}
		const best = options.reduce((a, b) => (b.strays < a.strays ? b : a));
		patches = [...patches.filter((patch) => patch !== worst), ...best.halves];
	}
	return { count: patches.length, error, fit: (mesh) => patches.map(({ points, follow }) => rigidFit(points, follow(mesh))) };
}

interface Measured {
	/** At rest. */
	readonly points: Float32Array;
	readonly follow: (mesh: Mesh) => Float32Array;
	/** The farthest that a point lies from a rigid motion of the patch, metres. */
	strays: number;
}

function measured(rest: Mesh, states: readonly Mesh[], points: Float32Array): Measured {
	const follow = follower(rest, points);
	let strays = 0;
	for (const state of states) {
		const pose = rigidFit(points, follow(state));
		const home = meanPoint(points);
		for (let v = 0; v < points.length; v += 3) {
			const was: Vec3 = [points[v]! - home[0], points[v + 1]! - home[1], points[v + 2]! - home[2]];
			const now: Vec3 = [pose.points[v]!, pose.points[v + 1]!, pose.points[v + 2]!];
			strays = Math.max(strays, vec3.length(vec3.subtract(now, was)));
		}
	}
	return { points, follow, strays };
}

/** The rigid motion nearest to what has become of points, and the points in its frame. */
function rigidFit(rest: Float32Array, now: Float32Array): PatchPose {
	const [from, to] = [meanPoint(rest), meanPoint(now)];
	const columns: [number, number, number][] = [
		[0, 0, 0],
		[0, 0, 0],
		[0, 0, 0],
	];
	for (let v = 0; v < rest.length; v += 3)
		for (let c = 0; c < 3; c++) for (let r = 0; r < 3; r++) columns[c]![r]! += (now[v + r]! - to[r]!) * (rest[v + c]! - from[c]!);
	const rotation = bestTurn([columns[0]!, columns[1]!, columns[2]!]);
	const back = inverse(rotation);
	const points = new Float32Array(now.length);
	for (let v = 0; v < now.length; v += 3) points.set(rotate(back, [now[v]! - to[0], now[v + 1]! - to[1], now[v + 2]! - to[2]]), v);
	return { translation: to, rotation, points };
}

/** Where points of a surface go when its vertices do: each keeps its place in the triangle that it is nearest to. */
function follower(mesh: Mesh, points: Float32Array): (mesh: Mesh) => Float32Array {
	const count = points.length / 3;
	const corners = new Uint32Array(3 * count);
	const weights = new Float64Array(3 * count);
	const { positions: p, triangles: t } = mesh;
	const at = (v: number): Vec3 => [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!];
	for (let i = 0; i < count; i++) {
		const point: Vec3 = [points[3 * i]!, points[3 * i + 1]!, points[3 * i + 2]!];
		let least = Number.POSITIVE_INFINITY;
		for (let f = 0; f < t.length; f += 3) {
			const [a, b, c] = [t[f]!, t[f + 1]!, t[f + 2]!];
			const near = nearestInTriangle(point, at(a), at(b), at(c));
			if (near.squared >= least) continue;
			least = near.squared;
			corners.set([a, b, c], 3 * i);
			weights.set(near.weights, 3 * i);
			if (least === 0) break;
		}
	}
	return ({ positions }) => {
		const moved = new Float32Array(points.length);
		for (let i = 0; i < count; i++)
			for (let k = 0; k < 3; k++)
				moved[3 * i + k] =
					weights[3 * i]! * positions[3 * corners[3 * i]! + k]! +
					weights[3 * i + 1]! * positions[3 * corners[3 * i + 1]! + k]! +
					weights[3 * i + 2]! * positions[3 * corners[3 * i + 2]! + k]!;
		return moved;
	};
}

/** Ericson 2004, "Real-Time Collision Detection", §5.1.5: the nearest place in a triangle, as weights of its corners. */
function nearestInTriangle(p: Vec3, a: Vec3, b: Vec3, c: Vec3): { weights: Vec3; squared: number } {
	const [ab, ac] = [vec3.subtract(b, a), vec3.subtract(c, a)];
	const found = (weights: Vec3) => {
		const place = vec3.add(vec3.add(vec3.scale(a, weights[0]), vec3.scale(b, weights[1])), vec3.scale(c, weights[2]));
		const off = vec3.subtract(p, place);
		return { weights, squared: vec3.dot(off, off) };
	};
	const ap = vec3.subtract(p, a);
	const [d1, d2] = [vec3.dot(ab, ap), vec3.dot(ac, ap)];
	if (d1 <= 0 && d2 <= 0) return found([1, 0, 0]);
	const bp = vec3.subtract(p, b);
	const [d3, d4] = [vec3.dot(ab, bp), vec3.dot(ac, bp)];
	if (d3 >= 0 && d4 <= d3) return found([0, 1, 0]);
	const vc = d1 * d4 - d3 * d2;
	if (vc <= 0 && d1 >= 0 && d3 <= 0) return found([1 - d1 / (d1 - d3), d1 / (d1 - d3), 0]);
	const cp = vec3.subtract(p, c);
	const [d5, d6] = [vec3.dot(ab, cp), vec3.dot(ac, cp)];
	if (d6 >= 0 && d5 <= d6) return found([0, 0, 1]);
	const vb = d5 * d2 - d1 * d6;
	if (vb <= 0 && d2 >= 0 && d6 <= 0) return found([1 - d2 / (d2 - d6), 0, d2 / (d2 - d6)]);
	const va = d3 * d6 - d5 * d4;
	if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
		const w = (d4 - d3) / (d4 - d3 + d5 - d6);
		return found([0, 1 - w, w]);
	}
	const sum = va + vb + vc;
	return sum > 0 ? found([1 - vb / sum - vc / sum, vb / sum, vc / sum]) : found([1, 0, 0]);
}
