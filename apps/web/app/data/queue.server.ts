import PgBoss from "pg-boss";
import { ask } from "./database.server";

/** The one queue: a message says that a job has something to be done; what it is stands in `jobs`. */
export const CHUNKS = "chunks";

export interface ChunkMessage {
	readonly job: string;
}

let starting: Promise<PgBoss> | undefined;

/** The queue, started once per process. Only workers look after it. */
export function queue(options: { readonly supervise: boolean } = { supervise: false }): Promise<PgBoss> {
	starting ??= (async () => {
		const boss = new PgBoss({ db: { executeSql: ask }, schedule: false, ...options });
		boss.on("error", (error) => console.error(`queue: ${error.message}`));
		await boss.start();
		// Who holds a job is settled by leases of our own, which are shorter and can be extended; the queue must not take part.
		await boss.createQueue(CHUNKS, { name: CHUNKS, policy: "standard", retryLimit: 0, expireInSeconds: 12 * 3600 });
		return boss;
	})();
	starting.catch(() => {
		starting = undefined;
	});
	return starting;
}

export async function sendChunk(job: string, priority: number): Promise<void> {
	await (await queue()).send(CHUNKS, { job } satisfies ChunkMessage, { priority });
}

export async function stopQueue(): Promise<void> {
	const boss = await starting?.catch(() => undefined);
	await boss?.stop({ graceful: true, timeout: 5000 });
}
