import { type Claim, claimJob, endJob, giveBack, keepJob, mayGoOn } from "../../app/data/jobs.server";
import { isPassing, throughOutages } from "../../app/data/outage.server";
import { bakeTake } from "./bakeTake";
import { breakApart } from "./breakApart";
import { runChunk } from "./runChunk";

/** What long work tells, and how it learns that it is not wanted any more. */
export interface Tending {
	readonly signal: { aborted: boolean };
	readonly onProgress: (fraction: number, what: string) => Promise<void>;
}

/** Signs of life are given so often. ms */
const SIGN_EVERY = 1000;
/** A lease lasts so many times the longest silence so far, at least `LEAST_LEASE`. */
const SILENCES = 10;
const LEAST_LEASE = 5; // s

/** A job part by part: chunks of a run, or a whole file. Each part is claimed anew, and others may take the next. */
export async function workOn(id: string, worker: string, alive: () => void = () => undefined): Promise<void> {
	let claim: Claim | undefined;
	try {
		for (;;) {
			claim = await claimJob(id, worker);
			if (!claim) return;
			const tending = tend(claim, alive);
			if (claim.job.kind === "fracture") return await breakApart(claim, tending);
			if (claim.job.kind === "bake") return await bakeTake(claim, tending);
			if (!(await runChunk(claim, tending)) || !(await mayGoOn(claim))) return;
		}
	} catch (error) {
		const message = error instanceof Error ? error.message : String(error);
		// Cancelled or taken over: whoever did it has said so.
		if (message === "cancelled") return;
		console.error(`worker: ${message}`);
		const held = claim;
		if (!held) return;
		// Where the database stays away, the job's lease runs out.
		await throughOutages<unknown>(() =>
			isPassing(error) ? giveBack(held, "The database was away; tried again") : endJob(held, "failed", message),
		).catch((again) => console.error(`worker: ${again.message}`));
	}
}

function tend(claim: Claim, alive: () => void): Tending {
	const signal = { aborted: false };
	let told = performance.now();
	let longest = 0;
	return {
		signal,
		onProgress: async (fraction, what) => {
			const now = performance.now();
			const silence = now - told;
			if (silence < SIGN_EVERY) return;
			alive();
			longest = Math.max(longest, silence);
			told = now;
			try {
				const wanted = await keepJob(claim, Math.max(LEAST_LEASE, (SILENCES * longest) / 1000), fraction, what);
				if (!wanted) signal.aborted = true;
			} catch (error) {
				// A lost sign of life is no reason to lose work: what is stored in the end is stored only for who has the job.
				if (!isPassing(error)) throw error;
			}
		},
	};
}
