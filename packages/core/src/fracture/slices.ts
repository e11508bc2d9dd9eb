import { bad, good } from "../common";
import { cos, random, sin, type Vec3 } from "../maths";
import { bounds } from "../mesh";
import { arrange, type CutPlane } from "./arrange";
import { assemble } from "./assemble";
import { carveCells } from "./carve";
import { defineMethod } from "./options";
import { axisSpec, breakSeed, gapSpec, shareSpec } from "./specs";

const MOST_SLICES = 2000;

export interface SlicesOptions {
	readonly axis: "x" | "y" | "z";
	readonly count: number;
	/** Metres from cut to cut; 0: by count. */
	readonly spacing: number;
	/** Share of the distance, 0 to 1. */
	readonly jitter: number;
	/** Degrees. */
	readonly tilt: number;
	/** Metres. */
	readonly gap: number;
	readonly seed: number;
}

/** Parallel cuts across an axis: slabs of slate, planks, sawn ice. */
export const slices = defineMethod<SlicesOptions>({
	id: "slices",
	label: "Slices",
	help: "Parallel cuts, by number or by distance: slabs, planks, layers.",
	options: {
		axis: axisSpec,
		count: {
			kind: "number",
			label: "Slices",
			unit: "",
			default: 8,
			least: 2,
			most: MOST_SLICES,
			whole: true,
			help: "How many slabs; where a distance is given it decides instead",
		},
		spacing: {
			kind: "number",
			label: "Distance",
			unit: "m",
			default: 0,
			least: 0,
			most: 10_000,
			help: "From cut to cut; 0 goes by the number of slices",
		},
		jitter: shareSpec("Jitter", 0, "How far cuts wander, as a share of their distance"),
		tilt: { kind: "number", label: "Tilt", unit: "°", default: 0, least: 0, most: 45, help: "How far cuts lean at most, each its own way" },
		gap: gapSpec,
		seed: breakSeed,
	},
	estimate: (triangles, { count = 8 }) => 0.05 + Number(count) * (1e-3 + triangles * 2e-6),
	run: async ({ solids, mesh, volume }, { axis, count, spacing, jitter, tilt, gap, seed }, progress) => {
		const k = "xyz".indexOf(axis);
		const { min, max } = bounds(mesh);
		const length = max[k]! - min[k]!;
		const number = spacing > 0 ? Math.ceil(length / spacing) : count;
		if (number > MOST_SLICES)
			return bad(
				`Slices: ${number.toLocaleString("en")} slices would be made; the most is ${MOST_SLICES.toLocaleString("en")}. Take a larger distance.`,
			);
		const step = spacing > 0 ? spacing : length / number;
		if (gap >= step) return bad(`Slices: a gap of ${gap * 1000} mm leaves nothing of slices ${step * 1000} mm apart.`);
		const middle = [0, 1, 2].map((a) => (min[a]! + max[a]!) / 2) as unknown as Vec3;
		const planes = Array.from({ length: number - 1 }, (_, i): CutPlane => {
			const at = min[k]! + step * (i + 1 + jitter * (random(seed, i, 0) - 0.5));
			const lean = (tilt * Math.PI * random(seed, i, 1)) / 180;
			const turn = 2 * Math.PI * random(seed, i, 2);
			const normal = [0, 0, 0] as [number, number, number];
			normal[k] = cos(lean);
			normal[(k + 1) % 3] = sin(lean) * cos(turn);
			normal[(k + 2) % 3] = sin(lean) * sin(turn);
			const through = [...middle] as [number, number, number];
			through[k] = at;
			return { normal, offset: normal[0] * through[0] + normal[1] * through[1] + normal[2] * through[2] };
		});
		const cells = arrange(mesh, planes, gap);
		return good(assemble(await carveCells(solids, mesh, cells, progress), volume, "surface"));
	},
});
