import type { ExportItem } from "./types";

/** What gives a surface its colours, where it is not the material alone: a picture, or a gradient's colours on the mesh itself. */
export type Dress = Uint8Array | "gradient" | undefined;

/** A gradient stands before pictures, as in the view. */
export const dressOf = ({ colourAt, picture, insidePicture }: ExportItem, inside: boolean): Dress =>
	colourAt ? "gradient" : inside ? insidePicture : picture;
