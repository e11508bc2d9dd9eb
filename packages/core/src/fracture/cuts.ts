import { bad, good } from "../common";
import { arrange, type CutPlane } from "./arrange";
import { assemble } from "./assemble";
import { carveCells } from "./carve";
import { defineMethod } from "./options";
import { gapSpec } from "./specs";

const MOST_CUTS = 200;

export interface CutsOptions {
	/** 4 per cut: direction, and distance along it in metres of the object's frame. */
	readonly planes?: readonly number[];
	/** Metres. */
	readonly gap: number;
}

/** Straight cuts where they were drawn, through everything behind the line. */
export const cuts = defineMethod<CutsOptions>({
	id: "cuts",
	label: "Straight cuts",
	help: "Draw lines across it in the view; each cuts through everything behind it.",
	options: {
		planes: { kind: "planes", label: "Cuts", help: "Drawn across the object in the view" },
		gap: gapSpec,
	},
	estimate: (triangles, { planes }) => 0.05 + (Array.isArray(planes) ? planes.length / 4 : 0) * (2e-2 + triangles * 5e-6),
	run: async ({ solids, mesh, volume }, { planes = [], gap }, progress) => {
		if (planes.length % 4 !== 0 || planes.some((value) => !Number.isFinite(value)))
			return bad("Straight cuts: every cut needs four finite numbers, its direction and its distance.");
		if (planes.length / 4 > MOST_CUTS) return bad(`Straight cuts: the most is ${MOST_CUTS} cuts.`);
		const list: CutPlane[] = [];
		for (let i = 0; i < planes.length; i += 4) {
			const [x, y, z, d] = planes.slice(i, i + 4) as [number, number, number, number];
			const length = Math.sqrt(x * x + y * y + z * z);
			if (length < 1e-9) return bad(`Straight cuts: cut ${i / 4 + 1} has no direction.`);
			list.push({ normal: [x / length, y / length, z / length], offset: d / length });
		}
		const cells = arrange(mesh, list, gap);
		return good(assemble(await carveCells(solids, mesh, cells, progress), volume, "surface"));
	},
});
