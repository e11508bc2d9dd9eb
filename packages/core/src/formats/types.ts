import type { Baked } from "../bake";
import type { Outcome } from "../common";
import type { CrackTime, Opening } from "../fracture";
import type { Mesh } from "../mesh";
import type { Material } from "../shot";

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

export interface ItemOpening extends Opening {
	readonly time: CrackTime;
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
	/** Where a crack opens beside it: how its mesh departs from itself, and when. */
	readonly opening?: ItemOpening | undefined;
	/** World pose where it does not move. */
	readonly translation: readonly [number, number, number];
	readonly rotation: readonly [number, number, number, number];
	/** Of the mesh, in the item's frame. */
	readonly scale: number;
	/** Index into the baked tracks; −1 where it does not move. */
	readonly track: number;
}

export interface ExportScene {
	readonly name: string;
	readonly fps: number;
	readonly firstFrame: number;
	readonly items: readonly ExportItem[];
	readonly baked?: Baked | undefined;
}

export interface TakeFormat {
	readonly id: string;
	readonly label: string;
	readonly extension: string;
	readonly mime: string;
	readonly help: string;
	readonly write: (scene: ExportScene) => Promise<Uint8Array> | Uint8Array;
}
