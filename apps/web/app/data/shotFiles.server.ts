import { createHash } from "node:crypto";
import { createWriteStream } from "node:fs";
import { mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Readable } from "node:stream";
import { buffer } from "node:stream/consumers";
import { pipeline } from "node:stream/promises";
import { setImmediate as othersTurn } from "node:timers/promises";
import { promisify } from "node:util";
import { createGunzip } from "node:zlib";
import { bad, good, type Outcome } from "@rubble/core/common";
import { ARCHIVE_LIMITS, type Archive, archiveProblem, NO_ZIP, readShotFile, type ShotFile, shotFileParts } from "@rubble/core/formats";
import { eq } from "drizzle-orm";
import yauzl, { type Entry, type ZipFile } from "yauzl";
import yazl from "yazl";
import { getPackedBlob, putBlob } from "./blobs.server";
import { database } from "./database.server";
import { partsOf } from "./requests.server";
import { takes } from "./schema";
import { createShot, loadShot } from "./shots.server";
import { createTake } from "./takes.server";

/** Archives carry no clock: the same shot gives the same bytes. The earliest time that the format knows. */
const TIME = new Date(1980, 0, 1);
const MOST_FILE_BYTES = 4 * 1024 ** 3;

/** A shot as a zip that is made while it is read, with its takes where that is wanted. Packing is done beside the server's thread. */
export async function saveShotFile(id: string, withTakes: boolean): Promise<{ name: string; stream: ReadableStream } | undefined> {
	const found = await loadShot(id);
	if (!found) return undefined;
	const rows = withTakes ? await database.select().from(takes).where(eq(takes.shot, id)).orderBy(takes.createdAt) : [];
	const file: ShotFile = { shot: found.shot, takes: rows.map(({ name, note, take }) => ({ name, note, take })) };
	const zip = new yazl.ZipFile();
	const options = { mtime: TIME, compressionLevel: 1, forceDosTimestamp: true };
	for (const part of shotFileParts(file)) {
		if ("bytes" in part) zip.addBuffer(Buffer.from(part.bytes), part.name, options);
		else
			zip.addReadStreamLazy(part.name, options, (give) => {
				getPackedBlob(part.hash).then(
					(packed) => {
						if (packed) give(null, Readable.from([packed]).pipe(createGunzip()));
						else
							give(new Error(`Something that belongs to the shot is not stored any more (${part.hash.slice(0, 12)}…).`), Readable.from([]));
					},
					(error: Error) => give(error, Readable.from([])),
				);
			});
	}
	const output = zip.outputStream as Readable;
	zip.on("error", (error: Error) => output.destroy(error));
	zip.end();
	return { name: found.shot.name, stream: Readable.toWeb(output) as ReadableStream };
}

const openZip = promisify<string, yauzl.Options, ZipFile>(yauzl.open);

/** Opens a file as a new shot in the yard: all of it, or nothing. It goes through a file beside, so that it never lies in memory whole. */
export async function openShotFile(request: Request): Promise<Outcome<string>> {
	const folder = await mkdtemp(join(tmpdir(), "rubble-shot-"));
	let zip: ZipFile | undefined;
	try {
		const path = join(folder, "shot.zip");
		await pipeline(partsOf(request, MOST_FILE_BYTES), createWriteStream(path));
		zip = await openZip(path, { lazyEntries: true, autoClose: false }).catch(() => undefined);
		if (!zip) return bad(NO_ZIP);
		const archive = await archiveIn(zip);
		if (!archive.ok) return archive;
		const file = await readShotFile({ ...archive.value, pause: othersTurn }, async (hash, bytes) => void (await putBlob(hash, bytes)));
		if (!file.ok) return file;
		return await database.transaction(async (transaction) => {
			const id = await createShot(file.value.shot, transaction);
			for (const { name, note, take } of file.value.takes) await createTake(id, take, { name, note, shown: true }, transaction);
			return good(id);
		});
	} finally {
		zip?.close();
		await rm(folder, { recursive: true, force: true });
	}
}

/** The zip's list, looked at before anything is unpacked; what is in it is unpacked file by file, by other threads. */
async function archiveIn(zip: ZipFile): Promise<Outcome<Archive>> {
	const entries = new Map<string, Entry>();
	const listed = await new Promise<string | undefined>((resolve) => {
		zip.on("entry", (entry: Entry) => {
			entries.set(entry.fileName, entry);
			if (entries.size > ARCHIVE_LIMITS.entries) resolve(undefined);
			else zip.readEntry();
		});
		zip.once("error", () => resolve("The zip's list of files is damaged. Copy the file again."));
		zip.once("end", () => resolve(undefined));
		zip.readEntry();
	});
	const facts = [...entries.values()].map(({ fileName, compressedSize, uncompressedSize }) => ({
		name: fileName,
		packed: compressedSize,
		unpacked: uncompressedSize,
	}));
	const problem = listed ?? archiveProblem(facts, zip.fileSize);
	if (problem) return bad(problem);
	const openStream = promisify<Entry, Readable>(zip.openReadStream.bind(zip));
	return good({
		hash: (bytes) => createHash("sha256").update(bytes).digest("hex"),
		names: [...entries.keys()].filter((name) => !name.endsWith("/")),
		read: async (name) => {
			const entry = entries.get(name);
			if (!entry) return bad(`“${name}” is not in the zip.`);
			try {
				// The library ends it where more comes out than the list says.
				return good(new Uint8Array(await buffer(await openStream(entry))));
			} catch {
				return bad(`“${name}” in the zip is damaged. Copy the file again.`);
			}
		},
	});
}
