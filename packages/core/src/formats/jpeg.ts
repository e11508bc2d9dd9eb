import { decode } from "jpeg-js";
import { bad, good, type Outcome } from "../common";
import { sizeProblem } from "./png";

/** The decoder takes 0.4 s and 30 MB for a million pixels of the worst kind (noise). */
const MOST_PIXELS = 16_000_000;
/** Pixels times passes over them: a progressive picture has about ten, a hostile one thousands. */
const MOST_WORK = 160e6;

/** Decodes a JPEG once its frame and its passes are known to be bearable. Throws where it is damaged. */
export function decodeJpeg(bytes: Uint8Array): Outcome<{ readonly width: number; readonly height: number; readonly data: Uint8Array }> {
	const { frames, scans } = segmentsOf(bytes);
	if (frames.length === 0 || scans === 0) return bad("The picture has no frame; it is damaged.");
	if (frames.length > 1) return bad("The picture has several frames; a JPEG has one. It is damaged.");
	const [frame] = frames;
	const problem = sizeProblem(frame!.width, frame!.height, 3);
	if (problem) return bad(problem);
	const pixels = frame!.width * frame!.height;
	if (pixels > MOST_PIXELS)
		return bad(
			`The picture has ${pixels.toLocaleString("en")} pixels; a JPEG may have up to ${MOST_PIXELS.toLocaleString("en")}. Make it smaller.`,
		);
	if (pixels * scans > MOST_WORK)
		return bad(
			`The picture goes over its pixels ${scans.toLocaleString("en")} times, which takes too long. Save it again as a plain JPEG or a PNG.`,
		);
	// Not tolerant: of a damaged picture the rest would be decoded for nothing.
	return good(decode(bytes, { useTArray: true, tolerantDecoding: false, maxResolutionInMP: MOST_PIXELS / 1e6, maxMemoryUsageInMB: 512 }));
}

/** Sizes of its frames and the number of its scans, by the markers between the coded data (ITU T.81, annex B). */
function segmentsOf(bytes: Uint8Array) {
	const frames: { readonly width: number; readonly height: number }[] = [];
	let scans = 0;
	let at = 2;
	while (at + 4 <= bytes.length) {
		if (bytes[at] !== 0xff) {
			at++;
			continue;
		}
		const marker = bytes[at + 1]!;
		// Filling, stuffed zeros, restarts and the beginning have no length.
		if (marker === 0xff || marker === 0 || marker === 1 || (marker >= 0xd0 && marker <= 0xd8)) {
			at += marker === 0xff ? 1 : 2;
			continue;
		}
		if (marker === 0xd9) break;
		const length = (bytes[at + 2]! << 8) | bytes[at + 3]!;
		if (marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc && at + 9 <= bytes.length)
			frames.push({ height: (bytes[at + 5]! << 8) | bytes[at + 6]!, width: (bytes[at + 7]! << 8) | bytes[at + 8]! });
		if (marker === 0xda) scans++;
		at += 2 + Math.max(2, length);
	}
	return { frames, scans };
}
