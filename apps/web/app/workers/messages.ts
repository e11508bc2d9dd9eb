import type { BakeError, BakeOptions } from "@rubble/core/bake";
import type { BodyRow, BuiltShot, FillFacts, PiecesFacts } from "@rubble/core/bodies";
import type { CrumbRow } from "@rubble/core/bonds";
import type { Chunk } from "@rubble/core/cache";
import type { Pixels } from "@rubble/core/colouring";
import type { Hash } from "@rubble/core/common";
import type { ExportRange, FileOrder, ImportChoices } from "@rubble/core/formats";
import type { StonesOptions } from "@rubble/core/fracture";
import type { Vec3 } from "@rubble/core/maths";
import type { Bounds, Mesh } from "@rubble/core/mesh";
import type { AssetRef, Edit, Id, Shot } from "@rubble/core/shot";
import type { Finding, Take } from "@rubble/core/simulation";
import type { MeshReport } from "@rubble/core/solid";
import type { OverlapSeries, TakeSeries } from "@rubble/core/takes";
import type { LiveCost } from "./watchedEngine";

/** All bodies of one object, ready to draw: the vertices of their meshes one after the other. Copies share a mesh. */
export interface Drawing {
	readonly object: Id;
	readonly hash: Hash;
	readonly ids: readonly string[];
	/** 1 per body: which mesh it has. */
	readonly mesh: Uint32Array;
	/** 1 per body: its size as a multiple of the mesh. */
	readonly scale: Float32Array;
	/** 1 per mesh: the object whose material it wears. */
	readonly sources: readonly Id[];
	/** Triangles of a copy that is drawn simpler than it is; 0 where all are drawn as they are. */
	readonly reduced: number;
	/** The pictures that outside and inside faces wear. */
	readonly picture: AssetRef | undefined;
	readonly insidePicture: AssetRef | undefined;
	/** 2 per vertex, v down; empty without a picture. */
	readonly uv: Float32Array;
	/** 3 per vertex. */
	readonly positions: Float32Array;
	/** Of an imported object whose shape changes by keys, see `Body.straight`. */
	readonly straight?: Mesh | undefined;
	readonly normals: Float32Array;
	/** 1 per vertex. */
	readonly inside: Uint8Array;
	/** Beside cracks, 3 and 1 per vertex as in `Opening`; empty where there are none. */
	readonly closed: Float32Array;
	readonly reached: Float32Array;
	/** Relative to the mesh's first vertex. */
	readonly indices: Uint32Array;
	/** Start of each mesh's vertices and indices; one more entry than meshes. */
	readonly vertexStart: Uint32Array;
	readonly indexStart: Uint32Array;
}

export interface BuildResult {
	readonly bodies: readonly BodyRow[];
	/** Stones that pieces leave where they crumble. */
	readonly crumbs: readonly CrumbRow[];
	/** Of objects whose hash is not among the known ones. */
	readonly drawings: readonly Drawing[];
	readonly hashes: Readonly<Record<Id, Hash>>;
	readonly problems: readonly { readonly object: Id; readonly message: string }[];
	readonly reports: Readonly<Record<Id, MeshReport>>;
	readonly pieces: Readonly<Record<Id, PiecesFacts>>;
	readonly kept: BuiltShot["kept"];
	readonly frameHashes: readonly Hash[];
}

/** A finding whose fixes are edits, so that they can cross threads. */
export interface FindingRow extends Omit<Finding, "fixes"> {
	readonly fixes: readonly { readonly label: string; readonly edit: Edit }[];
}

export interface InspectResult {
	readonly findings: readonly FindingRow[];
	/** By body id: the collider, and its volume against the real one. */
	readonly colliders: Readonly<
		Record<
			string,
			{ readonly choice: string; readonly error: number; readonly depth?: number; readonly parts: number; readonly triangles: number }
		>
	>;
}

/** Outlines of colliders, in the frames of their bodies. */
export interface ColliderLines {
	/** 6 per line: both ends. */
	readonly lines: Float32Array;
	/** 1 per line: index into `ids`. */
	readonly body: Uint32Array;
	/** 1 per line: which convex part of the body's collider it outlines. */
	readonly part: Uint16Array;
	/** 3 per line: from the middle of the body's parts to the middle of this one. */
	readonly away: Float32Array;
	readonly ids: readonly string[];
}

