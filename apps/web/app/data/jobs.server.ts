import { randomUUID } from "node:crypto";
import type { Take } from "@rubble/core/simulation";
import { withChunk } from "@rubble/core/simulation";
import { and, desc, eq, getTableColumns, gt, inArray, lt, not, or, sql } from "drizzle-orm";
import { database } from "./database.server";
import { CHUNKS, sendChunk } from "./queue.server";
import { type BakeOrder, type FractureOrder, type JobKind, type JobState, jobs, shots, takes } from "./schema";
import type { ChunkFacts } from "./takes.server";

/** What NOTIFY is called on when a job has changed. */
export const JOBS_CHANGED = "rubble_jobs";
const changed = sql.raw(`notify ${JOBS_CHANGED}`);

/** How long a worker keeps a job without a sign of life at first; later it depends on how often it gives one. s */
const FIRST_LEASE = 20;
/** A job that failed so often in a row without storing anything is given up. */
const MOST_ATTEMPTS = 5;

export interface JobRow {
	readonly id: string;
	readonly kind: JobKind;
	readonly shot: string;
	readonly shotName: string;
	readonly take: string | null;
	readonly name: string;
	readonly state: JobState;
	readonly priority: number;
	readonly fraction: number;
	readonly what: string;
	readonly worker: string;
	readonly attempts: number;
	readonly log: readonly { readonly at: string; readonly text: string }[];
	readonly file: { readonly name: string; readonly size: number } | null;
	readonly createdAt: string;
	readonly startedAt: string | null;
	readonly finishedAt: string | null;
}

/** The list is asked for with every change of any job: what is only for workers, such as whole shots, stays where it is. */
const { bake: _, fracture: __, fence: ___, leaseUntil: ____, ...LISTED } = getTableColumns(jobs);

/** Jobs as lists show them: all that wait or run, the oldest too, and the newest of those that have ended. */
export interface JobList {
	readonly jobs: readonly JobRow[];
	/** How many more have ended. */
	readonly older: number;
}

const ALIVE: readonly JobState[] = ["waiting", "running"];
/** How many of those that have ended a page asks for by `?ended=`. */
export const endedWanted = (request: Request): number => {
	const wanted = Number(new URL(request.url).searchParams.get("ended") ?? 100);
	return Number.isInteger(wanted) && wanted >= 0 ? Math.min(wanted, 10_000) : 100;
};

/** Lines of a job's log that lists carry. */
const LOG_LINES = 60;

/** All that wait or run, then so many of those that ended. One statement: a job that goes from one to the other meanwhile is in it once. */
export async function listJobs(ended = 100): Promise<JobList> {
	const isAlive = inArray(jobs.state, [...ALIVE]);
	const newest = database.select({ id: jobs.id }).from(jobs).where(not(isAlive)).orderBy(desc(jobs.createdAt)).limit(ended);
	const found = await database
		.select({ job: LISTED, shotName: shots.name })
		.from(jobs)
		.innerJoin(shots, eq(shots.id, jobs.shot))
		.where(or(isAlive, inArray(jobs.id, newest)))
		.orderBy(desc(isAlive), desc(jobs.createdAt));
	const [count] = await database.select({ of: sql<number>`count(*)::int` }).from(jobs).where(not(isAlive));
	const rows = found.map(({ job, shotName }) => {
		const { file, createdAt, startedAt, finishedAt, log, ...row } = job;
		return {
			...row,
			log: log.slice(-LOG_LINES),
			shotName,
			file: file && { name: file.name, size: file.size },
			createdAt: createdAt.toISOString(),
			startedAt: startedAt?.toISOString() ?? null,
			finishedAt: finishedAt?.toISOString() ?? null,
		};
	});
	return { jobs: rows, older: Math.max(0, count!.of - ended) };
}

interface NewJob {
	readonly kind: JobKind;
	readonly shot: string;
	readonly take?: string;
	readonly name: string;
	readonly priority?: number;
	readonly bake?: BakeOrder;
	readonly fracture?: FractureOrder;
}

