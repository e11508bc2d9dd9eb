import { bad, good, type Hash, hashValue, type Outcome } from "../common";
import type { Mesh } from "../mesh";
import type { Contact, Piece, Pieces } from "./types";

/** Goes up when the same set-up breaks into other pieces than before: what is kept under the old name fits no more. */
const FRACTURE_BUILD = 1;

/** Where pieces are kept beyond this thread: what has been broken once need not be broken again on another machine. */
export interface PiecesShelf {
	/** Undefined where there are none under this name. */
	readonly load: (name: Hash) => Promise<Uint8Array | undefined>;
	readonly keep: (name: Hash, bytes: Uint8Array) => Promise<void>;
}

/** What pieces with this hash of their set-up are kept under. */
export const shelfName = (pieces: Hash): Hash => hashValue(["pieces", FRACTURE_BUILD, pieces]);

/** `MRPC` */
const MAGIC = 0x4350524d;
const VERSION = 1;
/** Numbers of a piece (pivot, volume, area) and of a contact (area, normal, centre). */
const OF_PIECE = 5;
const OF_CONTACT = 7;

const meshArrays = ({ positions, triangles, uv, inside, neighbour }: Mesh) => [positions, triangles, uv, inside, neighbour] as const;

/**
 * Pieces as bytes: magic, version, length of a head in JSON (names, keys, sizes of arrays), all little-endian u32; then the
 * numbers as f64, then the arrays one after the other, each filled up to a multiple of 8 bytes.
 */
export function encodePieces({ pieces, contacts, sourceVolume, lacking }: Pieces): Uint8Array {
	const numbers = Float64Array.from([
		sourceVolume,
		lacking,
		...pieces.flatMap(({ pivot, volume, area }) => [...pivot, volume, area]),
		...contacts.flatMap(({ area, normal, centre }) => [area, ...normal, ...centre]),
	]);
	const pairs = Int32Array.from(contacts.flatMap(({ a, b }) => [a, b]));
	const arrays = pieces.flatMap(({ mesh, opening }) => [...meshArrays(mesh), ...(opening ? [opening.closed, opening.reached] : [])]);
	const head = new TextEncoder().encode(
		JSON.stringify({
			contacts: contacts.length,
			pieces: pieces.map(({ key, name, mesh, opening }) => ({
				key,
				name,
				sizes: [...meshArrays(mesh), ...(opening ? [opening.closed, opening.reached] : [])].map((array) => array.length),
			})),
		}),
	);
	const parts = [Uint32Array.of(MAGIC, VERSION, head.length), head, numbers, pairs, ...arrays];
	const out = new Uint8Array(parts.reduce((sum, part) => sum + padded(part.byteLength), 0));
	let at = 0;
	for (const part of parts) {
		out.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), at);
		at += padded(part.byteLength);
	}
	return out;
}

const padded = (bytes: number): number => Math.ceil(bytes / 8) * 8;

interface Head {
	readonly contacts: number;
	readonly pieces: readonly { readonly key: string; readonly name: string; readonly sizes: readonly number[] }[];
}

export function decodePieces(bytes: Uint8Array): Outcome<Pieces> {
	try {
		const pieces = read(bytes);
		if (isWhole(pieces)) return good(pieces);
	} catch {
		// Said below.
	}
	return bad("The stored pieces are damaged; break the object again.");
}

/** Whether nothing in the pieces points beside what there is. */
function isWhole({ pieces, contacts }: Pieces): boolean {
	const fits = ({ key, name, mesh: { positions, triangles, uv, inside, neighbour } }: Piece): boolean => {
		const [vertices, faces] = [positions.length / 3, triangles.length / 3];
		return (
			typeof key === "string" &&
			typeof name === "string" &&
			Number.isInteger(vertices) &&
			Number.isInteger(faces) &&
			(uv.length === 0 || uv.length === 6 * faces) &&
			[inside.length, neighbour.length].every((length) => length === 0 || length === faces) &&
			triangles.every((vertex) => vertex < vertices) &&
			positions.every(Number.isFinite)
		);
	};
	return pieces.every(fits) && contacts.every(({ a, b }) => pieces[a] !== undefined && pieces[b] !== undefined);
}

function read(bytes: Uint8Array): Pieces {
	let at = 0;
	const take = <A>(kind: { new (buffer: ArrayBuffer): A; readonly BYTES_PER_ELEMENT: number }, length: number): A => {
		const size = length * kind.BYTES_PER_ELEMENT;
		if (!(length >= 0) || at + size > bytes.length) throw new Error("cut short");
		const part = new kind(bytes.slice(at, at + size).buffer as ArrayBuffer);
		at += padded(size);
		return part;
	};
	const [magic, version, headLength] = take(Uint32Array, 3);
	if (magic !== MAGIC || version !== VERSION) throw new Error("no pieces");
	const head = JSON.parse(new TextDecoder().decode(take(Uint8Array, headLength!))) as Head;
	const numbers = take(Float64Array, 2 + OF_PIECE * head.pieces.length + OF_CONTACT * head.contacts);
	const pairs = take(Int32Array, 2 * head.contacts);
	const triple = (from: number) => [numbers[from]!, numbers[from + 1]!, numbers[from + 2]!] as const;
	const pieces = head.pieces.map(({ key, name, sizes }, n): Piece => {
		const from = 2 + OF_PIECE * n;
		const mesh: Mesh = {
			positions: take(Float32Array, sizes[0]!),
			triangles: take(Uint32Array, sizes[1]!),
			uv: take(Float32Array, sizes[2]!),
			inside: take(Uint8Array, sizes[3]!),
			neighbour: take(Int32Array, sizes[4]!),
		};
		const opening = sizes.length > 5 && { closed: take(Float32Array, sizes[5]!), reached: take(Float32Array, sizes[6]!) };
		return { key, name, mesh, pivot: triple(from), volume: numbers[from + 3]!, area: numbers[from + 4]!, ...(opening && { opening }) };
	});
	const contacts = Array.from({ length: head.contacts }, (_, n): Contact => {
		const from = 2 + OF_PIECE * pieces.length + OF_CONTACT * n;
		return { a: pairs[2 * n]!, b: pairs[2 * n + 1]!, area: numbers[from]!, normal: triple(from + 1), centre: triple(from + 4) };
	});
	return { pieces, contacts, sourceVolume: numbers[0]!, lacking: numbers[1]! };
}
