import { type ChildProcess, spawn, spawnSync } from "node:child_process";
import { chmodSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { sleep } from "./browser";

/** `npm start` as it is: what dies is started again, and nothing is left when it ends, however it ends. */
const data = mkdtempSync(join(tmpdir(), "rubble-supervision-"));
// The database's own user must come through to its cluster.
chmodSync(data, 0o755);
const started = new Set<ChildProcess>();
afterAll(() => {
	for (const one of started) one.kill("SIGKILL");
	rmSync(data, { recursive: true, force: true });
});

const freePort = (): Promise<number> =>
	new Promise((done) => {
		const server = createServer().listen(0, "127.0.0.1", () => {
			const { port } = server.address() as { port: number };
			server.close(() => done(port));
		});
	});

function start(words: readonly string[], env: Record<string, string> = {}) {
	const child = spawn(process.execPath, ["scripts/start.mjs", ...words], {
		stdio: ["ignore", "pipe", "pipe"],
		env: { ...process.env, NODE_OPTIONS: "", DATABASE_URL: "", RUBBLE_DATA: data, SAMPLE_TAKES: "no", ...env },
	});
	started.add(child);
	const ended = new Promise<number | null>((done) => child.once("exit", (code) => done(code)));
	let said = "";
	for (const stream of [child.stdout!, child.stderr!])
		stream.on("data", (bytes) => {
			said += bytes;
		});
	return { child, ended, said: () => said };
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
const health = async (url: string, headers: Record<string, string> = {}) =>
	fetch(`${url}/health`, { headers })
		.then(async (answer) => ({ status: answer.status, body: (await answer.json()) as { ok?: boolean; workers?: number } }))
		.catch(() => undefined);
async function well(url: string, workers: number, headers?: Record<string, string>): Promise<void> {
	for (let i = 0; i < 600; i++) {
		const now = await health(url, headers);
		if (now?.status === 200 && now.body.workers! >= workers) return;
		await sleep(100);
	}
	throw new Error("the application did not become well");
}

test("database, server and worker are started again when they are killed; when the supervisor is killed nothing is left, and the next start works", async () => {
	const port = await freePort();
	const url = `http://localhost:${port}`;
	const first = start(["--port", String(port)]);
	await well(url, 1);
	const find = (what: RegExp) => childrenOf(first.child.pid!).find((pid) => what.test(commandOf(pid)))!;
	for (const [what, name] of [
		[/server\/main/, "The server"],
		[/worker\/main/, "A worker"],
		[/postgres/, "The database"],
	] as const) {
		const pid = find(what);
		process.kill(pid, "SIGKILL");
		for (let i = 0; i < 300 && !first.said().includes(`${name} ended (by SIGKILL)`); i++) await sleep(50);
		expect(first.said()).toContain(`${name} ended (by SIGKILL)`);
		await well(url, 1);
		expect(find(what)).not.toBe(pid);
	}
	// A second one from the same folder would share the database of this one.
	const second = start(["--port", String(await freePort())]);
	expect(await second.ended).toBe(1);
	expect(second.said()).toMatch(/already runs from this data folder/);
	await well(url, 1);
	const all = childrenOf(first.child.pid!);
	first.child.kill("SIGKILL");
	await first.ended;
	for (let i = 0; i < 300 && all.some((pid) => commandOf(pid) !== ""); i++) await sleep(100);
	expect(all.map(commandOf).filter(Boolean)).toEqual([]);
	const again = start(["--port", String(port), "--workers", "0"]);
	await well(url, 0);
	again.child.kill("SIGTERM");
	expect(await again.ended).toBe(0);
	expect(await health(url)).toBeUndefined();
});

test("another address is refused without a passphrase, and with one every request needs it", async () => {
	const port = await freePort();
	const refused = start(["--port", String(port), "--host", "0.0.0.0", "--workers", "0"]);
	expect(await refused.ended).toBe(78);
	expect(refused.said()).toMatch(/Set RUBBLE_PASSPHRASE/);
	const open = start(["--port", String(port), "--host", "0.0.0.0", "--workers", "0"], { RUBBLE_PASSPHRASE: "salt marsh harbour" });
	const key = { Authorization: `Basic ${Buffer.from("me:salt marsh harbour").toString("base64")}` };
	await well(`http://127.0.0.1:${port}`, 0, key);
	for (const path of ["/", "/health", "/api/shots", "/assets/none.js", "/mark.svg"])
		expect([path, (await fetch(`http://127.0.0.1:${port}${path}`)).status]).toEqual([path, 401]);
	expect((await fetch(`http://127.0.0.1:${port}/`, { headers: key })).status).toBe(200);
	open.child.kill("SIGTERM");
	expect(await open.ended).toBe(0);
});
