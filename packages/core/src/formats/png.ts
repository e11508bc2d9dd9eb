import { decode } from "fast-png";
import { Unzlib } from "fflate";
import { bad, good, type Outcome } from "../common";
import { joinBytes } from "./text";

/** Bytes of colours that a picture may come to: 32 million pixels of 8-bit RGB. */
export const MOST_PICTURE_BYTES = 96 * 1024 * 1024;
/** Pixels on one side: what no camera, scanner or renderer exceeds, and JPEG cannot. */
export const MOST_SIDE = 65_535;

const SIGNATURE = 8;
/** Length, type and check sum around the data of a chunk. */
const AROUND = 12;
/** What makes the picture; all others (profiles, texts, times, previews) may hold anything, and are left out before it is decoded. */
const KEPT = new Set(["IHDR", "PLTE", "tRNS", "IDAT", "IEND"]);
const CHANNELS: Readonly<Record<number, number>> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 };

/** Decodes a PNG once it is known that its pixels are no more than it says, and not too many. Throws where it is damaged. */
export function decodePng(bytes: Uint8Array): Outcome<ReturnType<typeof decode>> {
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	const kept: Uint8Array[] = [bytes.subarray(0, SIGNATURE)];
	const data: Uint8Array[] = [];
	for (let at = SIGNATURE; at + AROUND <= bytes.length; ) {
		const length = view.getUint32(at);
		const type = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
		const next = at + AROUND + length;
		if (next > bytes.length) return bad("The picture ends before its data do; it is cut short. Copy it again.");
		if (KEPT.has(type)) kept.push(bytes.subarray(at, next));
		if (type === "IDAT") data.push(bytes.subarray(at + 8, at + 8 + length));
		at = next;
		if (type === "IEND") break;
	}
	if (bytes.length < SIGNATURE + AROUND + 13 || view.getUint32(12) !== 0x49484452) return bad("The picture has no header; it is damaged.");
	const [width, height] = [view.getUint32(16), view.getUint32(20)];
	const [depth, colour, interlaced] = [bytes[24]!, bytes[25]!, bytes[28] !== 0];
	const problem = sizeProblem(width, height, ((CHANNELS[colour] ?? 4) * depth) / 8);
	if (problem) return bad(problem);
	const row = Math.ceil((width * (CHANNELS[colour] ?? 4) * depth) / 8) + 1;
	// The seven passes of an interlaced picture each round their rows up.
	const expected = interlaced ? 2 * (row + 8) * (height + 8) : row * height;
	if (unpacksTo(data, expected) > expected)
		return bad("The picture holds more data than it has pixels; it is damaged, or made to do harm.");
	return good(decode(joinBytes(kept)));
}

/** What a picture's size says against decoding it. `bytes`: of a pixel. */
export function sizeProblem(width: number, height: number, bytes: number): string | undefined {
	if (width < 1 || height < 1) return "The picture has no pixels.";
	if (width > MOST_SIDE || height > MOST_SIDE)
		return `The picture is ${width.toLocaleString("en")} × ${height.toLocaleString("en")} pixels; the most on a side is ${MOST_SIDE.toLocaleString("en")}.`;
	if (width * height * Math.max(1, bytes) > MOST_PICTURE_BYTES)
		return `The picture has ${(width * height).toLocaleString("en")} pixels, which take ${Math.ceil((width * height * Math.max(1, bytes)) / 1048576)} MB; the most is ${MOST_PICTURE_BYTES / 1048576} MB. Make it smaller.`;
	return undefined;
}

class Enough extends Error {}

/** How many bytes come out of a zlib stream, counted as they come; a little more than `most` where there are more. */
function unpacksTo(parts: readonly Uint8Array[], most: number): number {
	let size = 0;
	const stream = new Unzlib((chunk) => {
		size += chunk.length;
		if (size > most) throw new Enough();
	});
	// In small bites, so that what comes out at once is small, too.
	const BITE = 16_384;
	try {
		for (const part of parts) for (let at = 0; at < part.length; at += BITE) stream.push(part.subarray(at, at + BITE), false);
	} catch (error) {
		if (!(error instanceof Enough)) throw error;
	}
	return size;
}
