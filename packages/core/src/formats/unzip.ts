import { unzipSync } from "fflate";
import { bad, good, type Outcome } from "../common";
import type { Archive } from "./shotFile";

interface ArchiveLimits {
	/** In all, and of one file, once unpacked. */
	readonly bytes: number;
	readonly entry: number;
	/** Files. */
	readonly entries: number;
}

/** What may come out of a zip that is read file by file, and of one that is unpacked into memory. */
export const ARCHIVE_LIMITS: ArchiveLimits = { bytes: 8 * 1024 ** 3, entry: 512 * 1024 ** 2, entries: 100_000 };
const MEMORY_LIMITS: ArchiveLimits = { ...ARCHIVE_LIMITS, bytes: 2 * 1024 ** 3 };

/** What a zip's list of files says against opening it, before anything is unpacked; `size`: of the zip, bytes. */
export function archiveProblem(
	entries: readonly { readonly name: string; readonly packed: number; readonly unpacked: number }[],
	size: number,
	most = ARCHIVE_LIMITS,
): string | undefined {
	if (entries.length > most.entries)
		return `The zip holds ${entries.length.toLocaleString("en")} files; the most is ${most.entries.toLocaleString("en")}.`;
	const packed = entries.reduce((sum, entry) => sum + entry.packed, 0);
	if (packed > size) return "The zip says of its files that they lie in each other; it is damaged, or made to do harm.";
	const unpacked = entries.reduce((sum, entry) => sum + entry.unpacked, 0);
	const large = entries.find((entry) => entry.unpacked > most.entry);
	if (large) return `“${large.name.slice(0, 80)}” in the zip is larger than ${most.entry / 1024 ** 2} MB.`;
	return unpacked > most.bytes ? `The zip unpacks to more than ${most.bytes / 1024 ** 2} MB.` : undefined;
}

/** A zip in memory as an archive. Its list is looked at before anything is unpacked. */
export function archiveOf(bytes: Uint8Array, most = MEMORY_LIMITS): Outcome<Archive> {
	const entries: { readonly name: string; readonly packed: number; readonly unpacked: number }[] = [];
	try {
		unzipSync(bytes, {
			filter: ({ name, size, originalSize }) => {
				entries.push({ name, packed: size, unpacked: originalSize });
				// The number of files that the zip announces may be anything.
				if (entries.length > most.entries) throw new RangeError();
				return false;
			},
		});
	} catch (error) {
		if (!(error instanceof RangeError)) return bad(NO_ZIP);
	}
	const problem = archiveProblem(entries, bytes.length, most);
	if (problem) return bad(problem);
	let files: Record<string, Uint8Array>;
	try {
		files = unzipSync(bytes);
	} catch {
		return bad(NO_ZIP);
	}
	return good({
		names: Object.keys(files),
		read: (name) => (Object.hasOwn(files, name) ? good(files[name]!) : bad(`“${name}” is not in the zip.`)),
	});
}

export const NO_ZIP = "The file is no zip, or it is cut short. Copy it again.";