/** Puts work in the queue. A run has its take from then on: whoever was at it is heard no more. */
export async function addJob(job: NewJob): Promise<string> {
	const id = randomUUID();
	await database.transaction(async (transaction) => {
		await transaction.insert(jobs).values({ id, ...job, leaseUntil: lease(FIRST_LEASE), log: [line("Waiting for a worker")] });
		if (job.kind === "run" && job.take) await transaction.update(takes).set({ run: id }).where(eq(takes.id, job.take));
	});
	await database.execute(changed);
	await sendChunk(id, job.priority ?? 0);
	return id;
}

const line = (text: string) => ({ at: new Date().toISOString(), text });
const logged = (text: string) => sql`${jobs.log} || ${JSON.stringify([line(text)])}::jsonb`;
const ended = (state: "done" | "failed" | "cancelled", text: string) => ({
	state,
	what: text,
	log: logged(text),
	finishedAt: new Date(),
	leaseUntil: null,
});
const lease = (seconds: number) => sql`now() + make_interval(secs => ${seconds})`;

export type Claim = { readonly job: typeof jobs.$inferSelect; readonly fence: number };

/** Takes a job; undefined where there is nothing to do for it, or somebody else is at it. */
export async function claimJob(id: string, worker: string): Promise<Claim | undefined> {
	const [job] = await database
		.update(jobs)
		.set({
			state: "running",
			worker,
			fence: sql`${jobs.fence} + 1`,
			attempts: sql`${jobs.attempts} + 1`,
			leaseUntil: lease(FIRST_LEASE),
			startedAt: sql`coalesce(${jobs.startedAt}, now())`,
			// Only what is told anew: every chunk is claimed once.
			log: sql`case when ${jobs.worker} = ${worker} then ${jobs.log} else ${logged(`Taken by ${worker}`)} end`,
		})
		.where(
			and(
				eq(jobs.id, id),
				sql`(${jobs.state} = 'waiting' or (${jobs.state} = 'running' and (${jobs.leaseUntil} is null or ${jobs.leaseUntil} < now())))`,
			),
		)
		.returning();
	if (!job) return undefined;
	if (job.attempts > MOST_ATTEMPTS) {
		await endJob({ job, fence: job.fence }, "failed", `Given up after ${MOST_ATTEMPTS} tries without a stored frame`);
		return undefined;
	}
	await database.execute(changed);
	return { job, fence: job.fence };
}

const mine = ({ job, fence }: Claim) => and(eq(jobs.id, job.id), eq(jobs.fence, fence), eq(jobs.state, "running"));

/** A sign of life, good for so many seconds. False where the job is somebody else's by now, or was cancelled. */
export async function keepJob(claim: Claim, seconds: number, fraction: number, what: string): Promise<boolean> {
	const rows = await database
		.update(jobs)
		.set({ leaseUntil: lease(seconds), fraction, what })
		.where(mine(claim))
		.returning({ id: jobs.id });
	await database.execute(changed);
	return rows.length > 0;
}

/** Ends a job for its worker. False where it was not its own any more. */
export async function endJob(claim: Claim, state: "done" | "failed", text: string, file?: typeof jobs.$inferSelect.file): Promise<boolean> {
	const rows = await database
		.update(jobs)
		.set({ ...ended(state, text), ...(state === "done" && { fraction: 1 }), ...(file && { file }) })
		.where(mine(claim))
		.returning({ id: jobs.id });
	await database.execute(changed);
	return rows.length > 0;
}

/**
 * Adds a chunk to the take of a job, whose bytes are stored already; the job waits again. Take and job change
 * together, and only for the worker that has the job: one that only seemed dead writes nothing any more.
 */
