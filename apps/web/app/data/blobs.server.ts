import { createHash } from "node:crypto";
import { promisify } from "node:util";
import { gunzip, gzip } from "node:zlib";
import { eq, sql } from "drizzle-orm";
import { database } from "./database.server";
import { blobs } from "./schema";

const compress = promisify(gzip);
const expand = promisify(gunzip);

/** Stores bytes under their hash; storing the same again only makes them young. False where the hash is not theirs. */
export async function putBlob(hash: string, bytes: Uint8Array): Promise<boolean> {
	if (createHash("sha256").update(bytes).digest("hex") !== hash) return false;
	// Level 1: frames and meshes are mostly float noise, and a run waits for this.
	const packed = await compress(bytes, { level: 1 });
	await database
		.insert(blobs)
		.values({ hash, size: bytes.length, bytes: packed })
		.onConflictDoUpdate({ target: blobs.hash, set: { createdAt: new Date() } });
	return true;
}

/** Stored bytes as they are stored, gzipped. */
export async function getPackedBlob(hash: string): Promise<Buffer | undefined> {
	const [row] = await database.select({ bytes: blobs.bytes }).from(blobs).where(eq(blobs.hash, hash));
	return row?.bytes;
}

export async function getBlob(hash: string): Promise<Buffer<ArrayBuffer> | undefined> {
	const packed = await getPackedBlob(hash);
	return packed && ((await expand(packed)) as Buffer<ArrayBuffer>);
}

/** Whether these bytes are stored already. They become young: whoever asks is about to refer to them. */
export async function touchBlob(hash: string): Promise<boolean> {
	const rows = await database.update(blobs).set({ createdAt: new Date() }).where(eq(blobs.hash, hash)).returning({ hash: blobs.hash });
	return rows.length > 0;
}

/**
 * Takes away what nothing refers to any more: frames of deleted takes, checkpoints of older runs. What is younger than a
 * day stays: somebody may be about to refer to it. So does what an edit of a shot has ever named, for undo.
 */
export async function dropUnusedBlobs(): Promise<number> {
	const gone = await database.execute(sql`
		with named as (
			select (regexp_matches(document::text, '[0-9a-f]{64}', 'g'))[1] as hash from shots
			union select (regexp_matches(take::text, '[0-9a-f]{64}', 'g'))[1] from takes
			union select (regexp_matches(file::text, '[0-9a-f]{64}', 'g'))[1] from jobs where file is not null
			union select (regexp_matches(patches::text, '[0-9a-f]{64}', 'g'))[1] from edits
			union select (regexp_matches(preset::text, '[0-9a-f]{64}', 'g'))[1] from presets
			union select (regexp_matches(fracture::text, '[0-9a-f]{64}', 'g'))[1] from jobs where fracture is not null
			union select blob from derived
		)
		delete from blobs
		where created_at < now() - interval '1 day' and not exists (select 1 from named where named.hash = blobs.hash)
		returning hash`);
	return gone.rows.length;
}