/** What ties bodies to each other, to be drawn. Places are in the frames of their bodies; −1 is the world. */
export interface Ties {
	readonly ids: readonly string[];
	readonly bonds: {
		/** 6 per bond: both ends. */
		readonly ends: Float32Array;
		/** 2 per bond: indices into `ids`. */
		readonly bodies: Int32Array;
		/** MPa; infinite where they never break. */
		readonly tension: Float32Array;
		/** m² */
		readonly area: Float32Array;
		/** Share of its strength that the own weight of what stands takes. */
		readonly use: Float32Array;
		/** Index into `sets`. */
		readonly set: Uint16Array;
		/** 1 = to something that holds still. */
		readonly rooted: Uint8Array;
	};
	/** Per id: the slab that it belongs to, and the part of it; −1 for none. */
	readonly slabs: Int32Array;
	readonly chunks: Int32Array;
	/** Ids of bond sets. */
	readonly sets: readonly string[];
	readonly joints: readonly {
		readonly connector: Id;
		readonly kind: string;
		readonly a: number;
		readonly b: number;
		readonly from: Vec3;
		readonly to: Vec3;
		readonly middleA: Vec3;
		readonly middleB: Vec3 | null;
		/** Lines of its axis and its stops, 6 numbers each, in the frame of its second body; and of its hand, in that of the first. */
		readonly held: readonly number[];
		readonly moving: readonly number[];
	}[];
}

/** A face that two pieces share. */
export interface NeighbourRow {
	readonly a: { readonly id: string; readonly path: string };
	readonly b: { readonly id: string; readonly path: string };
	/** m² */
	readonly area: number;
	/** Unit, from a to b, in the object's frame. */
	readonly normal: Vec3;
	/** In the object's frame, metres. */
	readonly centre: Vec3;
}

export interface ReadFile {
	readonly name: string;
	readonly metres: boolean;
	readonly parts: readonly { readonly name: string; readonly triangles: number; readonly size: readonly [number, number, number] }[];
	readonly notes: readonly string[];
}

/** A mesh about its own middle, and where that stands in the world. */
export interface ReworkedPart {
	readonly asset: AssetRef;
	readonly translation: Vec3;
}

export interface PlacedPart {
	readonly name: string;
	readonly asset: AssetRef;
}

/** What a fracture from a picture would find in it. */
export interface JointsPreview {
	readonly width: number;
	readonly height: number;
	/** 4 per pixel, rows from the top: the picture in grey, joints tinted. */
	readonly rgba: Uint8ClampedArray<ArrayBuffer>;
	readonly stones: number;
	readonly threshold: number;
}

export interface LoadedTake {
	readonly id: string;
	readonly name: string;
	readonly locked: boolean;
	readonly take: Take;
	readonly chunks: readonly Chunk[];
}

/** A take with what is drawn of it. */
export interface TakeScene extends LoadedTake {
	readonly bodies: readonly BodyRow[];
	readonly crumbs: readonly CrumbRow[];
	readonly drawings: Readonly<Record<Id, Drawing>>;
	readonly series: TakeSeries;
}

/** What keeping a frame's places does to the shot. */
export interface KeptFrame {
	readonly edit: Edit;
	/** Bodies that were kept. */
	readonly count: number;
	/** How deep things reach into each other at most, metres. */
	readonly deepest: number;
	/** Whether everything had come to rest. */
	readonly rested: boolean;
	/** Pieces that had crumbled by then, and are whole again in the shot. */
	readonly crumbled: number;
}

/**
 * Calls from the worker go through channels of their own: one that has not been waited for may arrive after what it tells of has ended.
 */
export interface RunEvents {
	readonly onProgress: (fraction: number, what: string, cost?: LiveCost) => void;
	/** The take as it begins: what is kept of the last run, and the first frame to come. */
	readonly onStart: (id: string, name: string, take: Take, from: number) => void | Promise<void>;
	readonly onChunk: (chunk: Chunk, take: Take) => void | Promise<void>;
}

export interface RunResult {
	readonly finished: boolean;
	readonly frame: number;
	readonly frames: number;
	/** Wall time of simulating and storing. */
	readonly milliseconds: number;
}

