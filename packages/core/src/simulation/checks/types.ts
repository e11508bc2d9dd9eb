import type { BuiltShot } from "../../bodies";
import type { FrameEvents, FrameStore } from "../../cache";
import type { Command, Id, Shot } from "../../shot";
import type { MeshReport } from "../../solid";
import type { Overlap } from "../engine";
import type { SimScene } from "../scene";

/** What a check may look at. Later parts are absent until they have been computed. */
export interface CheckContext {
	readonly shot: Shot;
	readonly built: BuiltShot;
	readonly reports: ReadonlyMap<Id, MeshReport>;
	readonly scene?: SimScene | undefined;
	/** Pairs that overlap at the start, deeper than rounding. */
	readonly overlaps?: readonly Overlap[] | undefined;
	readonly events?: FrameEvents | undefined;
	/** Pairs that reach into each other in the last stored frame, see `sunkAtEnd`. */
	readonly sunk?: { readonly frame: number; readonly overlaps: readonly Overlap[] } | undefined;
	/** Frames of the last run. */
	readonly run?: FrameStore | undefined;
}

export interface Finding {
	readonly check: string;
	readonly level: "error" | "warning" | "note";
	/** Objects or pieces (ids) it is about. */
	readonly about: readonly string[];
	/** The cause in plain words, with numbers and units. */
	readonly message: string;
	readonly fixes: readonly { readonly label: string; readonly command: Command }[];
}

/** One thing that goes wrong in practice, and how to see it. */
export interface Check {
	readonly id: string;
	readonly find: (context: CheckContext) => readonly Finding[];
}
