import { type ChildProcess, spawn } from "node:child_process";
import { resolve } from "node:path";
import { Client } from "pg";
import { newShot, openBrowser, openSample, press, pressText, type Session, sleep, state, type, URL_UNDER_TEST, until } from "./browser";

/** Workers that die, jobs that are cancelled and tried again. */
let session: Session;
const workers = new Set<ChildProcess>();
beforeAll(async () => {
	session = await openBrowser();
	await session.page.goto(URL_UNDER_TEST, { waitUntil: "networkidle2" });
});
afterAll(async () => {
	for (const worker of workers) worker.kill("SIGKILL");
	await session.close();
});

function startWorker(): ChildProcess {
	const worker = spawn(process.execPath, ["--import", "tsx", "server/worker/main.ts"], {
		cwd: resolve("apps/web"),
		stdio: "ignore",
		env: { ...process.env, NODE_OPTIONS: "" },
	});
	workers.add(worker);
	worker.once("exit", () => workers.delete(worker));
	return worker;
}

interface Job {
	readonly id: string;
	readonly state: string;
	readonly what: string;
	readonly fraction: number;
	readonly log: readonly { readonly text: string }[];
}
const call = <T>(method: string, url: string, body?: unknown): Promise<T> =>
	session.page.evaluate(
		async (how, where, what) =>
			(
				await fetch(where, {
					method: how,
					headers: { "Content-Type": "application/json" },
					...(what !== undefined && { body: JSON.stringify(what) }),
				})
			).json(),
		method,
		url,
		body,
	) as Promise<T>;

/** A fresh copy of a sample, and the shot. */
async function sample(name: string, lastFrame: number): Promise<{ id: string; shot: { settings: object } }> {
	const id = await openSample(session.page, name);
	const shot = await call<{ settings: object }>("GET", `/api/shots/${id}`);
	return { id, shot: { ...shot, settings: { ...shot.settings, lastFrame } } };
}
const jobOf = async (id: string): Promise<Job> => (await call<{ jobs: Job[] }>("GET", "/api/jobs")).jobs.find((job) => job.id === id)!;
async function ended(id: string): Promise<Job> {
	for (let i = 0; i < 600; i++) {
		// While connections are cut a question may get no answer: it is asked again.
		const job = await jobOf(id).catch(() => undefined);
		if (job && job.state !== "running" && job.state !== "waiting") return job;
		await sleep(200);
	}
	throw new Error("the job did not end");
}
const hashesOf = async (shot: string, name: string): Promise<string> => {
	const takes = await call<{ id: string; name: string }[]>("GET", `/api/shots/${shot}/takes`);
	const stored = await call<{ take: { chunks: { hash: string }[] } }>("GET", `/api/takes/${takes.find((take) => take.name === name)!.id}`);
	return stored.take.chunks.map(({ hash }) => hash).join();
};

test("workers are killed again and again in a run; it goes on each time, and the bytes are those of an undisturbed one", async () => {
	const { id, shot } = await sample("Breakwater strike", 96);
	const first = await call<{ jobs: string[] }>("POST", `/api/shots/${id}/send`, { what: "run", shot, name: "Undisturbed" });
	expect((await ended(first.jobs[0]!)).state).toBe("done");
	let worker = startWorker();
	let kills = 0;
	// A run may be over before enough workers have died in it: then another one begins.
	for (let n = 1; kills < 20; n++) {
		const name = `Disturbed ${n}`;
		const { jobs } = await call<{ jobs: string[] }>("POST", `/api/shots/${id}/send`, { what: "run", shot, name, priority: 5 });
		for (; kills < 20 && !["done", "failed"].includes((await jobOf(jobs[0]!)).state); kills++) {
			await sleep(600 + 137 * (kills % 7));
			worker.kill("SIGKILL");
			worker = startWorker();
		}
		const job = await ended(jobs[0]!);
		expect([job.state, job.what]).toEqual(["done", "All 96 frames are stored"]);
		expect(await hashesOf(id, name)).toBe(await hashesOf(id, "Undisturbed"));
	}
	worker.kill("SIGKILL");
});

