import type { Track } from "../bake";
import type { Outcome, Progress } from "../common";
import type { FilmView } from "../film";
import type { Vec3 } from "../maths";
import type { Mesh } from "../mesh";
import type { Described, Material, OptionValues } from "../shot";
import type { ChangingShape } from "./changing";

/** What a file holds before units and axes are settled. */
export interface ReadModel {
	readonly parts: readonly { readonly name: string; readonly mesh: Mesh }[];
	/** Things that were left out, said to the user. */
	readonly notes: readonly string[];
}

export interface MeshFormat {
	readonly id: string;
	readonly label: string;
	readonly extensions: readonly string[];
	/** glTF says metres and Y up; the others say nothing. */
	readonly metres: boolean;
	readonly read: (bytes: Uint8Array) => Promise<Outcome<ReadModel>> | Outcome<ReadModel>;
}

/** A thing to be written: a piece or an object, named by its path. */
export interface ExportItem {
	/** `Block/00001` */
	readonly path: string;
	/** Name of the group it stands under: its object's path. */
	readonly group: string;
	readonly mesh: Mesh;
	readonly outside: Material;
	readonly inside: Material;
	/** Pictures on the outside and on the inside faces, as PNG or JPEG bytes. */
	readonly picture?: Uint8Array | undefined;
	readonly insidePicture?: Uint8Array | undefined;
	/** Where a crack opens beside it or links change its shape. */
	readonly changing?: ChangingShape | undefined;
	/** From this frame on it is not there any more: it has crumbled. */
	readonly goneAt?: number | undefined;
	/** From this frame on it is there: what it is a stone of has crumbled. */
	readonly comesAt?: number | undefined;
	/** Linear RGB at a frame, where a gradient colours it. */
	readonly colourAt?: ((frame: number) => readonly [number, number, number]) | undefined;
	/** World pose where it does not move. */
	readonly translation: readonly [number, number, number];
	readonly rotation: readonly [number, number, number, number];
	/** Of the mesh, in the item's frame. */
	readonly scale: number;
	/** Index into the baked tracks; −1 where it does not move. */
	readonly track: number;
}

/** Something that happened in a run, with the names of those it happened to. */
export interface ExportEvent {
	readonly frame: number;
	readonly what: string;
	readonly a: string;
	/** Empty where only one takes part. */
	readonly b: string;
	readonly value: number;
	readonly unit: string;
	/** World, metres, see `FrameEvents.place`; undefined where that is not known. */
	readonly at: Vec3 | undefined;
}

export interface ExportScene {
	readonly name: string;
	readonly fps: number;
	readonly firstFrame: number;
	readonly lastFrame: number;
	readonly items: readonly ExportItem[];
	/** Keys of items, by their `track`. */
	readonly tracks: readonly Track[];
	readonly events: readonly ExportEvent[];
	/** Of the format it is written in; its defaults where absent. */
	readonly options: OptionValues;
	/** Whether `colourAt` of its items changes with the frame. */
	readonly coloursMove: boolean;
	/** For formats that are pictures; absent where there is no shot. */
	readonly view?: FilmView | undefined;
}

export interface NamedFile {
	readonly name: string;
	readonly bytes: Uint8Array;
}

interface AnyTakeFormat extends Described {
	readonly id: string;
	/** Of the file, or of the files in a sequence. */
	readonly extension: string;
	readonly mime: string;
	readonly help: string;
	/** Whether a shot's gradient is seen in it: at every frame, or as it is at the first one. Absent: not at all. */
	readonly colours?: "frames" | "first";
	/** Cannot be made in a page. */
	readonly workersOnly?: true;
}

/** Everything in one file. */
export interface OneFileFormat extends AnyTakeFormat {
	readonly write: (scene: ExportScene, progress: Progress) => Promise<Uint8Array> | Uint8Array;
}

/** A file for each frame, and what they share. */
export interface SequenceFormat extends AnyTakeFormat {
	readonly shared: (scene: ExportScene) => readonly NamedFile[];
	readonly frame: (scene: ExportScene, frame: number) => NamedFile;
}

export type TakeFormat = OneFileFormat | SequenceFormat;
export const isSequence = (format: TakeFormat): format is SequenceFormat => "frame" in format;
