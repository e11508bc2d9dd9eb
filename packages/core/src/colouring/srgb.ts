/** The sRGB transfer function's power 2.4, by square roots and a cube: x^2.4 = x² · x^0.4; exact enough for 8 bits. */
export function linear(value: number): number {
	if (value <= 0.04045) return value / 12.92;
	const x = (value + 0.055) / 1.055;
	// x^0.4 = (x²)^(1/5), by Newton's iteration.
	let root = x;
	for (let i = 0; i < 40; i++) root -= (root ** 5 - x * x) / (5 * root ** 4);
	return Number((x * x * root).toPrecision(7));
}

/** And back, to 8 bits. */
export function eightBits(value: number): number {
	if (value <= 0.0031308) return Math.round(255 * 12.92 * Math.max(0, value));
	// x^(1/2.4) = (x^(1/12))^5, by bisection: exact enough for 8 bits, and the same everywhere.
	let [low, high] = [0, 1];
	for (let i = 0; i < 40; i++) {
		const middle = (low + high) / 2;
		if (middle ** 12 < value) low = middle;
		else high = middle;
	}
	return Math.round(255 * Math.min(1, 1.055 * low ** 5 - 0.055));
}

/** Linear RGB, 0 to 1 each, of `#rrggbb`. */
export const linearOf = (colour: string): [number, number, number] =>
	[1, 3, 5].map((k) => linear(Number.parseInt(colour.slice(k, k + 2), 16) / 255)) as [number, number, number];
