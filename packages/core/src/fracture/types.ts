import type { Outcome, Progress } from "../common";
import type { Vec3 } from "../maths";
import type { Mesh } from "../mesh";
import type { OptionSpec, OptionValues } from "../shot";
import type { Solids } from "../solid";
import type { Picture } from "./stones";

/** One solid part that a fracture made. */
export interface Piece {
	/** `17`, or `17.2` for the second connected part of cell 17: stable for the same set-up. */
	readonly key: string;
	/** `00017`, `00017b` */
	readonly name: string;
	/** In the axes of the source object, about the pivot; metres. */
	readonly mesh: Mesh;
	/** The piece's centroid in the frame of the source object. */
	readonly pivot: Vec3;
	/** m³ and m² */
	readonly volume: number;
	readonly area: number;
}

/** A face that two pieces share. */
export interface Contact {
	/** Indices of pieces, a < b. */
	readonly a: number;
	readonly b: number;
	/** m² */
	readonly area: number;
	/** Unit, from a to b. */
	readonly normal: Vec3;
	/** In the frame of the source object. */
	readonly centre: Vec3;
}

export interface Pieces {
	readonly pieces: readonly Piece[];
	readonly contacts: readonly Contact[];
	/** m³ */
	readonly sourceVolume: number;
	/** What the pieces lack of the source, m³; gaps count. */
	readonly lacking: number;
}

/** What a method works on. */
export interface FractureInput {
	readonly solids: Solids;
	/** In the frame of the object that is broken, metres. */
	readonly mesh: Mesh;
	/** m³ */
	readonly volume: number;
	/** Of the objects that an option names, in the frame of the object that is broken. */
	readonly cutters: readonly Mesh[];
	/** That an option names. */
	readonly pictures: readonly Picture[];
}

/** A way to take a solid apart. */
export interface FractureMethod {
	readonly id: string;
	readonly label: string;
	readonly help: string;
	readonly options: Readonly<Record<string, OptionSpec>>;
	/** Rough seconds on a plain machine, to be said before a slow action. */
	readonly estimate: (triangles: number, options: OptionValues) => number;
	/** `input.mesh` is closed and outward: `breakMesh` has seen to it. */
	readonly run: (input: FractureInput, options: OptionValues, progress: Progress) => Promise<Outcome<Pieces>>;
}
