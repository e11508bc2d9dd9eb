import { type Hash, hashBytes } from "../common";

/** What happened, as stored in `FrameEvents.kind`. */
export const EventKind = {
	Contact: 0,
	Wake: 1,
	Lost: 2,
	Pulled: 3,
	Sheared: 4,
	Crushed: 5,
	Parted: 6,
	Repeated: 7,
	Dust: 8,
	Crumbled: 9,
} as const;
/** Whether an event is a bond that broke. */
export const isBreak = (kind: number): boolean => kind >= EventKind.Pulled && kind <= EventKind.Crushed;

/** Struct of arrays; one entry per event. */
export interface FrameEvents {
	readonly frame: Int32Array;
	readonly kind: Uint8Array;
	/** Bodies; b is −1 where only one takes part. */
	readonly a: Int32Array;
	readonly b: Int32Array;
	/** Contact: impulse in N s. Wake: approach speed in m/s. Lost: height in m. Pulled, sheared, crushed: stress in Pa. Parted (a connector): load in N or N m. Repeated (a step that things giving way did not let come to an end): how often. Dust: kg that leave. Crumbled (into stones): kg of it. */
	readonly value: Float32Array;
	/**
	 * 3 per event: where it was, world, metres. Of a bond that broke the middle of its face, half way between its two sides; of a connector
	 * where it held; of all else half way between the places of those of the two that move by themselves. NaN where neither does, and in chunks
	 * that were stored before it was known.
	 */
	readonly place: Float32Array;
}

export const NO_EVENTS: FrameEvents = {
	frame: new Int32Array(0),
	kind: new Uint8Array(0),
	a: new Int32Array(0),
	b: new Int32Array(0),
	value: new Float32Array(0),
	place: new Float32Array(0),
};

/** Consecutive frames of a run. */
export interface Chunk {
	readonly firstFrame: number;
	readonly frames: number;
	readonly bodies: number;
	/** 7 per body and frame: position in metres, quaternion x y z w; world pose of the body's frame. */
	readonly poses: Float32Array;
	/** Per frame: contacts over their threshold. */
	readonly contacts: Uint32Array;
	/** Per frame: bodies that move by themselves and are not asleep. */
	readonly awake: Uint32Array;
	/** Per frame: kinetic energy of active bodies, J. */
	readonly energy: Float32Array;
	/** Joints of connectors, in the order of the take's `joints`. */
	readonly joints: number;
	/** 2 per joint and frame: the most that it bore in the frame, N and N m. */
	readonly loads: Float32Array;
	readonly events: FrameEvents;
}

export const POSE_STRIDE = 7;
export const LOAD_STRIDE = 2;
export const CHUNK_FRAMES = 24;

const MAGIC = 0x3143524d; // "MRC1"
const HEADER = 8;
/** Of the layout; the first one had no places of events. */
const VERSION = 2;
/** Bytes of an event. */
const eventSize = (version: number) => (version >= 2 ? 29 : 17);

/** Little-endian bytes, laid out as docs/formats.md says; equal chunks give equal bytes. */
export function encodeChunk(chunk: Chunk): Uint8Array {
	const { events, frames } = chunk;
	const count = events.frame.length;
	const bytes = new Uint8Array(4 * (HEADER + chunk.poses.length + 3 * frames + chunk.loads.length) + eventSize(VERSION) * count);
	const view = new DataView(bytes.buffer);
	let at = 0;
	const u32 = (value: number) => {
		view.setUint32(at, value, true);
		at += 4;
	};
	const i32 = (value: number) => u32(value >>> 0);
	const f32 = (value: number) => {
		view.setFloat32(at, value, true);
		at += 4;
	};
	for (const value of [MAGIC, VERSION, chunk.firstFrame >>> 0, frames, chunk.bodies, count, chunk.joints, 0]) u32(value);
	bytes.set(new Uint8Array(chunk.poses.buffer, chunk.poses.byteOffset, chunk.poses.byteLength), at);
	at += chunk.poses.byteLength;
	chunk.contacts.forEach(u32);
	chunk.awake.forEach(u32);
	chunk.energy.forEach(f32);
	chunk.loads.forEach(f32);
	events.frame.forEach(i32);
	events.a.forEach(i32);
	events.b.forEach(i32);
	events.value.forEach(f32);
	events.place.forEach(f32);
	bytes.set(events.kind, at);
	return bytes;
}

/** Throws where the bytes are no chunk or end too early. */
export function decodeChunk(bytes: Uint8Array): Chunk {
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	if (bytes.byteLength < 4 * HEADER || view.getUint32(0, true) !== MAGIC) throw new Error("decodeChunk: these bytes are no frame chunk");
	const version = view.getUint32(4, true);
	const firstFrame = view.getInt32(8, true);
	const frames = view.getUint32(12, true);
	const bodies = view.getUint32(16, true);
	const count = view.getUint32(20, true);
	const joints = view.getUint32(24, true);
	const poses = frames * bodies * POSE_STRIDE;
	const loads = frames * joints * LOAD_STRIDE;
	if (bytes.byteLength !== 4 * (HEADER + poses + 3 * frames + loads) + eventSize(version) * count)
		throw new Error("decodeChunk: the chunk is cut short");
	let at = 4 * HEADER;
	const read = <A>(length: number, make: (buffer: ArrayBuffer) => A): A => {
		const part = bytes.slice(at, at + 4 * length);
		at += 4 * length;
		return make(part.buffer as ArrayBuffer);
	};
	const floats = (buffer: ArrayBuffer) => new Float32Array(buffer);
	const whole = (buffer: ArrayBuffer) => new Uint32Array(buffer);
	const signed = (buffer: ArrayBuffer) => new Int32Array(buffer);
	return {
		firstFrame,
		frames,
		bodies,
		poses: read(poses, floats),
		contacts: read(frames, whole),
		awake: read(frames, whole),
		energy: read(frames, floats),
		joints,
		loads: read(loads, floats),
		events: {
			frame: read(count, signed),
			a: read(count, signed),
			b: read(count, signed),
			value: read(count, floats),
			place: version >= 2 ? read(3 * count, floats) : new Float32Array(3 * count).fill(Number.NaN),
			kind: bytes.slice(at),
		},
	};
}

export const hashChunk = (chunk: Chunk): Hash => hashBytes(encodeChunk(chunk));
