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
