import { randomUUID } from "node:crypto";
import type { Take } from "@rubble/core/simulation";
import { withChunk } from "@rubble/core/simulation";
import { and, desc, eq } from "drizzle-orm";
import { database } from "./database.server";
import { takes } from "./schema";

export interface StoredTake {
	readonly id: string;
	readonly take: Take;
}

/** The take that a run goes on with: the newest that is not locked. */
export async function loadTake(shot: string): Promise<StoredTake | undefined> {
	const [row] = await database
		.select({ id: takes.id, take: takes.take })
		.from(takes)
		.where(and(eq(takes.shot, shot), eq(takes.locked, false)))
		.orderBy(desc(takes.updatedAt))
		.limit(1);
	return row;
}

/** Begins a run: the shot's working take gets a new snapshot and keeps the chunks that still hold. */
export async function beginTake(shot: string, take: Take): Promise<string> {
	const known = await loadTake(shot);
	const id = known?.id ?? randomUUID();
	await database
		.insert(takes)
		.values({ id, shot, name: take.name, take })
		.onConflictDoUpdate({ target: takes.id, set: { take, updatedAt: new Date() } });
	return id;
}

export interface ChunkFacts {
	readonly firstFrame: number;
	readonly frames: number;
	readonly hash: string;
	readonly checkpoint: string | null;
}

/** Adds a chunk whose bytes are stored already. False where the take is gone. */
export async function addTakeChunk(id: string, chunk: ChunkFacts): Promise<boolean> {
	return database.transaction(async (transaction) => {
		const [row] = await transaction.select({ take: takes.take }).from(takes).where(eq(takes.id, id)).for("update");
		if (!row) return false;
		const next = withChunk(row.take, chunk, chunk.hash, chunk.checkpoint);
		await transaction.update(takes).set({ take: next, updatedAt: new Date() }).where(eq(takes.id, id));
		return true;
	});
}

export async function chunkHash(id: string, firstFrame: number): Promise<string | undefined> {
	const [row] = await database.select({ take: takes.take }).from(takes).where(eq(takes.id, id));
	return row?.take.chunks.find((chunk) => chunk.firstFrame === firstFrame)?.hash;
}
