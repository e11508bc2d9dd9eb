import { setTimeout as sleep } from "node:timers/promises";
import { type Application, makeSample, startApplication } from "./application";
import type { Bench } from "./types";

const KILLS = 100;

interface Job {
	readonly id: string;
	readonly state: string;
}
interface Card {
	readonly id: string;
	readonly name: string;
}

/** Asked until it is answered: whatever it is asked of may be dead for a while. */
async function insist<T>(work: () => Promise<{ readonly status: number; readonly body: unknown }>): Promise<T> {
	for (;;) {
		const answer = await work().catch(() => undefined);
		if (answer && answer.status < 500) return answer.body as T;
		await sleep(200);
	}
}

const chunksOf = async ({ ask }: Application, shot: string, name: string): Promise<string> => {
	const takes = await insist<Card[]>(() => ask("GET", `/api/shots/${shot}/takes`));
	const take = takes.find((one) => one.name === name)!;
	const whole = await insist<{ take: { chunks: { hash: string }[] } }>(() => ask("GET", `/api/takes/${take.id}`));
	return whole.take.chunks.map(({ hash }) => hash).join();
};

/** Runs a take to its end; gives how often its job was set aside on the way. */
async function runJob({ ask }: Application, shot: string, name: string): Promise<number> {
	let setAside = 0;
	const document = await insist<object>(() => ask("GET", `/api/shots/${shot}`));
	const { jobs } = await insist<{ jobs: string[] }>(() => ask("POST", `/api/shots/${shot}/send`, { what: "run", shot: document, name }));
	for (;;) {
		const { jobs: list } = await insist<{ jobs: Job[] }>(() => ask("GET", "/api/jobs"));
		const job = list.find(({ id }) => id === jobs[0]);
		if (job?.state === "done") return setAside;
		// Two kills before anything is stored look like a job that kills: somebody asks for it again.
		if (job && !["waiting", "running"].includes(job.state)) {
			setAside++;
			await insist(() => ask("POST", "/api/jobs", { act: "retry", id: job.id }));
		}
		await sleep(300);
	}
}

async function run(): Promise<Record<string, number>> {
	const application = await startApplication(2);
	const { ask } = application;
	try {
		const shot = await makeSample(application, "breakwater-strike");
		await runJob(application, shot, "Undisturbed");
		const wanted = await chunksOf(application, shot, "Undisturbed");
		const edited = await makeSample(application, "spring-scale");
		let over = false;
		let made = 0;
		/** Notes whose edits the server has said to be saved, in order. */
		const acknowledged: string[] = [];
		const editing = (async () => {
			let revision = 0;
			while (!over) {
				const value = `note ${made++}`;
				const edits = [
					{ edit: `edit${made}`, step: `s${made}`, way: "do", name: "Note", patches: [{ op: "replace", path: ["note"], value }] },
				];
				({ revision } = await insist<{ revision: number }>(() => ask("POST", `/api/shots/${edited}/patches`, { base: revision, edits })));
				acknowledged.push(value);
			}
			return revision;
		})();
		let takes = 0;
		let setAside = 0;
		const running = (async () => {
			while (!over) {
				setAside += await runJob(application, shot, `Disturbed ${takes}`);
				takes++;
			}
		})();
		let kills = 0;
		while (kills < KILLS) {
			// Often within what a start takes, and now and then long enough that something gets done.
			await sleep(800 + 450 * ((kills * 7919) % 10));
			const alive = application.processes();
			const victim = alive[(kills * 104_729) % Math.max(1, alive.length)];
			if (victim === undefined) continue;
			try {
				process.kill(victim, "SIGKILL");
				kills++;
			} catch {
				// It had died already.
			}
		}
		over = true;
		const revision = await editing;
		await running;
		const log = await insist<{ revision: number }[]>(() => ask("GET", `/api/shots/${edited}/edits`));
		const last = await insist<{ note: string }>(() => ask("GET", `/api/shots/${edited}`));
		let differ = 0;
		for (let n = 0; n < takes; n++) if ((await chunksOf(application, shot, `Disturbed ${n}`)) !== wanted) differ++;
		return {
			kills,
			"edits acknowledged": acknowledged.length,
			"edits lost": acknowledged.length - revision + (last.note === acknowledged.at(-1) ? 0 : 1),
			"edits made twice": Math.max(0, Math.min(1000, revision) - log.length),
			takes,
			"takes that differ": differ,
			"jobs set aside and asked for again": setAside,
		};
	} finally {
		await application.stop();
	}
}

/** Database, server, workers and the processes of jobs are killed at random while shots are edited and run. */
export const kills: Bench = { id: "kills", title: "Random kills", rows: [{ name: `${KILLS} kills`, run }] };
