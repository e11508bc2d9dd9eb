import type { Vec3 } from "../maths";
import type { ColouringPicture } from "../shot";

/** A picture's colours, sRGB: 3 bytes per pixel, rows from the top. */
export interface Pixels {
	readonly width: number;
	readonly height: number;
	readonly rgb: Uint8Array;
}

/** The colour of a picture, as it lies in the world, at a place; beyond its rim that of the rim. sRGB, 0 to 1 each. */
export function pixelAt({ width, height, rgb }: Pixels, lies: ColouringPicture, place: Vec3, into: [number, number, number]): void {
	const [right, up] = inPicture(lies, place);
	const metres = lies.width / width;
	const column = Math.min(width - 1, Math.max(0, Math.floor(width / 2 + right / metres)));
	const row = Math.min(height - 1, Math.max(0, Math.floor(height / 2 - up / metres)));
	for (let k = 0; k < 3; k++) into[k] = rgb[3 * (row * width + column) + k]! / 255;
}

/** Metres to the right of and above the picture's middle. */
function inPicture({ seen, middle }: ColouringPicture, [x, y, z]: Vec3): [right: number, up: number] {
	switch (seen) {
		case "front":
			return [x - middle[0], y - middle[1]];
		case "side":
			return [middle[2] - z, y - middle[1]];
		case "above":
			return [x - middle[0], middle[2] - z];
	}
}

/** So lies a picture that just covers some places: its middle among them, as wide as they need. Undefined without places. */
export function coveringPicture(
	seen: ColouringPicture["seen"],
	{ width, height }: Pick<Pixels, "width" | "height">,
	places: readonly Vec3[],
): Pick<ColouringPicture, "middle" | "width"> | undefined {
	if (places.length === 0) return undefined;
	const low = [0, 1, 2].map((k) => places.reduce((least, place) => Math.min(least, place[k]!), Number.POSITIVE_INFINITY));
	const high = [0, 1, 2].map((k) => places.reduce((most, place) => Math.max(most, place[k]!), Number.NEGATIVE_INFINITY));
	const extent = (k: number) => high[k]! - low[k]!;
	const across = extent(seen === "side" ? 2 : 0);
	const up = extent(seen === "above" ? 2 : 1);
	const middle = low.map((least, k) => (least + high[k]!) / 2) as unknown as Vec3;
	return { middle, width: Math.max(across, (up * width) / height) || 1 };
}
