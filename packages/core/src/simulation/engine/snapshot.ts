import type { SimScene } from "../scene";
import { type Carriers, decodeCarriers, encodeCarriers } from "./carriers";

/** What the library does not tell of itself; bodies and carriers by number, in the order in which it was told of them. */
export interface Lists {
	/** Carriers that have been given forces, which stay until they are taken back. */
	readonly pushed: readonly number[];
	/** Bodies of pairs that were muted in the last step. */
	readonly hushed: readonly number[];
	/** Bodies whose joints are to be made anew before the next step, and joints that are to be taken out. */
	readonly moved: readonly number[];
	readonly cut: readonly number[];
}
export const NO_LISTS: Lists = { pushed: [], hushed: [], moved: [], cut: [] };

/** Numbers that a snapshot begins with, 4 bytes each. */
const SNAPSHOT_HEADER = 7;

/**
 * Little-endian: bytes of the carriers, number of colliders, of joints, and of what is in each of the lists; the carriers; for each
 * collider its handle (f64); whose it is (i32 each); the joints' handles (f64 each); the lists (i32 each); the library's own bytes.
 */
export function encodeSnapshot(
	carriers: Carriers,
	owner: ReadonlyMap<number, number>,
	joints: Float64Array,
	{ pushed, hushed, moved, cut }: Lists,
	library: Uint8Array,
): Uint8Array {
	const own = encodeCarriers(carriers);
	const header = 4 * SNAPSHOT_HEADER;
	const numbers = [...pushed, ...hushed, ...moved, ...cut];
	const bytes = new Uint8Array(header + own.length + 12 * owner.size + 8 * joints.length + 4 * numbers.length + library.length);
	const view = new DataView(bytes.buffer);
	[own.length, owner.size, joints.length, pushed.length, hushed.length, moved.length, cut.length].forEach((value, i) => {
		view.setUint32(4 * i, value, true);
	});
	bytes.set(own, header);
	let at = header + own.length;
	[...owner].forEach(([handle, body], k) => {
		view.setFloat64(at + 8 * k, handle, true);
		view.setInt32(at + 8 * owner.size + 4 * k, body, true);
	});
	at += 12 * owner.size;
	joints.forEach((handle, k) => {
		view.setFloat64(at + 8 * k, handle, true);
	});
	at += 8 * joints.length;
	numbers.forEach((value, k) => {
		view.setInt32(at + 4 * k, value, true);
	});
	bytes.set(library, at + 4 * numbers.length);
	return bytes;
}

export function decodeSnapshot(scene: SimScene, bytes: Uint8Array) {
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	const [length, size, jointCount, ...counts] = Array.from({ length: SNAPSHOT_HEADER }, (_, i) => view.getUint32(4 * i, true)) as [
		number,
		number,
		number,
		...number[],
	];
	const header = 4 * SNAPSHOT_HEADER;
	let at = header + length;
	const owner = new Map<number, number>();
	for (let k = 0; k < size; k++) owner.set(view.getFloat64(at + 8 * k, true), view.getInt32(at + 8 * size + 4 * k, true));
	at += 12 * size;
	const joints = Float64Array.from({ length: jointCount }, (_, k) => view.getFloat64(at + 8 * k, true));
	at += 8 * jointCount;
	const [pushed, hushed, moved, cut] = counts.map((count) => {
		const list = Array.from({ length: count }, (_, k) => view.getInt32(at + 4 * k, true));
		at += 4 * count;
		return list;
	}) as [number[], number[], number[], number[]];
	return {
		carriers: decodeCarriers(scene, bytes.slice(header, header + length)),
		owner,
		joints,
		lists: { pushed, hushed, moved, cut },
		library: bytes.slice(at),
	};
}
