import type { RestState } from "./rest";
import type { StillState } from "./still";

/** Everything needed to go on after a frame with the same bytes: the engine's memory and our own state. */
export interface Checkpoint {
	/** The frame that was finished. */
	readonly frame: number;
	/** Steps done since the first frame. */
	readonly step: number;
	/** 1 per body: 1 = does not move yet. */
	readonly held: Uint8Array;
	/** 1 per body: 1 = fell out of the scene. */
	readonly lost: Uint8Array;
	/** 1 per body: the step in which it began to move by itself; −1 where it has not. */
	readonly born: Int32Array;
	readonly rest: RestState;
	readonly still: StillState;
	/** Pairs (2 per pair) that overlapped at the start and have not parted yet. */
	readonly muted: Int32Array;
	readonly engine: Uint8Array;
}

const MAGIC = 0x334b524d; // "MRK3"
const HEADER = 6;

/** Little-endian: header (magic, frame, step, bodies, muted numbers, engine bytes), then the arrays. */
export function encodeCheckpoint(checkpoint: Checkpoint): Uint8Array {
	const { held, lost, born, rest, still, muted, engine } = checkpoint;
	const anchor = new Uint8Array(rest.anchor.buffer, rest.anchor.byteOffset, rest.anchor.byteLength);
	const shown = new Uint8Array(still.pose.buffer, still.pose.byteOffset, still.pose.byteLength);
	const births = new Uint8Array(born.buffer, born.byteOffset, born.byteLength);
	const bytes = new Uint8Array(
		4 * HEADER +
			4 * muted.length +
			held.length +
			lost.length +
			births.length +
			rest.frames.length +
			anchor.length +
			still.held.length +
			shown.length +
			engine.length,
	);
	const view = new DataView(bytes.buffer);
	[MAGIC, checkpoint.frame, checkpoint.step, held.length, muted.length, engine.length].forEach((value, i) => {
		view.setInt32(4 * i, value, true);
	});
	let at = 4 * HEADER;
	for (const value of muted) {
		view.setInt32(at, value, true);
		at += 4;
	}
	for (const part of [held, lost, rest.frames, births, anchor, still.held, shown, engine]) {
		bytes.set(part, at);
		at += part.length;
	}
	return bytes;
}

export function decodeCheckpoint(bytes: Uint8Array): Checkpoint {
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	if (bytes.length < 4 * HEADER || view.getInt32(0, true) !== MAGIC) throw new Error("decodeCheckpoint: these bytes are no checkpoint");
	const [frame, step, bodies, mutedCount, engineSize] = [1, 2, 3, 4, 5].map((i) => view.getInt32(4 * i, true)) as [
		number,
		number,
		number,
		number,
		number,
	];
	if (bytes.length !== 4 * HEADER + 4 * mutedCount + (3 + 4 + 28 + 1 + 28) * bodies + engineSize)
		throw new Error("decodeCheckpoint: the checkpoint is cut short");
	const muted = Int32Array.from({ length: mutedCount }, (_, i) => view.getInt32(4 * (HEADER + i), true));
	let at = 4 * (HEADER + mutedCount);
	const take = (length: number) => {
		const part = bytes.slice(at, at + length);
		at += length;
		return part;
	};
	const [held, lost, frames, births, anchor] = [take(bodies), take(bodies), take(bodies), take(4 * bodies), take(28 * bodies)];
	const [stillHeld, shown] = [take(bodies), take(28 * bodies)];
	return {
		frame,
		step,
		muted,
		held,
		lost,
		born: new Int32Array(births.buffer as ArrayBuffer),
		rest: { frames, anchor: new Float32Array(anchor.buffer as ArrayBuffer) },
		still: { held: stillHeld, pose: new Float32Array(shown.buffer as ArrayBuffer) },
		engine: take(engineSize),
	};
}
