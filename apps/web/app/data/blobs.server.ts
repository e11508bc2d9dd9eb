import { createHash } from "node:crypto";
import { promisify } from "node:util";
import { gunzip, gzip } from "node:zlib";
import { eq } from "drizzle-orm";
import { database } from "./database.server";
import { blobs } from "./schema";

const compress = promisify(gzip);
const expand = promisify(gunzip);

/** Stores bytes under their hash; storing the same again does nothing. False where the hash is not theirs. */
export async function putBlob(hash: string, bytes: Uint8Array): Promise<boolean> {
	if (createHash("sha256").update(bytes).digest("hex") !== hash) return false;
	// Level 1: frames and meshes are mostly float noise, and a run waits for this.
	const packed = await compress(bytes, { level: 1 });
	await database.insert(blobs).values({ hash, size: bytes.length, bytes: packed }).onConflictDoNothing();
	return true;
}

export async function getBlob(hash: string): Promise<Buffer<ArrayBuffer> | undefined> {
	const [row] = await database.select({ bytes: blobs.bytes }).from(blobs).where(eq(blobs.hash, hash));
	return row && ((await expand(row.bytes)) as Buffer<ArrayBuffer>);
}

export async function hasBlob(hash: string): Promise<boolean> {
	const rows = await database.select({ hash: blobs.hash }).from(blobs).where(eq(blobs.hash, hash));
	return rows.length > 0;
}
