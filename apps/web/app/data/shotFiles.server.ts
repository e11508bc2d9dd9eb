import { assetsOf, blobsOf, type PackedTake, packShot, type ShotFile } from "@rubble/core/formats";
import { assetHash } from "@rubble/core/shot";
import { eq } from "drizzle-orm";
import { getBlob, putBlob } from "./blobs.server";
import { database } from "./database.server";
import { takes } from "./schema";
import { createShot, loadShot } from "./shots.server";
import { createTake } from "./takes.server";

/** The bytes of stored things by their hashes; throws where one is gone. */
async function gather(hashes: Iterable<string>): Promise<Map<string, Uint8Array>> {
	const found = new Map<string, Uint8Array>();
	for (const hash of new Set(hashes)) {
		const bytes = await getBlob(hash);
		if (!bytes) throw new Error(`Something that belongs to the shot is not stored any more (${hash.slice(0, 12)}…).`);
		found.set(hash, new Uint8Array(bytes));
	}
	return found;
}

/** A shot as a file, with its takes where that is wanted. */
export async function saveShotFile(id: string, withTakes: boolean): Promise<{ name: string; bytes: Uint8Array } | undefined> {
	const found = await loadShot(id);
	if (!found) return undefined;
	const rows = withTakes ? await database.select().from(takes).where(eq(takes.shot, id)).orderBy(takes.createdAt) : [];
	const packed: PackedTake[] = [];
	for (const { name, note, take } of rows) packed.push({ name, note, take, bytes: await gather(blobsOf(take)) });
	const assets = await gather([found.shot, ...rows.map(({ take }) => take.snapshot)].flatMap(assetsOf).map(assetHash));
	return { name: found.shot.name, bytes: await packShot({ shot: found.shot, assets, takes: packed }) };
}

/** A file as a new shot in the yard. */
export async function openShotFile(file: ShotFile): Promise<string> {
	for (const [hash, bytes] of [...file.assets, ...file.takes.flatMap(({ bytes: own }) => [...own])]) await putBlob(hash, bytes);
	const id = await createShot(file.shot);
	for (const { name, note, take } of file.takes) await createTake(id, take, { name, note, shown: true });
	return id;
}
