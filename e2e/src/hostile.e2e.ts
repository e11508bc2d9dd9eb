import { isDeepStrictEqual } from "node:util";
import { sampleShot } from "@rubble/core/samples";
import { emptyShot } from "@rubble/core/shot";
import { Client } from "pg";
import { fuzzSeed, lots, mutateValue } from "../../packages/core/src/testing/mutate";
import { openBrowser, type Session, URL_UNDER_TEST } from "./browser";
import { makeShot } from "./requests";

/** Requests as no page sends them. Whatever they hold, the answer is a sentence, and the next one works. */
const REQUESTS = 2000;
const PATCHES = 2000;

interface Asked {
	readonly method: string;
	readonly path: string;
	readonly body?: string | undefined;
	readonly type?: string | undefined;
}

async function ask({ method, path, body, type = "application/json" }: Asked): Promise<{ status: number; text: string }> {
	const response = await fetch(`${URL_UNDER_TEST}${path}`, {
		method,
		headers: { "Content-Type": type },
		redirect: "manual",
		...(body !== undefined && method !== "GET" && { body }),
	});
	return { status: response.status, text: await response.text() };
}

const asJson = (value: unknown): string => JSON.stringify(value) ?? "null";
const messageOf = (text: string): string => {
	try {
		return String((JSON.parse(text) as { message?: unknown }).message);
	} catch {
		return text.slice(0, 200);
	}
};

let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

test("requests of every route, put wrong at random, are answered in a sentence", async () => {
	const seed = fuzzSeed("requests");
	const shot = emptyShot("Hostile");
	const id = await makeShot(shot);
	const take = { format: "mighty-rubble-take", version: 1, name: "T", snapshot: shot, build: "b", bodies: [], frameHashes: [], chunks: [] };
	const made = (await (
		await fetch(`${URL_UNDER_TEST}/api/shots/${id}/takes`, {
			method: "POST",
			headers: { "Content-Type": "application/json" },
			body: JSON.stringify({ take, name: "T" }),
		})
	).json()) as { id: string };
	const edits = [{ edit: "e", step: "s", way: "do", name: "N", patches: [{ op: "replace", path: ["note"], value: "x" }] }];
	const bake = { what: "bake", take: made.id, format: "glb", range: { firstFrame: 1, lastFrame: 9 }, keys: { everyNth: 1 } };
	const examples: readonly (readonly [method: string, path: string, body?: unknown])[] = [
		["POST", `/api/shots/${id}/patches`, { base: 0, edits }],
		["GET", `/api/shots/${id}/patches?edits=e,f`],
		["GET", `/api/shots/${id}/edits?revision=0`],
		["GET", `/api/shots/${id}`],
		["GET", `/api/shots/${id}/file?takes`],
		["GET", `/api/shots/${id}/takes?shown`],
		["POST", `/api/shots/${id}/takes`, { take, name: "Take" }],
		["PUT", `/api/takes/${made.id}`, take],
		["PATCH", `/api/takes/${made.id}`, { name: "Other", note: "n", locked: false, picked: true }],
		["POST", `/api/takes/${made.id}`, {}],
		["PUT", `/api/takes/${made.id}/chunks/1?run=r&frames=2&hash=${"0".repeat(64)}`, {}],
		["POST", `/api/shots/${id}/send`, { what: "sweep", shot, axes: [{ path: "settings/seed", values: [1] }] }],
		["POST", `/api/shots/${id}/send`, bake],
		["POST", `/api/shots/${id}/send`, { what: "fracture", shot, object: "a" }],
		["POST", "/api/jobs", { act: "priority", id: "x", priority: 3 }],
		["GET", "/api/jobs?ended=3"],
		["POST", "/api/presets", { name: "P", method: "voronoi", options: { count: 3 }, again: [] }],
		["DELETE", "/api/presets?id=x"],
		["PUT", `/api/assets/${"0".repeat(64)}`, {}],
		["PUT", `/api/pieces/${"0".repeat(64)}`, {}],
		["POST", "/api/shots", {}],
		["POST", "/?index", { intent: "duplicate", id }],
		["POST", "/?index", { intent: "open", document: shot }],
		["POST", `/api/shots/${id}/picture`, {}],
		["GET", `/shots/${id}/shape`],
		["GET", "/guide/start"],
		["POST", "/theme", { theme: "night" }],
	];
	const faults: string[] = [];
	for (let n = 0; n < REQUESTS && faults.length < 20; n++) {
		const lot = lots(seed + n);
		const [method, path, body] = examples[lot(examples.length)]!;
		const wrongPath = lot(3) === 0 ? hostilePath(path, lot) : path;
		const text = body === undefined ? undefined : lot(9) === 0 ? hostileText(lot) : asJson(mutateValue(body, lot));
		const type = lot(12) === 0 ? ["text/plain", "application/zip", "multipart/form-data", "image/png", ""][lot(5)] : undefined;
		const asked: Asked = {
			method: lot(20) === 0 ? ["GET", "PUT", "POST", "DELETE", "PATCH"][lot(5)]! : method,
			path: wrongPath,
			body: text,
			type,
		};
		try {
			const { status, text: answer } = await ask(asked);
			if (status >= 500) faults.push(`${n}: ${asked.method} ${asked.path} ${status} ${answer.slice(0, 160)} ← ${text?.slice(0, 160)}`);
		} catch (error) {
			faults.push(`${n}: ${asked.method} ${asked.path} no answer: ${(error as Error).message}`);
		}
	}
	expect(faults).toEqual([]);
	expect((await ask({ method: "GET", path: "/health" })).status).toBe(200);
	expect((await ask({ method: "GET", path: "/" })).status).toBe(200);
});

