import { Zip, ZipDeflate, type Zippable, zipSync } from "fflate";
import { type Progress, report } from "../common";
import { joinBytes } from "./text";
import { type ExportScene, isSequence, type NamedFile, type SequenceFormat, type TakeFormat } from "./types";

/** Archives carry no clock: the same files give the same bytes. The earliest time that the format knows. */
const TIME = "1980-01-01T00:00:00";
/** Of compression: at 6, mesh sequences take nearly twice as long; binary ones get no smaller by it, text a fifth. */
const LEVEL = 1;

/** The files of a sequence, one at a time. */
export function* sequenceFiles(format: SequenceFormat, scene: ExportScene): Generator<NamedFile> {
	yield* format.shared(scene);
	for (let frame = scene.firstFrame; frame <= scene.lastFrame; frame++) yield format.frame(scene, frame);
}

/** A sequence in one archive. */
export const zipSequence = (format: SequenceFormat, scene: ExportScene, progress: Progress = {}): Promise<Uint8Array> =>
	zipFiles(sequenceFiles(format, scene), scene.lastFrame - scene.firstFrame + 1, progress);

/** What a format hands over as one file: a sequence is a zip. */
export const handedOver = (format: TakeFormat): { readonly extension: string; readonly mime: string } =>
	isSequence(format) ? { extension: "zip", mime: "application/zip" } : format;

/** A take as one file of this format. */
export const writeTake = async (format: TakeFormat, scene: ExportScene, progress: Progress = {}): Promise<Uint8Array> =>
	isSequence(format) ? zipSequence(format, scene, progress) : format.write(scene, progress);

/** Files in one archive, compressed as they come. `count`: about how many, for the progress. */
export async function zipFiles(files: Iterable<NamedFile>, count: number, progress: Progress = {}): Promise<Uint8Array> {
	const parts: Uint8Array[] = [];
	const zip = new Zip((error, part) => {
		if (error) throw error;
		parts.push(part);
	});
	let n = 0;
	for (const { name, bytes } of files) {
		const entry = new ZipDeflate(name, { level: LEVEL });
		entry.mtime = TIME;
		zip.add(entry);
		entry.push(bytes, true);
		await report(progress, Math.min(1, ++n / count), `File ${n} of ${count}`);
	}
	zip.end();
	return joinBytes(parts);
}

/**
 * Files stored without compression, each beginning at a multiple of `align` bytes, as USDZ wants it.
 * The filling is an extra field of the entry's head.
 */
export function storeFiles(files: readonly NamedFile[], align: number): Uint8Array {
	const HEAD = 30;
	const FIELD = 4;
	let at = 0;
	const entries: Zippable = {};
	for (const { name, bytes } of files) {
		const begin = at + HEAD + new TextEncoder().encode(name).length + FIELD;
		const filling = (align - (begin % align)) % align;
		at = begin + filling + bytes.length;
		entries[name] = [bytes, { level: 0, mtime: TIME, extra: { 6534: new Uint8Array(filling) } }];
	}
	// Sizes stand before the bytes, unlike in a stream: readers of USDZ look there.
	return zipSync(entries);
}
