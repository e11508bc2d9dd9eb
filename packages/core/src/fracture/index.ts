import type { FractureMethod } from "./types";
import { voronoi } from "./voronoi";

export { optionDefaults, optionProblem } from "./options";
export type { Contact, FractureMethod, FractureOptions, OptionSpec, Piece, Pieces } from "./types";
export { VORONOI_DEFAULTS, type VoronoiOptions } from "./voronoi";

/** Every way to break, in the order of the bench. A new one is a file beside this and a line here. */
export const FRACTURE_METHODS: readonly FractureMethod[] = [voronoi];

export const methodById = (id: string): FractureMethod | undefined => FRACTURE_METHODS.find((method) => method.id === id);
export { type Cell, makeDomain, voronoiCells } from "./cells";
export { scatterPoints } from "./points";