function hostilePath(path: string, lot: (below: number) => number): string {
	const bits = ["%00", "%ED%A0%80", "%E0%A4%A", "..%2f..", "constructor", "'", "%F0%9F%8C%8A", "-1", "9".repeat(40), "a".repeat(3000)];
	const bit = bits[lot(bits.length)]!;
	const parts = path.split("/");
	const at = 1 + lot(Math.max(1, parts.length - 1));
	parts[at] = lot(2) === 0 ? bit : `${parts[at] ?? ""}${bit}`;
	return parts.join("/");
}

const hostileText = (lot: (below: number) => number): string =>
	[
		"",
		"{",
		"null",
		"7",
		'{"constructor":1}',
		'{"__proto__":{"intent":"new"}}',
		"[".repeat(20_000),
		`${'{"a":'.repeat(5000)}1${"}".repeat(5000)}`,
		'"\\u0000"',
		'{"name":"\\ud800"}',
	][lot(10)]!;

test("patches put wrong at random are made and can be loaded, or are refused in a sentence", async () => {
	const seed = fuzzSeed("patches");
	const shot = sampleShot("spring-scale")!;
	const id = await makeShot(shot);
	let revision = 0;
	let taken = 0;
	const faults: string[] = [];
	const places: (string | number)[][] = [
		["objects"],
		["settings"],
		["materials"],
		["bodies"],
		["links"],
		["connectors"],
		["worlds"],
		["bodyRules"],
		["colouring"],
		["name"],
		[],
	];
	for (const object of Object.keys(shot.objects))
		places.push(["objects", object], ["objects", object, "source"], ["objects", object, "keys"], ["objects", object, "scale"]);
	for (const link of Object.keys(shot.links)) places.push(["links", link]);
	for (const connector of Object.keys(shot.connectors)) places.push(["connectors", connector], ["connectors", connector, "options"]);
	for (let n = 0; n < PATCHES && faults.length < 20; n++) {
		const lot = lots(seed + n);
		const path = places[lot(places.length)]!;
		const value = path.reduce<unknown>((at, key) => (at as Record<string, unknown> | undefined)?.[key], shot);
		const patch = lot(15) === 0 ? mutateValue({ op: "remove", path }, lot) : { op: "replace", path, value: mutateValue(value ?? {}, lot) };
		const edits = [{ edit: `fuzz${seed}-${n}`, step: "s", way: "do", name: "Fuzz", patches: [patch] }];
		const { status, text } = await ask({ method: "POST", path: `/api/shots/${id}/patches`, body: asJson({ base: revision, edits }) });
		if (status === 200) {
			revision = (JSON.parse(text) as { revision: number }).revision;
			taken++;
		} else if (status >= 500 || !/[.!]$/.test(messageOf(text)))
			faults.push(`${n} ${status}: ${text.slice(0, 200)} ← ${asJson(patch).slice(0, 200)}`);
		if (n % 100 === 99) {
			// What was taken can be loaded, and taken back to where it began.
			const loaded = await ask({ method: "GET", path: `/shots/${id}/shape` });
			if (loaded.status !== 200) faults.push(`${n}: the shot cannot be opened any more: ${loaded.status}`);
			const first = await ask({ method: "GET", path: `/api/shots/${id}/edits?revision=0` });
			if (first.status !== 200 || !isDeepStrictEqual(JSON.parse(first.text).objects, JSON.parse(asJson(shot.objects))))
				faults.push(`${n}: the beginning cannot be had back: ${first.status}`);
			if (faults.length === 0) {
				const back = [
					{ edit: `back${seed}-${n}`, step: "b", way: "do", name: "Back", patches: [{ op: "replace", path: [], value: shot }] },
				];
				const answer = await ask({ method: "POST", path: `/api/shots/${id}/patches`, body: asJson({ base: revision, edits: back }) });
				if (answer.status !== 200) faults.push(`${n}: back: ${answer.text}`);
				else revision = (JSON.parse(answer.text) as { revision: number }).revision;
			}
		}
	}
	expect(faults).toEqual([]);
	// Some of it is harmless: then it is made.
	expect(taken).toBeGreaterThan(10);
});

