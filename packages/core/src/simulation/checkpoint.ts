import type { BondState } from "./bonded";
import type { CrumbleState } from "./crumble";
import type { HeavierState } from "./heavier";
import type { JointState } from "./joints";
import type { RestState } from "./rest";
import type { StillState } from "./still";
import type { TakenState } from "./takeBack";

/** Everything needed to go on after a frame with the same bytes: the engine's memory and our own state. */
export interface Checkpoint {
	/** The frame that was finished. */
	readonly frame: number;
	/** Steps done since the first frame. */
	readonly step: number;
	/** How many of the last part of the last one make it up. */
	readonly parts: number;
	/** 1 per body, see `Held`. */
	readonly held: Uint8Array;
	/** 1 per body: 1 = fell out of the scene. */
	readonly lost: Uint8Array;
	/** 1 per body: the step in which it began to move by itself; −1 where it has not. */
	readonly born: Int32Array;
	readonly rest: RestState;
	readonly still: StillState;
	readonly heavier: HeavierState;
	readonly taken: TakenState;
	readonly crumble: CrumbleState;
	/** Pairs that overlapped at the start, or when they came apart, and have not parted yet: two bodies and their depth, µm, each. */
	readonly muted: Int32Array;
	readonly bonds: BondState;
	readonly joints: JointState;
	readonly engine: Uint8Array;
}

const MAGIC = 0x424b524d; // "MRKB"
const HEADER = 13;

/** Bytes a body has in each array, in their order in the file. */
const STRIDES = {
	held: 1,
	lost: 1,
	restFrames: 1,
	gone: 1,
	braced: 1,
	taut: 1,
	born: 4,
	loose: 4,
	anchor: 28,
	stillHeld: 1,
	stillPose: 28,
	takenTick: 8,
	takenPose: 28,
} as const;
type Part = keyof typeof STRIDES;
const PARTS = Object.keys(STRIDES) as Part[];
const BYTES_A_BODY = PARTS.reduce((sum, part) => sum + STRIDES[part], 0);

/** Of the bonds: bytes per bond, and per body where there are any bonds. */
const BOND_BYTES = 1 + 8 + 8;
const BONDED_BYTES = 6 * 48 + 1;
const PRESSED_BYTES = 16;
/** And per joint. */
const JOINT_BYTES = 1 + 24 + 16;

/**
 * Little-endian: header (magic, frame, step, bodies, muted numbers, engine bytes, bonds, bodies with bonds, grace numbers,
 * joints, pressed pairs, ringing bodies, parts), muted pairs, grace, ringing, the arrays by body, those of the bonds, pressed pairs with what
 * they hold, the arrays of the joints, the engine.
 */
export function encodeCheckpoint({
	frame,
	step,
	parts,
	held,
	lost,
	born,
	rest,
	still,
	heavier,
	taken,
	crumble,
	muted,
	bonds,
	joints,
	engine,
}: Checkpoint): Uint8Array {
	const arrays: Record<Part, Uint8Array | Int32Array | Float32Array | Float64Array> = {
		held,
		lost,
		restFrames: rest.frames,
		gone: crumble.gone,
		braced: heavier.load,
		taut: heavier.taut,
		born,
		loose: crumble.loose,
		anchor: rest.anchor,
		stillHeld: still.held,
		stillPose: still.pose,
		takenTick: taken.tick,
		takenPose: taken.pose,
	};
	const pressed = Float64Array.from([...bonds.pressed].flat());
	const ofBonds = [
		bonds.state,
		bonds.damage,
		bonds.peak,
		bonds.u,
		bonds.v,
		bonds.load,
		bonds.pull,
		bonds.bent,
		bonds.search,
		bonds.settled,
		pressed,
	];
	const words = HEADER + muted.length + bonds.grace.length + bonds.ringing.length;
	const bytes = new Uint8Array(
		4 * words +
			BYTES_A_BODY * held.length +
			BOND_BYTES * bonds.state.length +
			BONDED_BYTES * bonds.settled.length +
			PRESSED_BYTES * bonds.pressed.size +
			JOINT_BYTES * joints.broken.length +
			engine.length,
	);
	const view = new DataView(bytes.buffer);
	const header = [
		MAGIC,
		frame,
		step,
		held.length,
		muted.length,
		engine.length,
		bonds.state.length,
		bonds.settled.length,
		bonds.grace.length,
		joints.broken.length,
		bonds.pressed.size,
		bonds.ringing.length,
		parts,
	];
	[...header, ...muted, ...bonds.grace, ...bonds.ringing].forEach((value, i) => {
		view.setInt32(4 * i, value, true);
	});
	let at = 4 * words;
	for (const array of [...PARTS.map((part) => arrays[part]), ...ofBonds, joints.broken, joints.stretch, joints.load, engine]) {
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
	const [bondCount, bonded, graceCount, jointCount] = [number(6), number(7), number(8), number(9)];
	const [pressedCount, ringingCount] = [number(10), number(11)];
	const words = HEADER + mutedCount + graceCount + ringingCount;
	const ofBonds = BOND_BYTES * bondCount + BONDED_BYTES * bonded + PRESSED_BYTES * pressedCount;
	if (bytes.length !== 4 * words + BYTES_A_BODY * bodies + ofBonds + JOINT_BYTES * jointCount + engineSize)
		throw new Error("decodeCheckpoint: the checkpoint is cut short");
	let at = 4 * words;
	const take = (length: number): Uint8Array<ArrayBuffer> => {
		const part = bytes.slice(at, at + length) as Uint8Array<ArrayBuffer>;
		at += length;
		return part;
	};
	const doubles = (count: number) => new Float64Array(take(8 * count).buffer);
	const parts = Object.fromEntries(PARTS.map((part) => [part, take(STRIDES[part] * bodies)])) as Record<Part, Uint8Array<ArrayBuffer>>;
	return {
		frame,
		step,
		parts: number(12),
		muted: Int32Array.from({ length: mutedCount }, (_, i) => number(HEADER + i)),
		held: parts.held,
		lost: parts.lost,
		born: new Int32Array(parts.born.buffer),
		rest: { frames: parts.restFrames, anchor: new Float32Array(parts.anchor.buffer) },
		still: { held: parts.stillHeld, pose: new Float32Array(parts.stillPose.buffer) },
		heavier: { load: parts.braced, taut: parts.taut },
		taken: { tick: new Float64Array(parts.takenTick.buffer), pose: new Float32Array(parts.takenPose.buffer) },
		crumble: { gone: parts.gone, loose: new Int32Array(parts.loose.buffer) },
		bonds: {
			state: take(bondCount),
			damage: doubles(bondCount),
			peak: doubles(bondCount),
			u: doubles(6 * bonded),
			v: doubles(6 * bonded),
			load: doubles(6 * bonded),
			pull: doubles(6 * bonded),
			bent: doubles(6 * bonded),
			search: doubles(6 * bonded),
			settled: take(bonded),
			grace: Array.from({ length: graceCount }, (_, i) => number(HEADER + mutedCount + i)),
			ringing: Array.from({ length: ringingCount }, (_, i) => number(HEADER + mutedCount + graceCount + i)),
			pressed: pairsOf(doubles(2 * pressedCount)),
		},
		joints: { broken: take(jointCount), stretch: doubles(3 * jointCount), load: doubles(2 * jointCount) },
		engine: take(engineSize),
	};
}

/** Numbers two by two: keys and what they stand for. */
const pairsOf = (flat: Float64Array): Map<number, number> =>
	new Map(Array.from({ length: flat.length / 2 }, (_, k) => [flat[2 * k]!, flat[2 * k + 1]!]));