test("a job is cancelled, keeps its frames, and goes on when it is asked to; one that cannot be done says why", async () => {
	const { id, shot } = await sample("Breakwater strike", 120);
	// The page is there before the job is: a run of seconds may be over while it opens.
	await session.page.goto(`${URL_UNDER_TEST}/jobs`);
	const { jobs } = await call<{ jobs: string[] }>("POST", `/api/shots/${id}/send`, { what: "run", shot, name: "Stopped" });
	for (let i = 0; i < 200 && (await jobOf(jobs[0]!)).fraction < 0.2; i++) await sleep(100);
	await press(session.page, "Cancel Stopped");
	await session.page.locator("::-p-aria([name='Try Stopped again'])").wait();
	const stored = (await hashesOf(id, "Stopped")).split(",").filter((hash) => hash !== "").length;
	expect((await jobOf(jobs[0]!)).state).toBe("cancelled");
	await press(session.page, "Try Stopped again");
	// The page asks the server; the job is cancelled until that has been answered.
	for (let i = 0; i < 100 && (await jobOf(jobs[0]!)).state === "cancelled"; i++) await sleep(100);
	expect((await ended(jobs[0]!)).state).toBe("done");
	expect((await hashesOf(id, "Stopped")).split(",").length).toBeGreaterThan(stored);
	const nothing = { ...shot, bodies: {}, bodyRules: [], overrides: {}, bondSets: {}, connectors: {} };
	const wrong = await call<{ jobs: string[] }>("POST", `/api/shots/${id}/send`, { what: "run", shot: nothing, name: "Nothing" });
	const failed = await ended(wrong.jobs[0]!);
	expect([failed.state, failed.what]).toEqual(["failed", expect.stringMatching(/Nothing takes part/)]);
	expect(session.errors).toEqual([]);
});

test("the database drops every connection during a run and while a shot is edited: the run ends with the same bytes, nothing is lost", async () => {
	const { id, shot } = await sample("Breakwater strike", 96);
	const undisturbed = await call<{ jobs: string[] }>("POST", `/api/shots/${id}/send`, { what: "run", shot, name: "Undisturbed" });
	expect((await ended(undisturbed.jobs[0]!)).state).toBe("done");
	const { page } = session;
	await page.goto(`${URL_UNDER_TEST}/shots/${id}/shape`);
	await until(page, (s) => s.save.kind === "saved" && s.bodies.length > 0);
	const { jobs } = await call<{ jobs: string[] }>("POST", `/api/shots/${id}/send`, { what: "run", shot, name: "Disturbed" });
	const client = new Client({ connectionString: process.env.DATABASE_URL });
	await client.connect();
	try {
		for (let n = 0; n < 5; n++) {
			await page.evaluate((name) => {
				const { performEdit, shot: now } = (window as any).rubble.state();
				performEdit({
					name: "Note",
					patches: [{ op: "replace", path: ["note"], value: name }],
					inverse: [{ op: "replace", path: ["note"], value: now.note }],
				});
			}, `note ${n}`);
			for (let cut = 0; cut < 4; cut++) {
				await sleep(100 + 97 * cut);
				await client.query(
					"select pg_terminate_backend(pid) from pg_stat_activity where pid <> pg_backend_pid() and datname = current_database() and usename = current_user",
				);
			}
		}
	} finally {
		await client.end();
	}
	const job = await ended(jobs[0]!);
	expect([job.state, job.what]).toEqual(["done", "All 96 frames are stored"]);
	expect(await hashesOf(id, "Disturbed")).toBe(await hashesOf(id, "Undisturbed"));
	await until(page, (s) => s.save.kind === "saved");
	expect((await call<{ note: string }>("GET", `/api/shots/${id}`)).note).toBe("note 4");
});

