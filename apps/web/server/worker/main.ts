import { hostname } from "node:os";
import { dropUnusedBlobs } from "../../app/data/blobs.server";
import { closeDatabase } from "../../app/data/database.server";
import { dropOldDerived } from "../../app/data/derived.server";
import { reviveJobs } from "../../app/data/jobs.server";
import { CHUNKS, type ChunkMessage, queue, stopQueue } from "../../app/data/queue.server";
import { workOn } from "./workOn";

// A worker needs nothing but the database's address. Any number of them may run, on any machines.
if (!process.env.DATABASE_URL) {
	console.error("Say where the database is: DATABASE_URL=postgres://… npm run worker");
	process.exit(2);
}

// The queue reports that a message is done without waiting; where the database is away just then, the message runs out and
// the job's own lease says that nothing is left to do.
process.on("unhandledRejection", (error) => console.error(`worker: ${error instanceof Error ? error.message : error}`));

/** How often stored things that nothing needs are looked for. ms */
const CLEAN_EVERY = 3_600_000;
/** How often jobs of dead workers are looked for. ms */
const REVIVE_EVERY = 2000;
const name = `${hostname()}:${process.pid}`;
const boss = await queue({ supervise: true });
await boss.work<ChunkMessage>(CHUNKS, { batchSize: 1, pollingIntervalSeconds: 0.5, priority: true }, async ([message]) => {
	if (message) await workOn(message.data.job, name);
});
const reviving = setInterval(() => {
	reviveJobs().catch((error) => console.error(`worker: ${error.message}`));
}, REVIVE_EVERY);
const clean = () =>
	dropOldDerived()
		.then(dropUnusedBlobs)
		.then((count) => count > 0 && console.log(`Worker ${name} took away ${count} stored things that nothing needs`))
		.catch((error) => console.error(`worker: ${error.message}`));
const cleaning = setInterval(clean, CLEAN_EVERY);
void clean();
console.log(`Worker ${name} is ready`);

for (const signal of ["SIGINT", "SIGTERM"] as const)
	process.once(signal, () => {
		clearInterval(reviving);
		clearInterval(cleaning);
		void stopQueue()
			.then(closeDatabase)
			.finally(() => process.exit(0));
	});
