import { bad, good, report } from "../common";
import { type Mesh, shells } from "../mesh";
import { fromSolid, type Manifold, type Solids, scoped, toSolid } from "../solid";
import { assemble, type CarvedCell } from "./assemble";
import { defineMethod } from "./options";
import { withPlanarInside } from "./planarUv";

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
		const id = solids.Manifold.reserveIDs(1);
		const carved = scoped((hold): CarvedCell[] | undefined => {
			const source = hold(toSolid(solids, mesh));
			const united = hold(uniteCutters(solids, cutters, hold));
			// A fresh mesh of the union: its triangles get numbers of their own, the same on both sides of the cut.
			const whole = fromSolid(united);
			const faces = Uint32Array.from({ length: whole.triangles.length / 3 }, (_, f) => f);
			const knife = hold(toSolid(solids, { ...whole, uv: new Float32Array(0) }, { id, faces }));
			const inside = hold(source.intersect(knife));
			const outside = hold(source.subtract(knife));
			if (inside.isEmpty() || outside.isEmpty()) return undefined;
			return [
				...(keep === "inside" ? [] : [{ seed: 0, group: "outside", parts: tagged(outside, id) }]),
				...(keep === "outside" ? [] : [{ seed: 1, group: "inside", parts: tagged(inside, id) }]),
			];
		});
		if (!carved) return bad("Cutter: the cutters do not pass through it. Move one so that it lies partly inside.");
		// Every connected part is a piece of its own.
		const cells = carved.flatMap(({ group, parts }) => parts.map((part, n) => ({ seed: n, group: group!, parts: [part] })));
		return good(assemble(cells, volume, "surface"));
	},
});

function uniteCutters(solids: Solids, cutters: readonly Mesh[], hold: <M extends Manifold>(solid: M) => M): Manifold {
	const parts = cutters.map((cutter) => hold(toSolid(solids, { ...cutter, uv: new Float32Array(0) })));
	return solids.Manifold.union(parts);
}

/** The connected parts of one side, with the faces that the knife made tagged by its triangles. Largest first. */
function tagged(side: Manifold, id: number): Mesh[] {
	const triangles = side.numTri();
	const neighbour = new Int32Array(triangles).fill(-1);
	const inside = new Uint8Array(triangles);
	const raw = fromSolid(side, (triangle, from, face) => {
		if (from !== id) return;
		inside[triangle] = 1;
		neighbour[triangle] = face;
	});
	const cut = { ...raw, inside, neighbour };
	return shells(raw.uv.length > 0 ? { ...cut, uv: withPlanarInside(cut) } : cut);
}
