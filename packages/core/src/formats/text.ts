/** UTF-8 text, or undefined where the bytes are none. */
export function textOf(bytes: Uint8Array): string | undefined {
	try {
		return new TextDecoder("utf-8", { fatal: true }).decode(bytes);
	} catch {
		return undefined;
	}
}

export const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);

/** A tight copy: the loaders want a buffer that holds the file and nothing else. */
export const tightBuffer = (bytes: Uint8Array): ArrayBuffer => bytes.slice().buffer as ArrayBuffer;

/** A number of a text file: the shortest decimal that is the same float32, and no −0. */
export function float(value: number): number {
	const wanted = Math.fround(value);
	for (let digits = 6; digits < 9; digits++) {
		const short = Number(value.toPrecision(digits));
		if (Math.fround(short) === wanted) return short + 0;
	}
	return Number(value.toPrecision(9)) + 0;
}

/** Several pieces of bytes as one. */
export function joinBytes(parts: readonly Uint8Array[]): Uint8Array {
	const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
	let at = 0;
	for (const part of parts) {
		out.set(part, at);
		at += part.length;
	}
	return out;
}
