import type { Outcome } from "../common";
import type { Vec3 } from "../maths";
import type { Mesh } from "../mesh";
import type { OptionSpec, OptionValues } from "../shot";
import type { Solids } from "../solid";
import type { Work } from "./crew";
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
	/** Where a crack runs along it that opens before the pieces part. */
	readonly opening?: Opening;
}

/** How a piece gives way beside a crack: `mesh` is how it ends up. */
export interface Opening {
	/** 3 per vertex: from where the vertex ends up to where it was in the whole solid, metres. */
	readonly closed: Float32Array;
	/** 1 per vertex: the share of the crack's way after which its tip gets there. */
	readonly reached: Float32Array;
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
	/** Of the objects that an option names, 3 numbers each, in the frame of the object that is broken. */
	readonly places: readonly number[];
	/** That an option names. */
	readonly pictures: readonly Picture[];
}

export interface CrackTime {
	readonly first: number;
	readonly last: number;
	/** How far the tip has come along its way, and how wide the crack is, as shares of what they end up as. */
	readonly at: (frame: number) => { readonly tip: number; readonly width: number };
}

/** A way to take a solid apart. */
export interface FractureMethod {
	readonly id: string;
	readonly label: string;
	readonly help: string;
	readonly options: Readonly<Record<string, OptionSpec>>;
	/** Rough seconds on a plain machine, to be said before a slow action. */
	readonly estimate: (triangles: number, options: OptionValues) => number;
	/** Of a crack: what its pieces look like at a frame, and the last frame at which they hold together. */
	readonly crack?: (options: OptionValues) => CrackTime;
	/** `input.mesh` is closed and outward: `breakMesh` has seen to it. */
	readonly run: (input: FractureInput, options: OptionValues, work: Work) => Promise<Outcome<Pieces>>;
}