export async function storeChunk(claim: Claim, begun: Take, chunk: ChunkFacts, fraction: number, what: string): Promise<boolean> {
	const id = claim.job.take;
	if (id === null) return false;
	const done = await database.transaction(async (transaction) => {
		const [job] = await transaction.select({ id: jobs.id }).from(jobs).where(mine(claim)).for("update");
		if (!job) return false;
		const [row] = await transaction.select({ name: takes.name, run: takes.run }).from(takes).where(eq(takes.id, id)).for("update");
		if (!row) return false;
		if (row.run !== job.id) {
			const text = row.run === "" ? "The take was locked while it ran" : "Another run fills this take now";
			await transaction.update(jobs).set(ended("failed", text)).where(eq(jobs.id, job.id));
			return false;
		}
		const take = withChunk({ ...begun, name: row.name }, chunk, chunk.hash, chunk.checkpoint);
		await transaction.update(takes).set({ take, updatedAt: new Date() }).where(eq(takes.id, id));
		await transaction
			.update(jobs)
			.set({ state: "waiting", attempts: 0, crashes: 0, fraction, what, leaseUntil: lease(FIRST_LEASE) })
			.where(eq(jobs.id, job.id));
		return true;
	});
	await database.execute(changed);
	return done;
}

/**
 * Whether a worker may go on with a job that it has just stored a chunk of. Where something more urgent waits, the job
 * goes back to the queue instead.
 */
export async function mayGoOn({ job }: Claim): Promise<boolean> {
	const urgent = await database
		.select({ id: jobs.id })
		.from(jobs)
		.where(and(eq(jobs.state, "waiting"), gt(jobs.priority, job.priority)))
		.limit(1);
	if (urgent.length > 0) await sendChunk(job.id, job.priority);
	return urgent.length === 0;
}

/** Gives a job back, to be tried again by anybody; the try does not count. */
export async function giveBack(claim: Claim, text: string): Promise<void> {
	const rows = await database
		.update(jobs)
		.set({ state: "waiting", attempts: sql`${jobs.attempts} - 1`, leaseUntil: lease(FIRST_LEASE), log: logged(text) })
		.where(mine(claim))
		.returning({ id: jobs.id });
	await database.execute(changed);
	if (rows.length > 0) await sendChunk(claim.job.id, claim.job.priority);
}

/** Whether a job is still this worker's to do. */
export async function isWanted(id: string, worker: string): Promise<boolean> {
	const [row] = await database.select({ state: jobs.state, worker: jobs.worker }).from(jobs).where(eq(jobs.id, id));
	// Between its parts it waits, for the same worker or for others.
	return row !== undefined && (row.state === "waiting" || (row.state === "running" && row.worker === worker));
}

/** A job that has killed so many processes is not given to another one. */
const MOST_CRASHES = 2;

/** A job as its worker gives it back: it waits, this attempt was none, and whoever was at it is heard no more. */
const givenBack = (why: string) => ({
	state: "waiting" as const,
	attempts: sql`${jobs.attempts} - 1`,
	fence: sql`${jobs.fence} + 1`,
	leaseUntil: lease(FIRST_LEASE),
	log: logged(why),
});

/** The process that did a job has died of it: it is tried once more, then set aside with what is known. */
export async function crashed(id: string, worker: string, text: string): Promise<void> {
	const mine = and(eq(jobs.id, id), eq(jobs.state, "running"), eq(jobs.worker, worker));
	const [job] = await database
		.update(jobs)
		.set({ ...givenBack(text), crashes: sql`${jobs.crashes} + 1` })
		.where(mine)
		.returning({ crashes: jobs.crashes, priority: jobs.priority });
	if (!job) return;
	if (job.crashes >= MOST_CRASHES)
		await database
			.update(jobs)
			.set(ended("failed", `Set aside: it has ended its process ${job.crashes} times. What is known stands in its log.`))
			.where(and(eq(jobs.id, id), eq(jobs.state, "waiting")));
	else await sendChunk(id, job.priority);
	await database.execute(changed);
}

