import { hostname } from "node:os";
import { dropUnusedBlobs } from "../../app/data/blobs.server";
import { closeDatabase } from "../../app/data/database.server";
import { dropOldDerived } from "../../app/data/derived.server";
import { trimEdits } from "../../app/data/edits.server";
import { giveSign, takeSignBack } from "../../app/data/health.server";
import { crashed, isWanted, releaseJobs, reviveJobs } from "../../app/data/jobs.server";
import { CHUNKS, type ChunkMessage, queue, stopQueue } from "../../app/data/queue.server";
import { emptyTrash } from "../../app/data/shots.server";
import { endWithParent, NO_USE } from "../life";
import { JobKeeper } from "./jobKeeper";

// A worker needs nothing but the database's address. Any number of them may run, on any machines. It takes jobs from the queue
// and looks after the process that does them; whatever a job does to that process, the worker goes on.
if (!process.env.DATABASE_URL) {
	console.error("Say where the database is: DATABASE_URL=postgres://… npm run worker");
	process.exit(NO_USE);
}

// The queue reports that a message is done without waiting; where the database is away just then, the message runs out and
// the job's own lease says that nothing is left to do.
process.on("unhandledRejection", (error) => console.error(`worker: ${error instanceof Error ? error.message : error}`));

/** How often stored things that nothing needs are looked for. ms */
const CLEAN_EVERY = 3_600_000;
/** How often jobs of dead workers are looked for. ms */
const REVIVE_EVERY = 2000;
const SIGN_EVERY = 5000;
const name = `${hostname()}:${process.pid}`;
const keeper = new JobKeeper(name, { isWanted, crashed });
const boss = await queue({ supervise: true });
await boss.work<ChunkMessage>(CHUNKS, { batchSize: 1, pollingIntervalSeconds: 0.5, priority: true }, async ([message]) => {
	if (message) await keeper.work(message.data.job);
});
const told = (error: Error) => console.error(`worker: ${error.message}`);
const clean = async () => {
	await dropOldDerived();
	await emptyTrash();
	await trimEdits();
	const count = await dropUnusedBlobs();
	if (count > 0) console.log(`Worker ${name} took away ${count} stored things that nothing needs`);
};
const repeating = [
	setInterval(() => void reviveJobs().catch(told), REVIVE_EVERY),
	setInterval(() => void giveSign(name).catch(told), SIGN_EVERY),
	setInterval(() => void clean().catch(told), CLEAN_EVERY),
];
void giveSign(name).catch(told);
void clean().catch(told);
console.log(`Worker ${name} is ready`);

let ending = false;
const end = () => {
	if (ending) return;
	ending = true;
	for (const one of repeating) clearInterval(one);
	keeper.end();
	// Others take over at once what it leaves, without waiting for its silence.
	void releaseJobs(name)
		.then(() => takeSignBack(name))
		.catch(told)
		.then(stopQueue)
		.then(closeDatabase)
		.finally(() => process.exit(0));
};
for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, end);
endWithParent(end);
