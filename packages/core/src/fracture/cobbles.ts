import { bad, good, report } from "../common";
import { cubeRoot, vec3 } from "../maths";
import { bounds, boundsSize, containment, type Mesh } from "../mesh";
import type { Solids } from "../solid";
import { assemble } from "./assemble";
import { carve } from "./carve";
import type { Work } from "./crew";
import { defineMethod } from "./options";
import { centred, collect } from "./pieces";
import { scatterPoints } from "./points";
import { breakSeed } from "./specs";
import type { Piece } from "./types";
import { type Wear, wearStone } from "./wear";

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
		seed: breakSeed,
	},
	estimate: (triangles, { count }) => Number(count ?? 120) * 4e-3 + (triangles > 64 ? 0.3 + triangles * 1.5e-5 : 0),
	run: async ({ solids, mesh, volume }, { count, spread, edge, rounding, keep, seed }, work) => {
		const points = scatterPoints({ count, seed, spread, bounds: bounds(mesh), contains: containment(mesh) });
		const carved = await carve(solids, mesh, points, 0, {
			...work,
			onProgress: (fraction, what) => work.onProgress?.(0.4 * fraction, what),
		});
		const broken = assemble(carved, volume, "cell");
		const lengthOf = (piece: Piece) => (edge > 0 ? edge : cubeRoot(piece.volume) / 4);
		for (const piece of broken.pieces)
			if (Math.max(...boundsSize(bounds(piece.mesh))) / lengthOf(piece) > 200)
				return bad(`Rounded stones: a detail of ${lengthOf(piece) * 1000} mm is too fine for stones of this size. Take a larger one.`);
		const jobs = broken.pieces.map((piece) => ({ mesh: piece.mesh, length: lengthOf(piece), rounding, keep }));
		const later: Work = { ...work, onProgress: (fraction) => work.onProgress?.(0.4 + 0.6 * fraction, "Wearing stones round") };
		const stones = work.crew && jobs.length > FEW ? await work.crew.run("wear", jobs, later) : await wearAll(solids, jobs, later);
		const pieces = broken.pieces.flatMap((piece, i) => (stones[i] ? [placed(piece, stones[i])] : []));
		if (pieces.length === 0) return bad("Rounded stones: nothing was left. Take less rounding.");
		return good(collect(pieces, [], volume));
	},
});

/** So few stones are done before others have begun. */
const FEW = 24;

async function wearAll(solids: Solids, jobs: readonly Wear[], progress: Work): Promise<(Mesh | undefined)[]> {
	const stones: (Mesh | undefined)[] = [];
	for (const [i, job] of jobs.entries()) {
		stones.push(wearStone(solids, job));
		if (i % 16 === 0) await report(progress, i / jobs.length, "");
	}
	return stones;
}

/** The worn mesh (in the axes of the old piece, about its pivot) about a pivot of its own. */
function placed(piece: Piece, mesh: Mesh): Piece {
	const worn = centred(mesh);
	return { ...piece, ...worn, pivot: vec3.add(piece.pivot, worn.pivot) };
}
