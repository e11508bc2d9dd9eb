import { spawnSync } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { sampleShot } from "@rubble/core/samples";
import { emptyShot, type Shot } from "@rubble/core/shot";
import { Client } from "pg";
import { sleep, URL_UNDER_TEST } from "./browser";
import { makeShot } from "./requests";

/** Backups, jobs that harm, and what waits for long. */
const json = async <T>(method: string, path: string, body?: unknown): Promise<T> => {
	const response = await fetch(`${URL_UNDER_TEST}${path}`, {
		method,
		headers: { "Content-Type": "application/json" },
		...(body !== undefined && { body: JSON.stringify(body) }),
	});
	return (await response.json()) as T;
};

interface Job {
	readonly id: string;
	readonly state: string;
	readonly what: string;
	readonly log: readonly { readonly text: string }[];
}
const jobOf = async (id: string) => (await json<{ jobs: Job[] }>("GET", "/api/jobs")).jobs.find((job) => job.id === id)!;
const script = (name: string, words: readonly string[], database: string) =>
	spawnSync(process.execPath, [`scripts/${name}.mjs`, ...words], {
		encoding: "utf8",
		env: { ...process.env, NODE_OPTIONS: "", DATABASE_URL: database },
	});
/** Processes in which jobs are done just now. */
const jobProcesses = () =>
	spawnSync("pgrep", ["-f", "worker/jobProcess"], { encoding: "utf8" }).stdout.split("\n").filter(Boolean).map(Number);

/** An object whose break takes some seconds: a worker is at it meanwhile. */
const slowBreak = (): Shot => {
	const shot = sampleShot("breakwater-strike")!;
	const [id] = Object.keys(shot.fractures);
	const fracture = shot.fractures[id!]!;
	return {
		...shot,
		fractures: { [id!]: { ...fracture, options: { ...fracture.options, count: 20_000, seed: Math.floor(Math.random() * 1e6) } } },
	};
};
const orderBreak = async (shot: Shot): Promise<string> => {
	const home = await makeShot(shot);
	const object = Object.values(shot.fractures)[0]!.object;
	const { jobs } = await json<{ jobs: string[] }>("POST", `/api/shots/${home}/send`, { what: "fracture", shot, object, priority: 50 });
	return jobs[0]!;
};
async function until(id: string, states: readonly string[]): Promise<Job> {
	for (let i = 0; i < 2000; i++) {
		const job = await jobOf(id);
		if (states.includes(job.state)) return job;
		await sleep(30);
	}
	throw new Error(`the job did not become ${states.join(" or ")}`);
}

test("a backup that is made while shots are edited is of one moment, and is taken up whole", async () => {
	const folder = mkdtempSync(join(tmpdir(), "rubble-backup-"));
	const admin = new Client({ connectionString: process.env.DATABASE_ADMIN_URL });
	await admin.connect();
	const url = new URL(process.env.DATABASE_URL!);
	const name = `taken_up_${process.pid}`;
	try {
		const shots = [await makeShot(emptyShot("One")), await makeShot(emptyShot("Other"))];
		let over = false;
		const editing = (async () => {
			for (let n = 0; !over; n++)
				for (const shot of shots) {
					const edits = [
						{ edit: `b${n}`, step: "s", way: "do", name: "Note", patches: [{ op: "replace", path: ["note"], value: `note ${n}` }] },
					];
					await json("POST", `/api/shots/${shot}/patches`, { base: n, edits });
				}
		})();
		// Beside this process, which goes on editing.
		const file = join(folder, "all.backup");
		const { spawn } = await import("node:child_process");
		const code = await new Promise((done) =>
			spawn(process.execPath, ["scripts/backup.mjs", file], { stdio: "ignore", env: { ...process.env, NODE_OPTIONS: "" } }).once(
				"exit",
				done,
			),
		);
		over = true;
		await editing;
		expect(code).toBe(0);
		await admin.query(`create database ${name} owner "${url.username}"`);
		const target = new URL(url);
		target.pathname = name;
		expect(script("restore", [file], target.href)).toMatchObject({ status: 0 });
		// A second time it would overwrite: it refuses.
		expect(script("restore", [file], target.href).stderr).toMatch(/holds shots already/);
		expect(script("backup", [file], url.href).stderr).toMatch(/is there already/);
		const there = new Client({ connectionString: target.href });
		await there.connect();
		const rows = await there.query(
			"select s.revision, s.document->>'note' as note, (select count(*)::int from edits e where e.shot = s.id) as edits from shots s where s.id = any($1)",
			[shots],
		);
		expect(rows.rowCount).toBe(2);
		for (const { revision, note, edits } of rows.rows) {
			expect(edits).toBe(revision);
			expect(note).toBe(revision === 0 ? "" : `note ${revision - 1}`);
		}
		const takes = async (client: Client) => (await client.query("select count(*)::int as count from blobs")).rows[0].count;
		const here = new Client({ connectionString: url.href });
		await here.connect();
		expect(await takes(there)).toBe(await takes(here));
		await here.end();
		await there.end();
	} finally {
		await admin.query(`drop database if exists ${name} with (force)`);
		await admin.end();
		rmSync(folder, { recursive: true, force: true });
	}
});

