import { randomUUID } from "node:crypto";
import { readFile } from "node:fs/promises";
import { createRequire } from "node:module";
import { resolve } from "node:path";
import { samplePictures, sampleShot } from "@rubble/core/samples";
import { emptyShot, parseShot, SHOT_VERSION, type Shot } from "@rubble/core/shot";
import { and, desc, eq, isNotNull, isNull, sql } from "drizzle-orm";
import { putBlob } from "./blobs.server";
import { database, type Transaction } from "./database.server";
import { cancelJobsOf } from "./jobs.server";
import { lengthOf, membersOf, numberAt } from "./lenient.server";
import { shots, takes } from "./schema";

/** A shot as the yard shows it. */
export interface ShotCard {
	readonly id: string;
	readonly name: string;
	readonly note: string;
	readonly objects: number;
	readonly updatedAt: string;
	/** Since when it lies in the trash. */
	readonly deletedAt: string | null;
	readonly picture: string | null;
	/** Frames that its last take holds, of how many. */
	readonly take: { readonly name: string; readonly frames: number; readonly of: number } | null;
}

/** Days that a deleted shot lies in the trash. */
export const TRASH_DAYS = 30;

/** The shots of the yard, or those in the trash. Whatever a document holds, the list can be made. */
export async function listShots(trash = false): Promise<ShotCard[]> {
	const settings = sql`${shots.document}->'settings'`;
	const rows = await database
		.select({
			id: shots.id,
			name: shots.name,
			note: sql<string>`coalesce(${shots.document}->>'note', '')`,
			objects: membersOf(sql`${shots.document}->'objects'`),
			first: numberAt(sql`${settings}->'firstFrame'`),
			last: numberAt(sql`${settings}->'lastFrame'`),
			updatedAt: shots.updatedAt,
			deletedAt: shots.deletedAt,
			picture: sql<string | null>`case when ${shots.picture} is null then null else md5(${shots.picture}) end`,
		})
		.from(shots)
		.where(trash ? isNotNull(shots.deletedAt) : isNull(shots.deletedAt))
		.orderBy(desc(trash ? shots.deletedAt : shots.updatedAt));
	const runs = await database
		.selectDistinctOn([takes.shot], { shot: takes.shot, name: takes.name, frames: lengthOf(sql`${takes.take}->'frameHashes'`) })
		.from(takes)
		.orderBy(takes.shot, desc(takes.updatedAt));
	const latest = new Map(runs.map((run) => [run.shot, run]));
	return rows.map(({ first, last, updatedAt, deletedAt, picture, ...row }) => {
		const run = latest.get(row.id);
		return {
			...row,
			updatedAt: updatedAt.toISOString(),
			deletedAt: deletedAt?.toISOString() ?? null,
			picture: picture && `/api/shots/${row.id}/picture?v=${picture.slice(0, 8)}`,
			take: run ? { name: run.name, frames: run.frames, of: last - first + 1 } : null,
		};
	});
}

/** A shot as it is stored, brought up to date. Whatever is stored at today's version was looked at when it came in. */
export function current(id: string, document: unknown): Shot {
	if ((document as Partial<Shot> | null)?.version === SHOT_VERSION) return document as Shot;
	const parsed = parseShot(document);
	if (!parsed.ok) throw new Error(`Shot ${id} is damaged: ${parsed.problems[0]!.message}`);
	return parsed.value;
}

export async function loadShot(id: string): Promise<{ shot: Shot; revision: number; updatedAt: string } | undefined> {
	const [row] = await database
		.select({ document: shots.document, revision: shots.revision, updatedAt: shots.updatedAt })
		.from(shots)
		.where(and(eq(shots.id, id), isNull(shots.deletedAt)));
	return row && { shot: current(id, row.document), revision: row.revision, updatedAt: row.updatedAt.toISOString() };
}

export async function createShot(shot: Shot, within: Transaction | typeof database = database): Promise<string> {
	const id = randomUUID();
	await within.insert(shots).values({ id, name: shot.name, document: shot });
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

/** Into the trash, from which it can be taken back for a while. Its takes and its change log stay with it; its jobs end. */
export async function deleteShot(id: string): Promise<void> {
	await database
		.update(shots)
		.set({ deletedAt: new Date() })
		.where(and(eq(shots.id, id), isNull(shots.deletedAt)));
	await cancelJobsOf(id);
}

export async function restoreShot(id: string): Promise<void> {
	await database.update(shots).set({ deletedAt: null }).where(eq(shots.id, id));
}

/** For good: one shot of the trash, or all that have lain there for long enough. */
export async function emptyTrash(id?: string): Promise<number> {
	const old = sql`${shots.deletedAt} < now() - make_interval(days => ${TRASH_DAYS})`;
	const gone = await database
		.delete(shots)
		.where(id === undefined ? old : and(eq(shots.id, id), isNotNull(shots.deletedAt)))
		.returning({ id: shots.id });
	return gone.length;
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
