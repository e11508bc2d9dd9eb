import { randomUUID } from "node:crypto";
import { parseShot, SHOT_VERSION, unusedName } from "@rubble/core/shot";
import type { Take } from "@rubble/core/simulation";
import { BUILD_ID, withChunk } from "@rubble/core/simulation";
import type { TakeChange } from "@rubble/core/takes";
import { and, asc, desc, eq, sql } from "drizzle-orm";
import { database, type Transaction } from "./database.server";
import { lengthOf, numberAt } from "./lenient.server";
import { jobs, takes } from "./schema";

export interface StoredTake {
	readonly id: string;
	readonly name: string;
	readonly locked: boolean;
	readonly take: Take;
}

/** A take as lists show it. */
export interface TakeCard {
	readonly id: string;
	readonly name: string;
	readonly note: string;
	readonly locked: boolean;
	readonly picked: boolean;
	readonly changes: readonly TakeChange[];
	readonly frames: number;
	readonly firstFrame: number;
	readonly lastFrame: number;
	readonly bodies: number;
	readonly updatedAt: string;
	/** A job that is to make it, where it is not done. */
	readonly job: { readonly id: string; readonly state: string; readonly fraction: number } | null;
}

const card = {
	id: takes.id,
	name: takes.name,
	note: takes.note,
	locked: takes.locked,
	picked: takes.picked,
	changes: takes.changes,
	frames: lengthOf(sql`${takes.take}->'frameHashes'`),
	firstFrame: numberAt(sql`${takes.take}->'snapshot'->'settings'->'firstFrame'`),
	lastFrame: numberAt(sql`${takes.take}->'snapshot'->'settings'->'lastFrame'`),
	bodies: lengthOf(sql`${takes.take}->'bodies'`),
	updatedAt: takes.updatedAt,
};

/** All takes of a shot, in the order in which they were made. */
export async function listTakes(shot: string): Promise<TakeCard[]> {
	const rows = await database.select(card).from(takes).where(eq(takes.shot, shot)).orderBy(asc(takes.createdAt), asc(takes.name));
	const working = await database
		.select({ id: jobs.id, take: jobs.take, state: jobs.state, fraction: jobs.fraction })
		.from(jobs)
		.where(and(eq(jobs.shot, shot), eq(jobs.kind, "run")))
		.orderBy(asc(jobs.createdAt));
	return rows.map((row) => {
		const job = working.findLast(({ take, state }) => take === row.id && state !== "done");
		return { ...row, updatedAt: row.updatedAt.toISOString(), job: job ? { id: job.id, state: job.state, fraction: job.fraction } : null };
	});
}

const stored = { id: takes.id, name: takes.name, locked: takes.locked, take: takes.take };

/** Snapshots of earlier versions are brought up to date; their frames stay what they are. */
function current<T extends { readonly take: Take }>(row: T): T {
	if (row.take.snapshot.version === SHOT_VERSION) return row;
	const snapshot = parseShot(row.take.snapshot);
	return snapshot.ok ? { ...row, take: { ...row.take, snapshot: snapshot.value } } : row;
}

/** The take that is shown when the shot is opened: the one that was on show last. */
export async function shownTake(shot: string): Promise<StoredTake | undefined> {
	const [row] = await database.select(stored).from(takes).where(eq(takes.shot, shot)).orderBy(desc(takes.shownAt)).limit(1);
	return row && current(row);
}

export async function loadTake(id: string): Promise<StoredTake | undefined> {
	const [row] = await database.select(stored).from(takes).where(eq(takes.id, id));
	return row && current(row);
}

/** A take and the run that may fill it: until another one begins, or the take is locked. */
export interface BegunTake {
	readonly id: string;
	readonly name: string;
	readonly run: string;
}

/** A new take of a shot, with a name that no other of its takes has. */
export async function createTake(
	shot: string,
	take: Take,
	{
		name,
		note = "",
		changes = [],
		locked = false,
		shown,
	}: { name: string; note?: string; changes?: readonly TakeChange[]; locked?: boolean; shown: boolean },
	within: Transaction | typeof database = database,
): Promise<BegunTake> {
	const others = await within.select({ name: takes.name }).from(takes).where(eq(takes.shot, shot));
	const free = unusedName(
		name,
		others.map((other) => other.name),
	);
	const id = randomUUID();
	const run = randomUUID();
	await within
		.insert(takes)
		.values({ id, shot, name: free, note, changes, locked, run, take: { ...take, name: free }, ...(!shown && { shownAt: new Date(0) }) });
	return { id, name: free, run };
}

