import { bad, good, type Outcome } from "../common";
import { type Mesh, topology, volume } from "../mesh";
import { type OptionValues, optionDefaults, optionProblem } from "../shot";
import type { Solids } from "../solid";

import type { Work } from "./crew";
import { type SliverOptions, treatSlivers } from "./slivers";
import type { FractureInput, FractureMethod, Pieces } from "./types";

/** Breaks a mesh by a method. Whatever is wrong with the mesh or the options comes back as a sentence. */
export async function breakMesh(
	solids: Solids,
	mesh: Mesh,
	method: FractureMethod,
	wanted: OptionValues,
	{ cutters = [], places = [], pictures = [], ...work }: Work & Partial<Pick<FractureInput, "cutters" | "places" | "pictures">> = {},
): Promise<Outcome<Pieces>> {
	const options = { ...optionDefaults(method), ...wanted };
	const problem = optionProblem(method, options);
	if (problem) return bad(problem);
	const facts = topology(mesh);
	if (!facts.closed)
		return bad(
			`The mesh is not closed (${facts.openEdges} open, ${facts.crowdedEdges} crowded, ${facts.flippedEdges} flipped edges), so it has no inside to break. Repair it in Shape first.`,
		);
	const sourceVolume = volume(mesh);
	if (sourceVolume <= 0) return bad("The mesh is inside out. Turn its faces outwards in Shape first.");
	const broken = await method.run({ solids, mesh, volume: sourceVolume, cutters, places, pictures }, options, work);
	return broken.ok ? good(treatSlivers(solids, broken.value, options as unknown as SliverOptions)) : broken;
}