test("a worker takes away stored bytes that nothing names for a day, and nothing else", async () => {
	const { id, shot } = await sample("Spring scale", 24);
	const { jobs } = await call<{ jobs: string[] }>("POST", `/api/shots/${id}/send`, { what: "run", shot, name: "Kept" });
	expect((await ended(jobs[0]!)).state).toBe("done");
	const [old, young] = ["0".repeat(63).concat("1"), "0".repeat(63).concat("2")];
	const client = new Client({ connectionString: process.env.DATABASE_URL });
	await client.connect();
	try {
		await client.query(
			"insert into blobs (hash, size, bytes, created_at) values ($1, 1, '\\x00', now() - interval '2 days'), ($2, 1, '\\x00', now())",
			[old, young],
		);
		const frames = (await hashesOf(id, "Kept")).split(",");
		await client.query("update blobs set created_at = now() - interval '9 days' where hash = any($1)", [frames]);
		const worker = startWorker();
		const there = async (hashes: readonly string[]) =>
			Number((await client.query("select count(*) from blobs where hash = any($1)", [hashes])).rows[0].count);
		for (let i = 0; i < 100 && (await there([old])) > 0; i++) await sleep(200);
		worker.kill("SIGKILL");
		expect([await there([old]), await there([young]), await there(frames)]).toEqual([0, 1, frames.length]);
		await client.query("delete from blobs where hash = $1", [young]);
	} finally {
		await client.end();
	}
});

test("while the database cannot write (a full disk), an edit stays in the page and is saved as soon as it can be", async () => {
	const { page } = session;
	const id = await openSample(page, "Slipway stack");
	await until(page, (s) => s.save.kind === "saved");
	const client = new Client({ connectionString: process.env.DATABASE_URL });
	await client.connect();
	const name = new URL(process.env.DATABASE_URL!).pathname.slice(1);
	const others = () =>
		client.query(
			"select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and usename = current_user and pid <> pg_backend_pid()",
		);
	try {
		await client.query(`alter database "${name}" set default_transaction_read_only = on`);
		await others();
		await page.evaluate(() => {
			const { performEdit, shot } = (window as any).rubble.state();
			performEdit({
				name: "Note",
				patches: [{ op: "replace", path: ["note"], value: "kept in the page" }],
				inverse: [{ op: "replace", path: ["note"], value: shot.note }],
			});
		});
		await page.waitForFunction(() => !["saved", "saving"].includes((window as any).rubble.state().save.kind));
		await sleep(1500);
		expect(await state(page, (s) => [(s.shot as any).note, s.save.kind === "saved"])).toEqual(["kept in the page", false]);
	} finally {
		await client.query(`alter database "${name}" reset default_transaction_read_only`);
		await others();
		await client.end();
	}
	await until(page, (s) => s.save.kind === "saved");
	expect((await call<{ note: string }>("GET", `/api/shots/${id}`)).note).toBe("kept in the page");
});

test("a break that would take long is done by a worker; the page has its pieces, and another page need not break at all", async () => {
	const { page } = session;
	// The tests before this one take the database away, which the page tells of.
	const before = session.errors.length;
	await newShot(page);
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 1);
	await page.locator("[data-stage='break']").click();
	await pressText(page, "Rubble");
	await type(page, "Pieces", "6000");
	await pressText(page, "Let a worker break it");
	await until(page, (s) => s.bodies.filter((body: any) => body.piece >= 0).length === 6000);
	const made = (await call<{ jobs: Job[] }>("GET", "/api/jobs")).jobs[0]!;
	expect([made.state, made.what]).toEqual(["done", "Box: 6,000 pieces"]);
	const asked: number[] = [];
	page.on("response", (answer) => {
		if (answer.url().includes("/api/pieces/")) asked.push(answer.status());
	});
	await page.waitForFunction(() => (window as any).rubble.state().save.kind === "saved");
	await page.reload({ waitUntil: "networkidle2" });
	await until(page, (s) => s.bodies.filter((body: any) => body.piece >= 0).length === 6000);
	expect(asked).toEqual([200]);
	expect(session.errors.slice(before)).toEqual([]);
});
