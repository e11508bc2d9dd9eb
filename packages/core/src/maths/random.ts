/**
 * Randomness is a pure function of (seed, item, channel): adding an item never reshuffles the others.
 * The mixing is two rounds of the finaliser of MurmurHash3 (Appleby 2011) on 32-bit integers.
 */
export function random(seed: number, item: number, channel: number): number {
	let h = mix32((seed | 0) ^ 0x9e3779b9);
	h = mix32(h ^ Math.imul(item | 0, 0x85ebca6b));
	h = mix32(h ^ Math.imul(channel | 0, 0xc2b2ae35));
	return (h >>> 0) / 4294967296;
}

/** A 32-bit seed from a text, such as an id (FNV-1a). */
export function seedOf(text: string): number {
	let h = 0x811c9dc5;
	for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
	return h | 0;
}

function mix32(value: number): number {
	let h = value + 0x9e3779b9;
	h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
	h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
	return h ^ (h >>> 16);
}
