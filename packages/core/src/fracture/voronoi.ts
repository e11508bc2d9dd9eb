import { bad, good, type Outcome, report } from "../common";
import { bounds, containment, type Mesh, transformMesh } from "../mesh";
import type { OptionValues } from "../shot";
import type { Solids } from "../solid";
import { assemble, type CarvedCell } from "./assemble";
import { carve } from "./carve";
import type { Work } from "./crew";
import { defineMethod } from "./options";
import { clusterDensity, type Spread, scatterPoints } from "./points";
import { axisSpec, breakSeed, gapSpec } from "./specs";
import type { FractureInput, Pieces } from "./types";

export interface VoronoiOptions {
	/** How many points; concave meshes may give more pieces, points outside fewer. */
	readonly count: number;
	readonly seed: number;
	readonly spread: Spread;
	/** 3 per point, metres: what the clustered spread is dense around, with `around` and `strokes`; the middle where there is none. */
	readonly centres?: readonly number[];
	readonly strokes?: readonly (readonly number[])[];
	/** Density by the distance from the nearest of them: metres, share. */
	readonly density: readonly number[];
	/** Cells are this many times longer along `axis` than across it. */
	readonly stretch: number;
	readonly axis: "x" | "y" | "z";
	/** Metres between neighbours. */
	readonly gap: number;
	/** 3 per point, metres in the object's frame; instead of count, seed and spread. */
	readonly points?: readonly number[];
}

const MOST_PIECES = 50_000;
const clustered = ({ spread }: OptionValues): boolean => spread === "clustered";

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
				{ id: "clustered", label: "Clustered", help: "Small pieces around places, large ones far from them" },
			],
			help: "How the points are spread in the solid",
		},
		centres: {
			kind: "points",
			label: "Around",
			help: "Places that it is dense around; the middle where there is nothing",
			when: clustered,
		},
		strokes: { kind: "strokes", label: "Along", help: "Lines that it is dense along", when: clustered },
		around: { kind: "places", label: "Beacons", help: "Beacons and other objects that it is dense around", when: clustered },
		density: {
			kind: "curve",
			label: "Density",
			default: [0, 1, 0.3, 0.5, 0.8, 0.1, 2, 0.025],
			across: { label: "Distance", unit: "m" },
			least: 0,
			most: 1,
			percent: true,
			help: "How dense the pieces are by the distance from the nearest place; rising, they are sparse there",
			when: clustered,
		},
		stretch: {
			kind: "number",
			label: "Stretch",
			unit: "×",
			default: 1,
			least: 0.05,
			most: 20,
			help: "Pieces this many times longer along an axis: splinters of wood, columns of basalt",
		},
		axis: { ...axisSpec, label: "Along", help: "The axis of the stretch", when: ({ stretch }) => stretch !== 1 },
		gap: gapSpec,
		seed: breakSeed,
		points: { kind: "points", label: "Points", help: "Places of your own instead, one piece each" },
	},
	estimate: (triangles, options) => {
		const count = Number(options.count ?? 200);
		return triangles <= 64 ? count * 3e-4 : 0.3 + count * 1.2e-3 + triangles * 1.5e-5 + Math.sqrt(count * triangles) * 4e-4;
	},
	run: (input, options, progress) => breakIntoCells(input, options, progress),
});

async function breakIntoCells(
	{ solids, mesh, volume, places }: FractureInput,
	options: VoronoiOptions,
	progress: Work,
): Promise<Outcome<Pieces>> {
	const { count, seed, spread, gap, points = [] } = options;
	if (points.length % 3 !== 0 || points.some((value) => !Number.isFinite(value)))
		return bad("Voronoi: every point needs three finite numbers.");
	const box = bounds(mesh);
	const least = Math.min(...[0, 1, 2].map((k) => box.max[k]! - box.min[k]!));
	if (gap < 0 || gap >= least) return bad(`Voronoi: a gap of ${gap * 1000} mm leaves nothing of a solid ${least * 1000} mm thin.`);
	await report(progress, 0, "Spreading points");
	const lines = options.strokes ?? [];
	const named = [...(options.centres ?? []), ...places];
	const around = named.length + lines.length > 0 ? named : [0, 1, 2].map((k) => (box.min[k]! + box.max[k]!) / 2);
	const sites =
		points.length > 0
			? Float64Array.from(points)
			: scatterPoints({
					count,
					seed,
					spread,
					bounds: box,
					contains: containment(mesh),
					density: clusterDensity(around, lines, options.density),
				});
	const shrink = [1, 1, 1] as [number, number, number];
	shrink["xyz".indexOf(options.axis)] = 1 / options.stretch;
	const carved = await carveStretched(solids, mesh, sites, gap, shrink, {
		...progress,
		onProgress: (fraction, what) => progress.onProgress?.(0.95 * fraction, what),
	});
	await report(progress, 0.96, `Naming ${carved.length} pieces`);
	const result = assemble(carved, volume, "cell");
	if (result.pieces.length === 0)
		return bad("Voronoi: no piece was left; is the gap too wide for so many pieces, or do all points lie outside?");
	return good(result);
}

/** Cells of a mesh that is shrunk along an axis are, once grown again, stretched along it. */
async function carveStretched(
	solids: Solids,
	mesh: Mesh,
	sites: Float64Array,
	gap: number,
	shrink: readonly [number, number, number],
	progress: Work,
): Promise<CarvedCell[]> {
	if (shrink.every((s) => s === 1)) return carve(solids, mesh, sites, gap, progress);
	const small = transformMesh(mesh, { scale: shrink });
	const carved = await carve(
		solids,
		small,
		sites.map((value, i) => value * shrink[i % 3]!),
		gap,
		progress,
	);
	const grow = shrink.map((s) => 1 / s) as [number, number, number];
	return carved.map((cell) => ({ ...cell, parts: cell.parts.map((part) => transformMesh(part, { scale: grow })) }));
}
