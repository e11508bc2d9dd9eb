import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { JobKeeper, type JobLimits } from "./jobKeeper";

const folder = mkdtempSync(join(tmpdir(), "rubble-keeper-"));
const keepers: JobKeeper[] = [];
afterEach(() => {
	for (const keeper of keepers.splice(0)) keeper.end();
});
afterAll(() => rmSync(folder, { recursive: true }));

/** A process that does this with every job. */
function program(what: string): URL {
	const path = join(folder, `${Math.random()}.mjs`);
	writeFileSync(path, `process.on("message", ({ job }) => { ${what} });\nprocess.once("disconnect", () => process.exit(0));\n`);
	return pathToFileURL(path);
}

/** A keeper of such a process, and what it writes down. */
function keeperOf(what: string, limits: Partial<JobLimits> = {}, isWanted = async () => true) {
	const told: string[] = [];
	const book = { isWanted, crashed: async (job: string, worker: string, why: string) => void told.push(`${worker} ${job}: ${why}`) };
	const keeper = new JobKeeper("w", book, { megabytes: 2000, minutesOfSilence: 20, ...limits }, program(what));
	keepers.push(keeper);
	return { keeper, told };
}
/** What is written down of one job. */
async function kept(...how: Parameters<typeof keeperOf>): Promise<string[]> {
	const { keeper, told } = keeperOf(...how);
	await keeper.work("j");
	return told;
}

test("a job that is done is nothing to tell of, and the next goes to the same process", async () => {
	const count = join(folder, "count");
	const { keeper, told } = keeperOf(
		`globalThis.n = (globalThis.n ?? 0) + 1; import("node:fs").then((fs) => { fs.writeFileSync(${JSON.stringify(count)}, String(n)); process.send("done"); });`,
	);
	await keeper.work("a");
	await keeper.work("b");
	expect(told).toEqual([]);
	expect(readFileSync(count, "utf8")).toBe("2");
});

test("one that takes too much memory is ended", async () => {
	const greedy = "globalThis.all = []; setInterval(() => { all.push(Buffer.alloc(50_000_000, 1)); process.send('alive'); }, 20);";
	expect(await kept(greedy, { megabytes: 400 })).toEqual(["w j: It took more than 400 MB of memory (RUBBLE_JOB_MEMORY)"]);
});

test("one that says nothing for too long is ended, and one that says that it lives is not", async () => {
	const minutesOfSilence = 1.5 / 60;
	expect(await kept("setInterval(() => undefined, 1000);", { minutesOfSilence })).toEqual([
		`w j: It said nothing for ${minutesOfSilence} minutes (RUBBLE_JOB_SILENCE)`,
	]);
	const slow =
		"const t = setInterval(() => process.send('alive'), 100); setTimeout(() => { clearInterval(t); process.send('done'); }, 4000);";
	expect(await kept(slow, { minutesOfSilence })).toEqual([]);
});

test("one whose process dies is told of with its last words", async () => {
	const [told] = await kept("console.error('the disk is on fire'); setTimeout(() => process.exit(7), 50);");
	expect(told).toMatch(/^w j: The process that did it ended \(with exit code 7\)\. Its last words: the disk is on fire/);
});

test("a cancelled one that goes on by itself is ended, and that is no crash", async () => {
	const begin = Date.now();
	expect(await kept("setInterval(() => process.send('alive'), 50);", {}, async () => Date.now() - begin < 1500)).toEqual([]);
});
