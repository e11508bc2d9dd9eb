import { type ChildProcess, spawn, spawnSync } from "node:child_process";
import { chmodSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { setTimeout as sleep } from "node:timers/promises";

const ROOT = resolve(import.meta.dirname, "../..");

const freePort = (): Promise<number> =>
	new Promise((done) => {
		const server = createServer().listen(0, "127.0.0.1", () => {
			const { port } = server.address() as { port: number };
			server.close(() => done(port));
		});
	});

/** The whole application as `npm start` runs it, with data of its own, for as long as a bench takes. */
export interface Application {
	readonly url: string;
	/** Everything that its supervisor looks after, and what these have started. */
	readonly processes: () => number[];
	/** Of the server, kilobytes. */
	readonly memory: () => number;
	readonly ask: (method: string, path: string, body?: unknown) => Promise<{ readonly status: number; readonly body: unknown }>;
	readonly stop: () => Promise<void>;
}

const childrenOf = (pid: number): number[] =>
	spawnSync("pgrep", ["-P", String(pid)], { encoding: "utf8" })
		.stdout.split("\n")
		.filter(Boolean)
		.map(Number);
const commandOf = (pid: number): string => {
	try {
		return readFileSync(`/proc/${pid}/cmdline`, "utf8").replaceAll("\0", " ");
	} catch {
		return "";
	}
};

export async function startApplication(workers: number): Promise<Application> {
	const data = mkdtempSync(join(tmpdir(), "rubble-bench-"));
	// The database's own user must come through to its cluster.
	chmodSync(data, 0o755);
	const port = await freePort();
	const supervisor: ChildProcess = spawn(process.execPath, ["scripts/start.mjs", "--port", String(port), "--workers", String(workers)], {
		cwd: ROOT,
		stdio: "ignore",
		env: { ...process.env, NODE_OPTIONS: "", DATABASE_URL: "", RUBBLE_DATA: data, SAMPLE_TAKES: "no", RUBBLE_MOST_WAIT: "1000" },
	});
	const url = `http://localhost:${port}`;
	const ask: Application["ask"] = async (method, path, body) => {
		const response = await fetch(`${url}${path}`, {
			method,
			headers: { "Content-Type": "application/json" },
			redirect: "manual",
			signal: AbortSignal.timeout(20_000),
			...(body !== undefined && { body: JSON.stringify(body) }),
		});
		const text = await response.text();
		return {
			status: response.status,
			body: text.startsWith("{") || text.startsWith("[") ? JSON.parse(text) : response.headers.get("location"),
		};
	};
	for (let i = 0; i < 600; i++) {
		if ((await ask("GET", "/health").catch(() => undefined))?.status === 200) break;
		await sleep(250);
	}
	const own = () => childrenOf(supervisor.pid!);
	return {
		url,
		ask,
		processes: () => own().flatMap((pid) => [pid, ...(/worker\/main/.test(commandOf(pid)) ? childrenOf(pid) : [])]),
		memory: () => {
			const server = own().find((pid) => /server\/main/.test(commandOf(pid)));
			return Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${server}/status`, "utf8"))?.[1] ?? 0);
		},
		stop: async () => {
			const ended = new Promise((done) => supervisor.once("exit", done));
			supervisor.kill("SIGTERM");
			await ended;
			rmSync(data, { recursive: true, force: true });
		},
	};
}

/** A fresh copy of a sample; gives its id. */
export async function makeSample(application: Application, sample: string): Promise<string> {
	const { body } = await application.ask("POST", "/?index", { intent: "sample", id: sample });
	return String(body).split("/")[2]!;
}
