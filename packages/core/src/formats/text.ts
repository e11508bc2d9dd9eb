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
