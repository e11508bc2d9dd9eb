import type { Mesh } from "../mesh";
import { contactsByCell, contactsBySurface } from "./contacts";
import { centred, collect } from "./pieces";
import type { Piece, Pieces } from "./types";

/** The connected parts of one cell, with `inside` and `neighbour` set. In the source's frame. */
export interface CarvedCell {
	readonly seed: number;
	readonly parts: readonly Mesh[];
	/** What the pieces are, where a method makes several kinds: `brick`, `mortar`. */
	readonly group?: string;
}

/** What `neighbour` says of an inside face: the cell beyond it, or the cut that it lies on (the same on both sides). */
export type FaceTags = "cell" | "surface";

/** Crumbs below this share of the source are rounding, not pieces. */
const LEAST_SHARE = 1e-10;

/**
 * Gives carved parts their names, pivots and shared faces. Cell n (counted from 1) becomes `0000n`; where it
 * fell into several connected parts the largest keeps that name and the others are `0000nb`, `0000nc`, …. With
 * groups each has its own count: `brick/00001`.
 */
export function assemble(carved: readonly CarvedCell[], sourceVolume: number, tags: FaceTags): Pieces {
	const pieces: Piece[] = [];
	/** Each piece's mesh before it was moved to its pivot. */
	const placed: Mesh[] = [];
	const cellOf: number[] = [];
	const membersOf = new Map<number, number[]>();
	const counts = new Map<string, number>();
	for (const cell of carved) {
		const number = cell.group === undefined ? cell.seed + 1 : (counts.get(cell.group) ?? 0) + 1;
		if (cell.group !== undefined) counts.set(cell.group, number);
		const prefix = cell.group === undefined ? "" : `${cell.group}/`;
		const parts = cell.parts
			.map((part) => ({ part, ...centred(part) }))
			.filter(({ volume }) => volume > LEAST_SHARE * sourceVolume)
			.sort((a, b) => b.volume - a.volume || a.pivot[0] - b.pivot[0] || a.pivot[1] - b.pivot[1]);
		membersOf.set(
			cell.seed,
			parts.map(({ part, ...measured }, n) => {
				pieces.push({
					key: `${prefix}${number}${n === 0 ? "" : `.${n + 1}`}`,
					name: `${prefix}${String(number).padStart(5, "0")}${suffix(n)}`,
					...measured,
				});
				placed.push(part);
				cellOf.push(cell.seed);
				return pieces.length - 1;
			}),
		);
	}
	return collect(pieces, tags === "cell" ? contactsByCell(placed, cellOf, membersOf) : contactsBySurface(placed), sourceVolume);
}

/** "" for the first, then b, c … z, then aa, ab …. */
function suffix(n: number): string {
	if (n === 0) return "";
	return n < 26 ? String.fromCharCode(97 + n) : suffix(Math.floor(n / 26)) + String.fromCharCode(97 + (n % 26));
}