/** Keys of a take as an edit of the shot. */
export interface KeysFromTake {
	readonly edit: Edit;
	readonly error: BakeError;
	readonly baked: readonly string[];
	/** Meant, but the take knows nothing of them. */
	readonly left: readonly Id[];
}

export interface BakeForecast {
	/** Bytes, about; unknown for what only workers make. */
	readonly size: number | undefined;
	readonly error: BakeError;
}

export interface BakedFile {
	readonly bytes: Uint8Array<ArrayBuffer>;
	readonly error: BakeError;
	readonly firstFrame: number;
	readonly lastFrame: number;
}

/** What the worker can be asked for. Everything rejects with an Error whose message is for people. */
export interface CoreWorker {
	build(shot: Shot, known: Readonly<Record<Id, Hash>>, onProgress: (fraction: number, what: string) => void): Promise<BuildResult>;
	inspect(shot: Shot, onProgress?: (fraction: number, what: string) => void): Promise<InspectResult>;
	colliderLines(shot: Shot, frame: number): Promise<ColliderLines>;
	/** Bonds and joints, with what they bear of the own weight of what stands. */
	ties(shot: Shot): Promise<Ties>;
	readFile(name: string, bytes: Uint8Array): Promise<ReadFile>;
	placeFile(choices: ImportChoices): Promise<readonly PlacedPart[]>;
	estimate(shot: Shot, array: Id): Promise<FillFacts | undefined>;
	rework(shot: Shot, ids: readonly Id[], how: "merge" | "split"): Promise<readonly ReworkedPart[]>;
	/** The faces that the pieces of an object share. */
	neighbours(shot: Shot, object: Id): Promise<readonly NeighbourRow[]>;
	/** Stores a PNG or JPEG picture. */
	keepPicture(bytes: Uint8Array): Promise<AssetRef>;
	/** The lines of an SVG drawing, laid over the broad face of an object. */
	readStrokes(shot: Shot, object: Id, bytes: Uint8Array): Promise<number[][]>;
	findJoints(picture: AssetRef, options: StonesOptions): Promise<JointsPreview>;
	pixelsOf(picture: AssetRef): Promise<Pixels>;
	loadTake(shotId: string, id?: string): Promise<LoadedTake | null>;
	takeScene(id: string): Promise<TakeScene>;
	/** How deep things reach into each other over a take. */
	measureOverlaps(id: string, onProgress: (fraction: number, what: string) => void): Promise<OverlapSeries>;
	/** The box in which all stays that moves by itself in the take on show; undefined where nothing does. */
	whereThingsGo(): Promise<Bounds | undefined>;
	noteTake(facts: { readonly name: string; readonly locked: boolean }): void;
	keepFrame(shot: Shot, frame: number, chosen: readonly string[]): Promise<KeptFrame>;
	settle(
		shot: Shot,
		picked: readonly string[],
		onProgress: RunEvents["onProgress"],
		onPoses: (ids: readonly string[], poses: Float32Array, frame: number) => void,
	): Promise<KeptFrame>;
	run(
		shotId: string,
		shot: Shot,
		fresh: string | undefined,
		onProgress: RunEvents["onProgress"],
		onStart: RunEvents["onStart"],
		onChunk: RunEvents["onChunk"],
	): Promise<RunResult>;
	goOn(
		shotId: string,
		shot: Shot,
		frame: number,
		fresh: string,
		onProgress: RunEvents["onProgress"],
		onStart: RunEvents["onStart"],
		onChunk: RunEvents["onChunk"],
	): Promise<RunResult>;
	carry(
		shotId: string,
		shot: Shot,
		fresh: string,
		onStart: RunEvents["onStart"],
		onChunk: RunEvents["onChunk"],
	): Promise<{ readonly carried: number; readonly left: number }>;
	keysFromTake(shot: Shot, picked: readonly string[], range: ExportRange, options: BakeOptions): Promise<KeysFromTake>;
	forecast(order: FileOrder): Promise<BakeForecast>;
	bake(order: FileOrder, onProgress: (fraction: number, what: string) => void): Promise<BakedFile>;
	/** Stops what is under way of this kind; it rejects with “cancelled”, a run ends with what it has. */
	cancel(what: "build" | "run" | "bake"): void;
}
