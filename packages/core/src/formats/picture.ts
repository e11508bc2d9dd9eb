import type { Pixels } from "../colouring";
import { bad, good, type Outcome } from "../common";
import type { Picture } from "../fracture";
import { decodeJpeg } from "./jpeg";
import { decodePng } from "./png";

/** Pictures are averaged down to this many pixels on their longer side: joints are found as well, and faster. */
const WORKING_SIZE = 1200;
/** Bodies take single colours from a picture: they need no finer one. */
const COLOUR_SIZE = 400;

/** `png` or `jpg`, of a picture that has been read before. */
export const pictureExtension = (bytes: Uint8Array): "png" | "jpg" => (bytes[0] === 0xff ? "jpg" : "png");

/** Brightness of a PNG or JPEG picture. */
export function readPicture(bytes: Uint8Array): Outcome<Picture> {
	const read = readColours(bytes);
	if (!read.ok) return read;
	const { width, height, average } = shrink(read.value, WORKING_SIZE);
	const values = new Float32Array(width * height);
	for (let i = 0; i < values.length; i++) values[i] = luminance(...average(i));
	return good({ width, height, values });
}

/** Colours of a PNG or JPEG picture. */
export function readPixels(bytes: Uint8Array): Outcome<Pixels> {
	const read = readColours(bytes);
	if (!read.ok) return read;
	const { width, height, average } = shrink(read.value, COLOUR_SIZE);
	const rgb = new Uint8Array(3 * width * height);
	for (let i = 0; i < width * height; i++)
		rgb.set(
			average(i).map((value) => Math.round(255 * value)),
			3 * i,
		);
	return good({ width, height, rgb });
}

type Rgb = [red: number, green: number, blue: number];

interface Colours {
	readonly width: number;
	readonly height: number;
	/** sRGB, 0 to 1. */
	readonly at: (pixel: number, into: Rgb) => void;
}

const DAMAGED = "The picture is damaged and cannot be read. Open it in another program and save it again.";

/** The one boundary of pictures: whatever a decoder makes of damaged bytes, it is said in a sentence. */
function readColours(bytes: Uint8Array): Outcome<Colours> {
	try {
		if (bytes[0] === 0x89 && bytes[1] === 0x50) return fromPng(bytes);
		if (bytes[0] === 0xff && bytes[1] === 0xd8) {
			const decoded = decodeJpeg(bytes);
			if (!decoded.ok) return decoded;
			const { width, height, data } = decoded.value;
			return good({ width, height, at: reader(data, 4, 255) });
		}
		return bad("This is no picture that can be read; take a PNG or a JPEG.");
	} catch {
		return bad(DAMAGED);
	}
}

function fromPng(bytes: Uint8Array): Outcome<Colours> {
	const decoded = decodePng(bytes);
	if (!decoded.ok) return decoded;
	const { width, height, data, channels, depth, palette } = decoded.value;
	const most = depth === 16 ? 65_535 : depth < 8 ? 2 ** depth - 1 : 255;
	if (!palette) return data.length < width * height * channels ? bad(DAMAGED) : good({ width, height, at: reader(data, channels, most) });
	if (data.length < width * height || data.some((index) => index >= palette.length)) return bad(DAMAGED);
	const at = (pixel: number, into: Rgb) => {
		for (let k = 0; k < 3; k++) into[k] = palette[data[pixel]!]![k]! / 255;
	};
	return good({ width, height, at });
}

/** Of values one after the other: grey, grey and alpha, colours, or colours and alpha. */
const reader =
	(data: ArrayLike<number>, channels: number, most: number): Colours["at"] =>
	(pixel, into) => {
		for (let k = 0; k < 3; k++) into[k] = data[channels * pixel + (channels < 3 ? 0 : k)]! / most;
	};

/** Rec. 709 weights. */
const luminance = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;

/** The picture with blocks of pixels averaged, so that its longer side has at most `size`. */
function shrink({ width, height, at }: Colours, size: number) {
	const step = Math.max(1, Math.ceil(Math.max(width, height) / size));
	const w = Math.max(1, Math.floor(width / step));
	const h = Math.max(1, Math.floor(height / step));
	// A side may be shorter than a block.
	const [across, down] = [Math.min(step, width), Math.min(step, height)];
	const rgb: Rgb = [0, 0, 0];
	const sum: Rgb = [0, 0, 0];
	const average = (i: number): Rgb => {
		const corner = Math.floor(i / w) * step * width + (i % w) * step;
		sum.fill(0);
		for (let dy = 0; dy < down; dy++)
			for (let dx = 0; dx < across; dx++) {
				at(corner + dy * width + dx, rgb);
				for (let k = 0; k < 3; k++) sum[k]! += rgb[k]!;
			}
		for (let k = 0; k < 3; k++) sum[k]! /= across * down;
		return sum;
	};
	return { width: w, height: h, average };
}
