import { Client } from "pg";
import { JOBS_CHANGED } from "./jobs.server";

/** Tells everybody who listens that jobs have changed: one connection for all pages, made anew where it breaks. */
const listeners = new Set<() => void>();
let client: Client | undefined;
let connecting = false;

async function connect(): Promise<void> {
	if (client || connecting || listeners.size === 0) return;
	connecting = true;
	const next = new Client({ connectionString: process.env.DATABASE_URL });
	const lost = () => {
		if (client === next) client = undefined;
		next.removeAllListeners();
		next.on("error", () => undefined);
		void next.end().catch(() => undefined);
		setTimeout(() => void connect(), 1000);
	};
	try {
		next.on("error", lost);
		await next.connect();
		next.on("end", lost);
		next.on("notification", () => {
			for (const tell of listeners) tell();
		});
		await next.query(`listen ${JOBS_CHANGED}`);
		client = next;
		for (const tell of listeners) tell();
	} catch {
		lost();
	} finally {
		connecting = false;
	}
}

/** Calls back whenever jobs have changed; returns how to stop that. */
export function onJobs(tell: () => void): () => void {
	listeners.add(tell);
	void connect();
	return () => {
		listeners.delete(tell);
		if (listeners.size > 0 || !client) return;
		const idle = client;
		client = undefined;
		idle.removeAllListeners();
		idle.on("error", () => undefined);
		void idle.end().catch(() => undefined);
	};
}
