import { randomUUID } from "node:crypto";
import { readFile } from "node:fs/promises";
import { createRequire } from "node:module";
import { resolve } from "node:path";
import { samplePictures, sampleShot } from "@rubble/core/samples";
import { applyEdit, emptyShot, type Patch, parseShot, type Shot } from "@rubble/core/shot";
import { desc, eq, sql } from "drizzle-orm";
import { putBlob } from "./blobs.server";
import { database } from "./database.server";
import { edits, shots, takes } from "./schema";

/** A shot as the yard shows it. */
export interface ShotCard {
	readonly id: string;
	readonly name: string;
	readonly note: string;
	readonly objects: number;
	readonly updatedAt: string;
	readonly picture: string | null;
	/** Frames that its last take holds, of how many. */
	readonly take: { readonly name: string; readonly frames: number; readonly of: number } | null;
}

export async function listShots(): Promise<ShotCard[]> {
	const rows = await database
		.select({
			id: shots.id,
			name: shots.name,
			document: shots.document,
			updatedAt: shots.updatedAt,
			picture: sql<string | null>`case when ${shots.picture} is null then null else md5(${shots.picture}) end`,
		})
		.from(shots)
		.orderBy(desc(shots.updatedAt));
	const runs = await database
		.select({ shot: takes.shot, name: takes.name, frames: sql<number>`jsonb_array_length(${takes.take}->'frameHashes')` })
		.from(takes)
		.orderBy(desc(takes.updatedAt));
	return rows.map(({ id, name, document, updatedAt, picture }) => {
		const run = runs.find((other) => other.shot === id);
		return {
			id,
			name,
			note: document.note,
			objects: Object.keys(document.objects).length,
			updatedAt: updatedAt.toISOString(),
			picture: picture && `/api/shots/${id}/picture?v=${picture.slice(0, 8)}`,
			take: run ? { name: run.name, frames: run.frames, of: document.settings.lastFrame - document.settings.firstFrame + 1 } : null,
		};
	});
}

export async function loadShot(id: string): Promise<{ shot: Shot; revision: number; updatedAt: string } | undefined> {
	const [row] = await database.select().from(shots).where(eq(shots.id, id));
	if (!row) return undefined;
	const parsed = parseShot(row.document);
	if (!parsed.ok) throw new Error(`Shot ${id} is damaged: ${parsed.problems[0]!.message}`);
	return { shot: parsed.value, revision: row.revision, updatedAt: row.updatedAt.toISOString() };
}

export async function createShot(shot: Shot): Promise<string> {
	const id = randomUUID();
	await database.insert(shots).values({ id, name: shot.name, document: shot });
	return id;
}

const corePicture = (file: string): string => createRequire(import.meta.url).resolve(`@rubble/core/pictures/${file}`);

/** A fresh copy of a sample, with the picture that ships with it. */
export async function createSample(sample: string): Promise<string | undefined> {
	const shot = sampleShot(sample);
	if (!shot) return undefined;
	for (const [hash, file] of Object.entries(samplePictures(sample))) await putBlob(hash, await readFile(corePicture(file)));
	const id = await createShot(shot);
	const picture = await readFile(resolve(`public/samples/${sample}.webp`)).catch(() => undefined);
	if (picture) await savePicture(id, picture, "image/webp");
	return id;
}

export const newShot = (name: string): Promise<string> => createShot(emptyShot(name));

export async function duplicateShot(id: string): Promise<string | undefined> {
	const found = await loadShot(id);
	return found && createShot({ ...found.shot, name: `${found.shot.name} copy` });
}

export async function deleteShot(id: string): Promise<void> {
	await database.delete(shots).where(eq(shots.id, id));
}

export type PatchOutcome =
	| { readonly kind: "saved"; readonly revision: number; readonly at: string }
	| { readonly kind: "conflict"; readonly revision: number }
	| { readonly kind: "missing" }
	| { readonly kind: "invalid"; readonly message: string };

/** Applies an edit to the revision it starts from; anything else is a conflict, never overwritten. */
export async function patchShot(id: string, base: number, name: string, patches: readonly Patch[]): Promise<PatchOutcome> {
	return database.transaction(async (transaction): Promise<PatchOutcome> => {
		const [row] = await transaction.select().from(shots).where(eq(shots.id, id)).for("update");
		if (!row) return { kind: "missing" };
		if (row.revision !== base) return { kind: "conflict", revision: row.revision };
		// Edits are made on the document as it was opened: of this version.
		const current = parseShot(row.document);
		if (!current.ok) return { kind: "invalid", message: current.problems[0]!.message };
		let next: unknown;
		try {
			next = applyEdit(current.value, patches);
		} catch {
			return { kind: "invalid", message: "The change does not fit the shot." };
		}
		const parsed = parseShot(next);
		if (!parsed.ok) return { kind: "invalid", message: parsed.problems[0]!.message };
		const revision = base + 1;
		const updatedAt = new Date();
		await transaction.update(shots).set({ document: parsed.value, name: parsed.value.name, revision, updatedAt }).where(eq(shots.id, id));
		await transaction.insert(edits).values({ shot: id, revision, name, patches });
		return { kind: "saved", revision, at: updatedAt.toISOString() };
	});
}

export async function savePicture(id: string, picture: Uint8Array, type: string): Promise<void> {
	await database
		.update(shots)
		.set({ picture: Buffer.from(picture), pictureType: type })
		.where(eq(shots.id, id));
}

export async function loadPicture(id: string): Promise<{ bytes: Buffer; type: string } | undefined> {
	const [row] = await database.select({ bytes: shots.picture, type: shots.pictureType }).from(shots).where(eq(shots.id, id));
	return row?.bytes && row.type ? { bytes: row.bytes, type: row.type } : undefined;
}
