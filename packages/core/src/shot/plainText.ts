/** What no name may hold: control characters (U+0000 to U+001F, U+007F), of which no storage takes the first. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is looked for
const CONTROL = /[\u0000-\u001f\u007f]/g;

/**
 * What no text of a document may hold: NUL, which the database refuses, and halves of characters (lone surrogates), which no
 * UTF-8 can say.
 */
export const isStorable = (text: string): boolean => !text.includes("\0") && text.isWellFormed();

/** A name out of a file or a field, without what cannot be stored or shown; at most `most` characters, none of them cut in two. */
export function plainName(text: string, most = 120): string {
	const clean = text
		.toWellFormed()
		.replace(CONTROL, " ")
		.replace(/[/\ufffd]/g, " ")
		.trim();
	return Array.from(clean.slice(0, 2 * most))
		.slice(0, most)
		.join("")
		.trim()
		.toWellFormed();
}