test("what could not be loaded, shown, run or undone is refused with why", async () => {
	const shot = sampleShot("spring-scale")!;
	const id = await makeShot(shot);
	let n = 0;
	const say = async (path: (string | number)[], value: unknown, op = "replace"): Promise<string> => {
		const edits = [{ edit: `limits${id}${n++}`, step: "s", way: "do", name: "Limit", patches: [{ op, path, value }] }];
		const { status, text } = await ask({ method: "POST", path: `/api/shots/${id}/patches`, body: asJson({ base: 0, edits }) });
		return `${status} ${messageOf(text)}`;
	};
	const [link] = Object.keys(shot.links);
	const object = shot.links[link!]!.object;
	expect(await say(["links", link!, "source"], object)).toMatch(/422 .*follows itself/);
	expect(await say(["links", link!, "source"], "nobody")).toMatch(/422 .*follows an object that is not in the shot/);
	expect(await say(["objects", "constructor"], shot.objects[object], "add")).toMatch(/422/);
	expect(await say(["objects", "__proto__"], shot.objects[object], "add")).toMatch(/422/);
	expect(await say(["settings", "firstFrame"], 3e9)).toMatch(/422 .*firstFrame/);
	expect(await say(["settings", "firstFrame"], -(2 ** 53))).toMatch(/422 .*firstFrame/);
	expect(await say(["bodies", object], { kind: "active", velocity: [1e300, 0, 0] })).toMatch(/422 .*velocity/);
	expect(await say(["objects", object, "scale"], [1e-300, 1, 1])).toMatch(/422 .*scale/);
	let deep: unknown = 1;
	for (let k = 0; k < 3000; k++) deep = [deep];
	const edits = [{ edit: `deep${id}`, step: "s", way: "do", name: "Deep", patches: [{ op: "replace", path: ["note"], value: deep }] }];
	const answer = await ask({ method: "POST", path: `/api/shots/${id}/patches`, body: asJson({ base: 0, edits }) });
	expect([answer.status, messageOf(answer.text)]).toEqual([422, expect.stringMatching(/deep in each other/)]);
	const parents = Object.fromEntries(
		Array.from({ length: 5000 }, (_, k) => [
			`p${k}`,
			{ ...shot.objects[object], source: { kind: "group" }, name: `P${k}`, parent: k > 0 ? `p${k - 1}` : null },
		]),
	);
	expect(await say(["objects"], { ...shot.objects, ...parents })).toMatch(/422 .*64 groups deep/);
	// A rule of a thousand stars costs no more than another.
	expect(await say(["bodyRules"], [{ id: "r", rule: `${"a*".repeat(1000)}b`, settings: { kind: "active" } }])).toMatch(/^200/);
	const order = { what: "bake", format: "obj-sequence", keys: { everyNth: 1 }, framesPerJob: 1 };
	const send = (body: object) => ask({ method: "POST", path: `/api/shots/${id}/send`, body: asJson(body) });
	expect((await send({ ...order, take: "x", range: { firstFrame: 1, lastFrame: 1e9 } })).status).toBe(400);
	const run = await send({ what: "run", shot: { ...shot, settings: { ...shot.settings, lastFrame: 90_000 } }, name: "Long" });
	expect(run.status).toBe(200);
	const takes = JSON.parse((await ask({ method: "GET", path: `/api/shots/${id}/takes` })).text) as { id: string }[];
	const long = await send({ ...order, take: takes[0]!.id, range: { firstFrame: 1, lastFrame: 900_000 } });
	expect([long.status, messageOf(long.text)]).toEqual([422, expect.stringMatching(/90,000 jobs; the most is 500/)]);
	const [job] = (JSON.parse(run.text) as { jobs: string[] }).jobs;
	await ask({ method: "POST", path: "/api/jobs", body: asJson({ act: "cancel", id: job }) });
});

test("while the database is away the answer is 503 with a sentence, and pages and saving go on by themselves after it", async () => {
	const { page } = session;
	const admin = new Client({ connectionString: process.env.DATABASE_ADMIN_URL });
	await admin.connect();
	const name = new URL(process.env.DATABASE_URL!).pathname.slice(1);
	const id = await makeShot(emptyShot("Away"));
	try {
		await admin.query(`alter database "${name}" with allow_connections false`);
		await admin.query("select pg_terminate_backend(pid) from pg_stat_activity where datname = $1", [name]);
		const { status, text } = await ask({ method: "GET", path: `/api/shots/${id}` });
		expect([status, messageOf(text)]).toEqual([503, expect.stringMatching(/database does not answer just now/)]);
		const health = await ask({ method: "GET", path: "/health" });
		expect([health.status, JSON.parse(health.text).problems]).toEqual([503, [expect.stringMatching(/cannot write/)]]);
		await page.goto(URL_UNDER_TEST);
		await page.waitForSelector("::-p-text(The database does not answer)");
	} finally {
		await admin.query(`alter database "${name}" with allow_connections true`);
		await admin.end();
	}
	await page.waitForSelector("::-p-text(Your shots)");
});
