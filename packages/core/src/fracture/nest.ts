import { transformMesh } from "../mesh";
import { contactsOnPlane } from "./contacts";
import { collect } from "./pieces";
import type { Contact, Piece, Pieces } from "./types";

/**
 * Pieces of which some were broken again. `broken` holds, by index, what became of a piece: its own pieces in the frame
 * of the source. They are named within their parent, `00007/00003`, and touch what their parent touched where they
 * lie against it.
 */
export function nest(outer: Pieces, broken: ReadonlyMap<number, Pieces>): Pieces {
	const pieces: Piece[] = [];
	const contacts: Contact[] = [];
	/** Indices of what each outer piece has become. */
	const became = outer.pieces.map((piece, i) => {
		const parts = broken.get(i);
		const first = pieces.length;
		if (!parts) {
			pieces.push(piece);
			return [first];
		}
		for (const part of parts.pieces) pieces.push({ ...part, key: `${piece.key}/${part.key}`, name: `${piece.name}/${part.name}` });
		contacts.push(...parts.contacts.map((contact) => ({ ...contact, a: contact.a + first, b: contact.b + first })));
		return parts.pieces.map((_, k) => first + k);
	});
	for (const contact of outer.contacts) {
		const [ones, others] = [became[contact.a]!, became[contact.b]!];
		if (!broken.has(contact.a) && !broken.has(contact.b)) contacts.push({ ...contact, a: ones[0]!, b: others[0]! });
		else
			contacts.push(
				...contactsOnPlane(
					[...ones, ...others].map((i) => ({ index: i, mesh: transformMesh(pieces[i]!.mesh, { translation: pieces[i]!.pivot }) })),
					contact,
				).filter(({ a, b }) => ones.includes(a) !== ones.includes(b)),
			);
	}
	return collect(
		pieces,
		contacts.sort((x, y) => x.a - y.a || x.b - y.b),
		outer.sourceVolume,
	);
}
