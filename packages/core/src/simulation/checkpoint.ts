import type { RestState } from "./rest";
import type { StillState } from "./still";
import type { TakenState } from "./takeBack";

/** Everything needed to go on after a frame with the same bytes: the engine's memory and our own state. */
export interface Checkpoint {
	/** The frame that was finished. */
	readonly frame: number;
	/** Steps done since the first frame. */
	readonly step: number;
	/** 1 per body: 1 = does not move yet, 2 = was taken back to its keys. */
	readonly held: Uint8Array;
	/** 1 per body: 1 = fell out of the scene. */
	readonly lost: Uint8Array;
	/** 1 per body: the step in which it began to move by itself; −1 where it has not. */
	readonly born: Int32Array;
	readonly rest: RestState;
	readonly still: StillState;
	readonly taken: TakenState;
	/** Pairs (2 per pair) that overlapped at the start and have not parted yet. */
	readonly muted: Int32Array;
	readonly engine: Uint8Array;
}

const MAGIC = 0x344b524d; // "MRK4"
const HEADER = 6;

/** Bytes a body has in each array, in their order in the file. */
const STRIDES = { held: 1, lost: 1, restFrames: 1, born: 4, anchor: 28, stillHeld: 1, stillPose: 28, takenTick: 8, takenPose: 28 } as const;
type Part = keyof typeof STRIDES;
const PARTS = Object.keys(STRIDES) as Part[];
const BYTES_A_BODY = PARTS.reduce((sum, part) => sum + STRIDES[part], 0);

/** Little-endian: header (magic, frame, step, bodies, muted numbers, engine bytes), muted pairs, the arrays by body, the engine. */
export function encodeCheckpoint({ frame, step, held, lost, born, rest, still, taken, muted, engine }: Checkpoint): Uint8Array {
	const arrays: Record<Part, Uint8Array | Int32Array | Float32Array | Float64Array> = {
		held,
		lost,
		restFrames: rest.frames,
		born,
		anchor: rest.anchor,
		stillHeld: still.held,
		stillPose: still.pose,
		takenTick: taken.tick,
		takenPose: taken.pose,
	};
	const bytes = new Uint8Array(4 * (HEADER + muted.length) + BYTES_A_BODY * held.length + engine.length);
	const view = new DataView(bytes.buffer);
	[MAGIC, frame, step, held.length, muted.length, engine.length, ...muted].forEach((value, i) => {
		view.setInt32(4 * i, value, true);
	});
	let at = 4 * (HEADER + muted.length);
	for (const array of [...PARTS.map((part) => arrays[part]), engine]) {
		bytes.set(new Uint8Array(array.buffer, array.byteOffset, array.byteLength), at);
		at += array.byteLength;
	}
	return bytes;
}

export function decodeCheckpoint(bytes: Uint8Array): Checkpoint {
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	if (bytes.length < 4 * HEADER || view.getInt32(0, true) !== MAGIC) throw new Error("decodeCheckpoint: these bytes are no checkpoint");
	const number = (i: number) => view.getInt32(4 * i, true);
	const [frame, step, bodies, mutedCount, engineSize] = [number(1), number(2), number(3), number(4), number(5)];
	if (bytes.length !== 4 * (HEADER + mutedCount) + BYTES_A_BODY * bodies + engineSize)
		throw new Error("decodeCheckpoint: the checkpoint is cut short");
	let at = 4 * (HEADER + mutedCount);
	const take = (length: number): Uint8Array<ArrayBuffer> => {
		const part = bytes.slice(at, at + length) as Uint8Array<ArrayBuffer>;
		at += length;
		return part;
	};
	const parts = Object.fromEntries(PARTS.map((part) => [part, take(STRIDES[part] * bodies)])) as Record<Part, Uint8Array<ArrayBuffer>>;
	return {
		frame,
		step,
		muted: Int32Array.from({ length: mutedCount }, (_, i) => number(HEADER + i)),
		held: parts.held,
		lost: parts.lost,
		born: new Int32Array(parts.born.buffer),
		rest: { frames: parts.restFrames, anchor: new Float32Array(parts.anchor.buffer) },
		still: { held: parts.stillHeld, pose: new Float32Array(parts.stillPose.buffer) },
		taken: { tick: new Float64Array(parts.takenTick.buffer), pose: new Float32Array(parts.takenPose.buffer) },
		engine: take(engineSize),
	};
}
