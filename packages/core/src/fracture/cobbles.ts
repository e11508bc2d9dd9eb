import { bad, good, report } from "../common";
import { cubeRoot, vec3 } from "../maths";
import { bounds, boundsSize, containment, convexPlanes, type Mesh, volume as volumeOf } from "../mesh";
import { fromSolid, type Solids, scoped, toSolid } from "../solid";
import { assemble } from "./assemble";
import { carve } from "./carve";
import { defineMethod } from "./options";
import { centred, collect } from "./pieces";
import { scatterPoints } from "./points";
import { seedSpec } from "./specs";
import type { Piece } from "./types";

export interface CobblesOptions {
	readonly count: number;
	readonly spread: "even" | "random";
	/** Edge length of the rounded mesh, metres; 0: a quarter of a stone. */
	readonly edge: number;
	/** How often corners are worn down. */
	readonly rounding: number;
	/** Share of the triangles that stay, 0 to 1. */
	readonly keep: number;
	readonly seed: number;
}

/**
 * Rounded stones: Voronoi pieces whose surface is made finer, worn down, and made coarser again. Each vertex moves to
 * the mean of its neighbours, again and again (the umbrella operator of Taubin 1995, "A signal processing approach to
 * fair surface design"), which only ever takes from a convex piece, so that stones that touched part.
 */
export const cobbles = defineMethod<CobblesOptions>({
	id: "cobbles",
	label: "Rounded stones",
	help: "Pieces worn round, so that they part: cobbles, shingle, boulders.",
	options: {
		count: {
			kind: "number",
			label: "Stones",
			unit: "",
			default: 120,
			least: 2,
			most: 10_000,
			whole: true,
			help: "How many stones fill the solid",
		},
		spread: {
			kind: "choice",
			label: "Spread",
			default: "even",
			choices: [
				{ id: "even", label: "Even", help: "Stones of about one size" },
				{ id: "random", label: "Random", help: "Large and small stones mixed" },
			],
			help: "How the stones are spread in the solid",
		},
		edge: {
			kind: "number",
			label: "Detail",
			unit: "m",
			default: 0,
			least: 0,
			most: 100,
			help: "Edge length of the rounded mesh; 0 takes a quarter of a stone",
		},
		rounding: {
			kind: "number",
			label: "Rounding",
			unit: "times",
			default: 3,
			least: 1,
			most: 60,
			whole: true,
			help: "How often corners are worn down",
		},
		keep: {
			kind: "number",
			label: "Keep",
			unit: "",
			default: 0.5,
			least: 0.05,
			most: 1,
			percent: true,
			help: "Share of the triangles that stay; fewer run faster",
		},
		seed: seedSpec,
	},
	estimate: (triangles, { count }) => Number(count ?? 120) * 4e-3 + (triangles > 64 ? 0.3 + triangles * 1.5e-5 : 0),
	run: async ({ solids, mesh, volume }, { count, spread, edge, rounding, keep, seed }, progress) => {
		const points = scatterPoints({ count, seed, spread, bounds: bounds(mesh), contains: containment(mesh) });
		const carved = await carve(solids, mesh, points, 0, {
			...progress,
			onProgress: (fraction, what) => progress.onProgress?.(0.4 * fraction, what),
		});
		const broken = assemble(carved, volume, "cell");
		const pieces: Piece[] = [];
		for (const [i, piece] of broken.pieces.entries()) {
			const length = edge > 0 ? edge : cubeRoot(piece.volume) / 4;
			if (Math.max(...boundsSize(bounds(piece.mesh))) / length > 200)
				return bad(`Rounded stones: a detail of ${length * 1000} mm is too fine for stones of this size. Take a larger one.`);
			const stone = wear(solids, piece.mesh, length, rounding, keep);
			if (stone) pieces.push(placed(piece, stone));
			if (i % 16 === 0) await report(progress, 0.4 + (0.6 * i) / broken.pieces.length, "Wearing stones round");
		}
		if (pieces.length === 0) return bad("Rounded stones: nothing was left. Take less rounding.");
		return good(collect(pieces, [], volume));
	},
});

/** Pieces of more planes are treated as concave. */
const MOST_PLANES = 64;

/** A piece worn round, within the piece; undefined where nothing is left of it. */
function wear(solids: Solids, mesh: Mesh, length: number, rounding: number, keep: number): Mesh | undefined {
	return scoped((hold) => {
		const piece = hold(toSolid(solids, { ...mesh, uv: new Float32Array(0) }));
		const fine = fromSolid(hold(piece.refineToLength(length)));
		let positions = fine.positions;
		for (let round = 0; round < rounding; round++) positions = relax(fine, positions);
		let stone = hold(toSolid(solids, { ...fine, positions }));
		// A concave piece may bulge where it was hollow.
		if (!convexPlanes(mesh, MOST_PLANES) && hold(piece.hull()).volume() > 1.001 * piece.volume()) stone = hold(stone.intersect(piece));
		if (stone.isEmpty()) return undefined;
		const full = stone.numTri();
		// The tolerance is doubled until few enough triangles are left.
		let coarse = stone;
		for (let tolerance = 0.01 * length; coarse.numTri() > keep * full && tolerance < length; tolerance *= 2)
			coarse = hold(stone.simplify(tolerance));
		const worn = fromSolid(coarse);
		if (worn.triangles.length === 0 || volumeOf(worn) <= 0) return undefined;
		return {
			...worn,
			inside: new Uint8Array(worn.triangles.length / 3).fill(1),
			neighbour: new Int32Array(worn.triangles.length / 3).fill(-1),
		};
	});
}

/** Every vertex moved to the mean of its neighbours. */
function relax({ triangles }: Mesh, positions: Float32Array): Float32Array {
	const sums = new Float64Array(positions.length);
	const counts = new Int32Array(positions.length / 3);
	for (let c = 0; c < triangles.length; c++) {
		// Each edge is met once from each side: the next corner of this triangle.
		const from = triangles[c]!;
		const to = triangles[c - (c % 3) + ((c + 1) % 3)]!;
		for (let k = 0; k < 3; k++) sums[3 * from + k]! += positions[3 * to + k]!;
		counts[from]!++;
	}
	return Float32Array.from(sums, (sum, i) => sum / counts[Math.floor(i / 3)]!);
}

/** The worn mesh (in the axes of the old piece, about its pivot) about a pivot of its own. */
function placed(piece: Piece, mesh: Mesh): Piece {
	const worn = centred(mesh);
	return { ...piece, ...worn, pivot: vec3.add(piece.pivot, worn.pivot) };
}
