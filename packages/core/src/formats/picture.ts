import { decode as decodePng } from "fast-png";
import { decode as decodeJpeg } from "jpeg-js";
import { bad, good, type Outcome } from "../common";
import type { Picture } from "../fracture";

const MOST_PIXELS = 32_000_000;
/** Pictures are averaged down to this many pixels on their longer side: joints are found as well, and faster. */
const WORKING_SIZE = 1200;

/** Brightness of a PNG or JPEG picture. */
export function readPicture(bytes: Uint8Array): Outcome<Picture> {
	try {
		if (bytes[0] === 0x89 && bytes[1] === 0x50) return fromPng(bytes);
		if (bytes[0] === 0xff && bytes[1] === 0xd8) {
			const { width, height, data } = decodeJpeg(bytes, {
				useTArray: true,
				maxResolutionInMP: MOST_PIXELS / 1e6,
				maxMemoryUsageInMB: 1024,
			});
			return good(shrink(width, height, (i) => luminance(data[4 * i]!, data[4 * i + 1]!, data[4 * i + 2]!) / 255));
		}
		return bad("This is no picture that can be read; take a PNG or a JPEG.");
	} catch (error) {
		return bad(`The picture is damaged: ${error instanceof Error ? error.message : error}.`);
	}
}

function fromPng(bytes: Uint8Array): Outcome<Picture> {
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	if (bytes.length > 24 && view.getUint32(16) * view.getUint32(20) > MOST_PIXELS)
		return bad(
			`The picture has ${(view.getUint32(16) * view.getUint32(20)).toLocaleString("en")} pixels; the most is ${MOST_PIXELS.toLocaleString("en")}.`,
		);
	const { width, height, data, channels, depth, palette } = decodePng(bytes);
	const most = depth === 16 ? 65_535 : depth < 8 ? 2 ** depth - 1 : 255;
	if (palette)
		return good(shrink(width, height, (i) => luminance(palette[data[i]!]![0]!, palette[data[i]!]![1]!, palette[data[i]!]![2]!) / 255));
	return good(
		shrink(width, height, (i) =>
			channels < 3 ? data[channels * i]! / most : luminance(data[channels * i]!, data[channels * i + 1]!, data[channels * i + 2]!) / most,
		),
	);
}

/** Rec. 709 weights. */
const luminance = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;

function shrink(width: number, height: number, at: (pixel: number) => number): Picture {
	const step = Math.max(1, Math.ceil(Math.max(width, height) / WORKING_SIZE));
	const w = Math.max(1, Math.floor(width / step));
	const h = Math.max(1, Math.floor(height / step));
	const values = new Float32Array(w * h);
	for (let y = 0; y < h; y++)
		for (let x = 0; x < w; x++) {
			let sum = 0;
			for (let dy = 0; dy < step; dy++) for (let dx = 0; dx < step; dx++) sum += at((y * step + dy) * width + x * step + dx);
			values[y * w + x] = sum / (step * step);
		}
	return { width: w, height: h, values };
}
