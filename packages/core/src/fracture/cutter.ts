import { bad, good, report } from "../common";
import type { Mesh } from "../mesh";
import { fromSolid, type Solids, scoped, toSolid } from "../solid";
import { assemble } from "./assemble";
import { partByKnife } from "./knife";
import { defineMethod } from "./options";

/** Other objects part this one into what lies inside them and what lies outside. */
export const cutter = defineMethod<{ readonly keep: "both" | "inside" | "outside" }>({
	id: "cutter",
	label: "Cutter",
	help: "Other objects, laid into it, cut out their shape; both sides stay solid.",
	options: {
		cutters: { kind: "objects", label: "Cutters", help: "The objects that cut; several are united first" },
		keep: {
			kind: "choice",
			label: "Keep",
			default: "both",
			choices: [
				{ id: "both", label: "Both", help: "What lies inside and what lies outside" },
				{ id: "outside", label: "Outside", help: "Only what is left" },
				{ id: "inside", label: "Inside", help: "Only what was cut out" },
			],
			help: "Which side stays",
		},
	},
	estimate: (triangles) => 0.2 + triangles * 2e-5,
	run: async ({ solids, mesh, volume, cutters }, { keep }, progress) => {
		if (cutters.length === 0) return bad("Cutter: choose at least one other object that cuts.");
		await report(progress, 0.1, "Uniting the cutters");
		const parted = partByKnife(solids, mesh, unite(solids, cutters));
		if (!parted) return bad("Cutter: the cutters do not pass through it. Move one so that it lies partly inside.");
		// Every connected part is a piece of its own.
		const cells = (["outside", "inside"] as const)
			.filter((side) => keep === "both" || keep === side)
			.flatMap((group) => parted[group].map((part, n) => ({ seed: n, group, parts: [part] })));
		return good(assemble(cells, volume, "surface"));
	},
});

const unite = (solids: Solids, meshes: readonly Mesh[]): Mesh =>
	scoped((hold) => {
		const parts = meshes.map((mesh) => hold(toSolid(solids, { ...mesh, uv: new Float32Array(0) })));
		return fromSolid(hold(solids.Manifold.union(parts)));
	});