/** A worker that ends gives back what it is at: others go on with it at once. */
export async function releaseJobs(worker: string): Promise<void> {
	const left = await database
		.update(jobs)
		.set(givenBack(`${worker} was ended; goes on from the last stored frame`))
		.where(and(eq(jobs.state, "running"), eq(jobs.worker, worker)))
		.returning({ id: jobs.id, priority: jobs.priority });
	for (const { id, priority } of left) await sendChunk(id, priority);
	if (left.length > 0) await database.execute(changed);
}

/** Jobs whose worker has given no sign of life, and waiting ones whose message was lost with one, are put in the queue again. */
export async function reviveJobs(): Promise<number> {
	const dead = await database
		.update(jobs)
		.set({
			state: "waiting",
			leaseUntil: lease(FIRST_LEASE),
			log: sql`${jobs.log} || jsonb_build_array(jsonb_build_object('at', to_char(now() at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS"Z"'), 'text', 'No sign of life from ' || ${jobs.worker} || '; goes on from the last stored frame'))`,
		})
		.where(and(eq(jobs.state, "running"), lt(jobs.leaseUntil, sql`now()`)))
		.returning({ id: jobs.id, priority: jobs.priority });
	const forgotten = await database
		.update(jobs)
		.set({ leaseUntil: lease(FIRST_LEASE) })
		.where(
			and(
				eq(jobs.state, "waiting"),
				sql`${jobs.leaseUntil} < now()`,
				sql`not exists (select 1 from pgboss.job where job.name = ${CHUNKS} and job.state < 'active' and job.data->>'job' = ${jobs.id})`,
			),
		)
		.returning({ id: jobs.id, priority: jobs.priority });
	for (const { id, priority } of [...dead, ...forgotten]) await sendChunk(id, priority);
	if (dead.length > 0) await database.execute(changed);
	return dead.length + forgotten.length;
}

/** Stops a job; its worker notices with its next sign of life. */
export async function cancelJob(id: string): Promise<boolean> {
	const rows = await database
		.update(jobs)
		.set({ ...ended("cancelled", "Cancelled"), fence: sql`${jobs.fence} + 1` })
		.where(and(eq(jobs.id, id), inArray(jobs.state, [...ALIVE])))
		.returning({ id: jobs.id });
	await database.execute(changed);
	return rows.length > 0;
}

/** Stops all jobs of a shot that is deleted. */
export async function cancelJobsOf(shot: string): Promise<void> {
	await database
		.update(jobs)
		.set({ ...ended("cancelled", "The shot was deleted"), fence: sql`${jobs.fence} + 1` })
		.where(and(eq(jobs.shot, shot), inArray(jobs.state, [...ALIVE])));
	await database.execute(changed);
}

/** Tries a job again that has failed or was cancelled; it goes on from its last stored frame. A take that was locked stays so. */
export async function retryJob(id: string): Promise<boolean> {
	const [row] = await database
		.update(jobs)
		.set({
			state: "waiting",
			what: "Waiting for a worker",
			attempts: 0,
			crashes: 0,
			finishedAt: null,
			leaseUntil: lease(FIRST_LEASE),
			log: logged("Asked to try again"),
		})
		.where(and(eq(jobs.id, id), inArray(jobs.state, ["failed", "cancelled"])))
		.returning({ priority: jobs.priority, kind: jobs.kind, take: jobs.take });
	if (row?.kind === "run" && row.take)
		await database
			.update(takes)
			.set({ run: id })
			.where(and(eq(takes.id, row.take), eq(takes.locked, false)));
	await database.execute(changed);
	if (row) await sendChunk(id, row.priority);
	return row !== undefined;
}

export async function setPriority(id: string, priority: number): Promise<void> {
	await database.update(jobs).set({ priority }).where(eq(jobs.id, id));
	await database.execute(changed);
}

/** Takes what has ended off the list. */
export async function forgetJobs(): Promise<void> {
	await database.delete(jobs).where(inArray(jobs.state, ["done", "failed", "cancelled"]));
	await database.execute(changed);
}

export async function jobFile(id: string) {
	const [row] = await database.select({ file: jobs.file }).from(jobs).where(eq(jobs.id, id));
	return row?.file ?? undefined;
}
