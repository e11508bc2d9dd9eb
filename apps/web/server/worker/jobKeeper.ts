import { type ChildProcess, fork } from "node:child_process";
import { readFileSync } from "node:fs";
import { setTimeout as sleep } from "node:timers/promises";

/** What a job may take. */
export interface JobLimits {
	readonly megabytes: number;
	/** A job that says nothing for so long hangs. */
	readonly minutesOfSilence: number;
}

/** From the environment, or as it is usual. */
const limitsSet = (): JobLimits => ({
	megabytes: Number(process.env.RUBBLE_JOB_MEMORY ?? 6144),
	minutesOfSilence: Number(process.env.RUBBLE_JOB_SILENCE ?? 20),
});

/** What the keeper asks and tells of jobs. */
export interface JobBook {
	readonly isWanted: (job: string, worker: string) => Promise<boolean>;
	/** Its process died of it; `why` goes into its log. */
	readonly crashed: (job: string, worker: string, why: string) => Promise<unknown>;
}

const LOOK_EVERY = 1000; // ms
/** A job that is not wanted any more may end by itself for so long. ms */
const GRACE = 3000;
/** Of the process's last words, kept for the job's log. Characters. */
const LAST_WORDS = 600;

/** From the process that does jobs: it lives, or it is done with one. */
export type JobWord = "alive" | "done";

/**
 * Has jobs done by a process of their own, which keeps what it has built for the next part, and ends it where a job is not wanted
 * any more, takes too much memory or hangs. Where the process dies of a job, that is written down with its last words.
 */
export class JobKeeper {
	private child: ChildProcess | undefined;
	private words = "";
	private heard = 0;
	private ending = false;

	constructor(
		private readonly worker: string,
		private readonly book: JobBook,
		private readonly limits: JobLimits = limitsSet(),
		/** What does the jobs: it is told `{ job }`, and says `JobWord`s. */
		private readonly program: URL = new URL("./jobProcess.ts", import.meta.url),
	) {}

	/** Resolves when nothing is left to do for this job here. */
	async work(job: string): Promise<void> {
		if (this.ending) return;
		const child = this.process();
		this.heard = Date.now();
		let over = false;
		/** Why we ended it; empty where it ended itself. */
		let cause = "";
		const outcome = new Promise<"done" | "died">((resolve) => {
			const onWord = (word: JobWord) => {
				this.heard = Date.now();
				if (word === "done") resolve("done");
			};
			child.on("message", onWord);
			child.once("exit", () => resolve("died"));
			void (async () => {
				while (!over) {
					await sleep(LOOK_EVERY);
					if (over) return;
					cause = await this.causeToEnd(child, job);
					if (cause === "") continue;
					child.kill("SIGKILL");
					return;
				}
			})();
		});
		child.send({ job });
		const how = await outcome;
		over = true;
		child.removeAllListeners("message");
		if (how === "done") return;
		this.child = undefined;
		if (this.ending || cause === CANCELLED) return;
		const signal = child.signalCode ? `by ${child.signalCode}` : `with exit code ${child.exitCode}`;
		const words = this.words.trim().slice(-LAST_WORDS);
		await this.book.crashed(
			job,
			this.worker,
			`${cause || `The process that did it ended (${signal})`}${words ? `. Its last words: ${words}` : ""}`,
		);
	}

	/** Ends the process; jobs that it was at are given back by whoever calls this. */
	end(): void {
		this.ending = true;
		this.child?.kill("SIGKILL");
	}

	private process(): ChildProcess {
		if (this.child?.connected && this.child.exitCode === null && this.child.signalCode === null) return this.child;
		this.words = "";
		const child = fork(this.program, [this.worker], {
			execArgv: ["--import", "tsx", `--max-old-space-size=${this.limits.megabytes}`],
			stdio: ["ignore", "inherit", "pipe", "ipc"],
		});
		child.stderr!.on("data", (bytes: Buffer) => {
			process.stderr.write(bytes);
			this.words = (this.words + bytes.toString("utf8")).slice(-4 * LAST_WORDS);
		});
		child.on("error", (error) => console.error(`worker: ${error.message}`));
		this.child = child;
		return child;
	}

	/** Why a job has to be ended from outside; empty where it may go on. */
	private async causeToEnd(child: ChildProcess, job: string): Promise<string> {
		const size = residentMegabytes(child.pid);
		const { megabytes, minutesOfSilence } = this.limits;
		if (size > megabytes) return `It took more than ${megabytes.toLocaleString("en")} MB of memory (RUBBLE_JOB_MEMORY)`;
		if (Date.now() - this.heard > minutesOfSilence * 60_000) return `It said nothing for ${minutesOfSilence} minutes (RUBBLE_JOB_SILENCE)`;
		// Where the database is away nothing can be asked; the process asks itself, too.
		if (await this.book.isWanted(job, this.worker).catch(() => true)) return "";
		await sleep(GRACE);
		const still = child.exitCode === null && !(await this.book.isWanted(job, this.worker).catch(() => true));
		return still ? CANCELLED : "";
	}
}

const CANCELLED = "It was cancelled";

/** What a process has in memory, in MB; 0 where the system does not tell. */
function residentMegabytes(pid: number | undefined): number {
	try {
		const kilobytes = /^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, "utf8"))?.[1];
		return Number(kilobytes ?? 0) / 1024;
	} catch {
		return 0;
	}
}
