import { bad, good, type Outcome, type Progress, report } from "../common";
import { bounds, containment } from "../mesh";
import { assemble } from "./assemble";
import { carve } from "./carve";
import { defineMethod } from "./options";
import { scatterPoints } from "./points";
import type { FractureInput, Pieces } from "./types";

export interface VoronoiOptions {
	/** How many points; concave meshes may give more pieces, points outside fewer. */
	readonly count: number;
	readonly seed: number;
	readonly spread: "even" | "random";
	/** Metres between neighbours. */
	readonly gap: number;
	/** 3 per point, metres in the object's frame; instead of count, seed and spread. */
	readonly points?: readonly number[];
}

const MOST_PIECES = 50_000;

/** Breaks a closed mesh into the Voronoi cells of points spread in it. Volumes add up to the source's where there is no gap. */
export const voronoi = defineMethod<VoronoiOptions>({
	id: "voronoi",
	label: "Voronoi",
	help: "Random cells that fill the solid: stone, concrete, ice.",
	options: {
		count: {
			kind: "number",
			label: "Pieces",
			unit: "",
			default: 200,
			least: 2,
			most: MOST_PIECES,
			whole: true,
			help: "How many points are spread in the solid; each becomes a piece",
		},
		spread: {
			kind: "choice",
			label: "Spread",
			default: "even",
			choices: [
				{ id: "even", label: "Even", help: "Pieces of about one size" },
				{ id: "random", label: "Random", help: "Large and small pieces mixed" },
			],
			help: "How the points are spread in the solid",
		},
		gap: { kind: "number", label: "Gap", unit: "m", default: 0, least: 0, most: 10, help: "Room between neighbours; it takes volume away" },
		seed: {
			kind: "number",
			label: "Seed",
			unit: "",
			default: 7,
			least: 0,
			most: 999_999,
			whole: true,
			help: "Another number gives another break of the same kind",
		},
		points: { kind: "points", label: "Points", help: "Places of your own instead, one piece each" },
	},
	estimate: (triangles, options) => {
		const count = Number(options.count ?? 200);
		return triangles <= 64 ? count * 3e-4 : 0.3 + count * 1.2e-3 + triangles * 1.5e-5 + Math.sqrt(count * triangles) * 4e-4;
	},
	run: (input, options, progress) => breakIntoCells(input, options, progress),
});

async function breakIntoCells(
	{ solids, mesh, volume }: FractureInput,
	options: VoronoiOptions,
	progress: Progress,
): Promise<Outcome<Pieces>> {
	const { count, seed, spread, gap, points = [] } = options;
	if (points.length % 3 !== 0 || points.some((value) => !Number.isFinite(value)))
		return bad("Voronoi: every point needs three finite numbers.");
	const box = bounds(mesh);
	const least = Math.min(...[0, 1, 2].map((k) => box.max[k]! - box.min[k]!));
	if (gap < 0 || gap >= least) return bad(`Voronoi: a gap of ${gap * 1000} mm leaves nothing of a solid ${least * 1000} mm thin.`);
	await report(progress, 0, "Spreading points");
	const sites =
		points.length > 0 ? Float64Array.from(points) : scatterPoints({ count, seed, spread, bounds: box, contains: containment(mesh) });
	const carved = await carve(solids, mesh, sites, gap, {
		...progress,
		onProgress: (fraction, what) => progress.onProgress?.(0.95 * fraction, what),
	});
	await report(progress, 0.96, `Naming ${carved.length} pieces`);
	const result = assemble(carved, volume, "cell");
	if (result.pieces.length === 0)
		return bad("Voronoi: no piece was left; is the gap too wide for so many pieces, or do all points lie outside?");
	return good(result);
}