/** A take that has not been run yet. */
export const emptyTake = (name: string, snapshot: Take["snapshot"]): Take => ({
	format: "mighty-rubble-take",
	version: 1,
	name,
	snapshot,
	build: BUILD_ID,
	bodies: [],
	frameHashes: [],
	chunks: [],
});

/** Begins a run into a take: a new snapshot, and the chunks that still hold. A run that was at it is heard no more. */
export async function beginTake(id: string, take: Take): Promise<BegunTake | "missing" | "locked"> {
	return database.transaction(async (transaction) => {
		const [row] = await transaction.select({ locked: takes.locked, name: takes.name }).from(takes).where(eq(takes.id, id)).for("update");
		if (!row) return "missing";
		if (row.locked) return "locked";
		const now = new Date();
		const run = randomUUID();
		await transaction
			.update(takes)
			.set({ take: { ...take, name: row.name }, run, changes: [] as readonly TakeChange[], updatedAt: now, shownAt: now })
			.where(eq(takes.id, id));
		return { id, name: row.name, run };
	});
}

export interface TakeFacts {
	readonly name?: string | undefined;
	readonly note?: string | undefined;
	readonly locked?: boolean | undefined;
	readonly picked?: boolean | undefined;
	readonly shown?: boolean | undefined;
}

/** Changes what is said of a take. At most one of a shot is the picked one. A take that is locked takes no more frames. */
export async function changeTake(id: string, { shown, ...facts }: TakeFacts): Promise<"done" | "missing" | "taken"> {
	return database.transaction(async (transaction) => {
		const [row] = await transaction.select({ shot: takes.shot }).from(takes).where(eq(takes.id, id)).for("update");
		if (!row) return "missing";
		if (facts.name !== undefined) {
			const others = await transaction
				.select({ id: takes.id })
				.from(takes)
				.where(and(eq(takes.shot, row.shot), eq(takes.name, facts.name)));
			if (others.some((other) => other.id !== id)) return "taken";
		}
		if (facts.picked) await transaction.update(takes).set({ picked: false }).where(eq(takes.shot, row.shot));
		await transaction
			.update(takes)
			.set({ ...facts, ...(facts.locked && { run: "" }), ...(shown && { shownAt: new Date() }), id })
			.where(eq(takes.id, id));
		return "done";
	});
}

/** A copy with the same frames; they are stored once. */
export async function duplicateTake(id: string): Promise<BegunTake | undefined> {
	const [row] = await database.select().from(takes).where(eq(takes.id, id));
	return row && createTake(row.shot, row.take, { name: row.name, note: row.note, changes: row.changes, shown: true });
}

export async function deleteTake(id: string): Promise<"done" | "missing" | "locked"> {
	const [row] = await database.select({ locked: takes.locked }).from(takes).where(eq(takes.id, id));
	if (!row) return "missing";
	if (row.locked) return "locked";
	await database.delete(takes).where(eq(takes.id, id));
	return "done";
}

export interface ChunkFacts {
	readonly firstFrame: number;
	readonly frames: number;
	readonly hash: string;
	readonly checkpoint: string | null;
}

/** Adds a chunk whose bytes are stored already, where the take is still this run's. */
export async function addTakeChunk(id: string, run: string, chunk: ChunkFacts): Promise<"added" | "missing" | "locked" | "elsewhere"> {
	return database.transaction(async (transaction) => {
		const [row] = await transaction
			.select({ take: takes.take, run: takes.run, locked: takes.locked })
			.from(takes)
			.where(eq(takes.id, id))
			.for("update");
		if (!row) return "missing";
		if (row.run === "" || row.run !== run) return row.locked ? "locked" : "elsewhere";
		const next = withChunk(row.take, chunk, chunk.hash, chunk.checkpoint);
		await transaction.update(takes).set({ take: next, updatedAt: new Date() }).where(eq(takes.id, id));
		return "added";
	});
}

export async function chunkHash(id: string, firstFrame: number): Promise<string | undefined> {
	const [row] = await database.select({ take: takes.take }).from(takes).where(eq(takes.id, id));
	return row?.take.chunks.find((chunk) => chunk.firstFrame === firstFrame)?.hash;
}
