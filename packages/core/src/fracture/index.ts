import { cobbles } from "./cobbles";
import { crack } from "./crack";
import { cuts } from "./cuts";
import { cutter } from "./cutter";
import { masonry } from "./masonry";
import { panelCells } from "./panelCells";
import { picture } from "./picture";
import { slices } from "./slices";
import { strokes } from "./strokes";
import type { FractureMethod } from "./types";
import { voronoi } from "./voronoi";

export { breakMesh } from "./break";
export { type Crew, type CrewInput, type CrewOutput, type CrewTask, doTask, type Work } from "./crew";
export { type Drawing, drawingToStrokes } from "./drawing";
export { INSIDE_OPTIONS, type InsideOptions, insideOptions, roughen } from "./inside";
export { nest } from "./nest";
export { openedMesh, openShare } from "./opening";
export { countNeighbours } from "./pieces";
export { planarUv } from "./planarUv";
export type { Contact, CrackTime, FractureMethod, Opening, Piece, Pieces } from "./types";

/** Every way to break, in the order of the bench. A new one is a file beside this and a line here. */
export const FRACTURE_METHODS: readonly FractureMethod[] = [
	voronoi,
	strokes,
	crack,
	slices,
	panelCells,
	cuts,
	cutter,
	masonry,
	picture,
	cobbles,
];

export const methodById = (id: string): FractureMethod | undefined => FRACTURE_METHODS.find((method) => method.id === id);
export { type Cell, makeDomain, voronoiCells } from "./cells";
export { clusterDensity, scatterPoints, squaredToLine } from "./points";
export { decodePieces, encodePieces, type PiecesShelf, shelfName } from "./shelf";
export { findSlivers } from "./slivers";
export { findStones, type Picture, type Stones, type StonesOptions } from "./stones";