test("Cancel ends a job that cannot listen, and the worker goes on with the next", async () => {
	const id = await orderBreak(slowBreak());
	await until(id, ["running"]);
	const before = jobProcesses();
	await json("POST", "/api/jobs", { act: "cancel", id });
	expect((await jobOf(id)).state).toBe("cancelled");
	// Whether it heard, or was ended: nobody is at it any more.
	const next = await orderBreak(sampleShot("breakwater-strike")!);
	expect((await until(next, ["done", "failed"])).state).toBe("done");
	expect((await jobOf(id)).state).toBe("cancelled");
	expect(before.length).toBeGreaterThan(0);
});

test("a job that kills its process is tried once more, then set aside with what is known; others are done", async () => {
	const id = await orderBreak(slowBreak());
	for (let kill = 0; kill < 2; kill++) {
		await until(id, ["running"]);
		await sleep(200);
		for (const pid of jobProcesses()) process.kill(pid, "SIGKILL");
		for (let i = 0; i < 400 && (await jobOf(id)).log.filter(({ text }) => /ended \(by SIGKILL\)/.test(text)).length <= kill; i++)
			await sleep(50);
	}
	const job = await until(id, ["failed", "done"]);
	expect([job.state, job.what]).toEqual(["failed", expect.stringMatching(/Set aside: it has ended its process 2 times/)]);
	expect(job.log.filter(({ text }) => /ended \(by SIGKILL\)/.test(text))).toHaveLength(2);
	const next = await orderBreak(sampleShot("breakwater-strike")!);
	expect((await until(next, ["done", "failed"])).state).toBe("done");
});

test("all jobs that wait are listed however many have ended; older ones are told and can be asked for", async () => {
	const client = new Client({ connectionString: process.env.DATABASE_URL });
	await client.connect();
	const shot = await makeShot(emptyShot("Many jobs"));
	try {
		await client.query(
			"insert into jobs (id, kind, shot, name, state, created_at) select 'many' || n, 'bake', $1, 'Old ' || n, case when n = 0 then 'waiting' else 'cancelled' end, now() - interval '1 day' * (400 - n) from generate_series(0, 399) n",
			[shot],
		);
		const first = await json<{ jobs: Job[]; older: number }>("GET", "/api/jobs");
		expect(first.jobs.some(({ id }) => id === "many0")).toBe(true);
		expect(first.older).toBeGreaterThanOrEqual(299);
		const more = await json<{ jobs: Job[]; older: number }>("GET", "/api/jobs?ended=5000");
		expect([more.jobs.filter(({ id }) => id.startsWith("many")).length, more.older]).toEqual([400, 0]);
	} finally {
		await client.query("delete from shots where id = $1", [shot]);
		await client.end();
	}
});
