import { applyEdit, type Edit, edit, emptyShot, invert, type Shot } from "@rubble/core/shot";
import { Client } from "pg";
import type { Page } from "puppeteer-core";
import { lots } from "../../packages/core/src/testing/mutate";
import { combine, newPage, newShot, openBrowser, press, pressText, type Session, sleep, state, URL_UNDER_TEST, until } from "./browser";
import { COMMAND_NAMES, EXAMPLES } from "./commandExamples";
import { makeShot } from "./requests";

/** Whatever is done is saved once, or said not to be. */
let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

const json = async <T = Record<string, unknown>>(method: string, path: string, body?: unknown): Promise<{ status: number; body: T }> => {
	const response = await fetch(`${URL_UNDER_TEST}${path}`, {
		method,
		headers: { "Content-Type": "application/json" },
		...(body !== undefined && { body: JSON.stringify(body) }),
	});
	return { status: response.status, body: (await response.json().catch(() => ({}))) as T };
};

let sentSoFar = 0;
const sent = (done: Edit, way = "do") => ({ edit: `edit${sentSoFar++}`, step: "step", way, name: done.name, patches: done.patches });
const patch = (shot: string, base: number, edits: readonly object[]) =>
	json<{ revision: number; message?: string; edit?: string }>("POST", `/api/shots/${shot}/patches`, { base, edits });
/** What the server has, as plain JSON. */
const stored = async (shot: string) => (await json<Shot>("GET", `/api/shots/${shot}`)).body;
const plain = (value: unknown) => JSON.parse(JSON.stringify(value));

test("every command, its undo and its redo are taken by the server, and leave there what they leave here", async () => {
	expect(COMMAND_NAMES.filter((name) => !EXAMPLES.some(([known]) => known === name))).toEqual([]);
	let shot = emptyShot("Shot");
	const id = await makeShot(shot);
	let revision = 0;
	for (const [name, example] of EXAMPLES) {
		const made = edit(shot, example(shot));
		expect([name, made.edit.patches.length > 0]).toEqual([name, true]);
		const back = invert(made.edit);
		for (const [way, one] of [
			["do", made.edit],
			["undo", back],
			["redo", made.edit],
		] as const) {
			const answer = await patch(id, revision, [sent(one, way)]);
			expect([name, way, answer.status, answer.body.message]).toEqual([name, way, 200, undefined]);
			revision = answer.body.revision;
			const here = way === "undo" ? shot : made.shot;
			expect([name, way, await stored(id)]).toEqual([name, way, plain(here)]);
		}
		shot = made.shot;
	}
	// Each of these revisions can be seen again.
	const log = (await json<{ revision: number }[]>("GET", `/api/shots/${id}/edits`)).body;
	expect(log).toHaveLength(revision);
	for (const at of [0, 3, 30, revision - 2]) {
		const then = (await json<Shot>("GET", `/api/shots/${id}/edits?revision=${at}`)).body;
		let wanted = emptyShot("Shot");
		for (const [n, [, example]] of EXAMPLES.entries()) if (3 * (n + 1) <= at) wanted = edit(wanted, example(wanted)).shot;
		// In between an example is undone: then it is what was before it.
		if (at % 3 === 1) wanted = edit(wanted, EXAMPLES[Math.floor(at / 3)]![1](wanted)).shot;
		expect(then.objects).toEqual(plain(wanted.objects));
	}
});

test("commands, undo and redo in any order: the server follows", async () => {
	for (const seed of [1, 2, 3]) {
		const lot = lots(seed);
		let shot = emptyShot("Shot");
		const id = await makeShot(shot);
		let revision = 0;
		const undo: Edit[] = [];
		const redo: Edit[] = [];
		const queue: object[] = [];
		let next = 0;
		for (let n = 0; n < 120; n++) {
			const what = lot(4);
			if (what === 0 && undo.length > 0) {
				const last = undo.pop()!;
				redo.push(last);
				shot = applyEdit(shot, invert(last).patches);
				queue.push(sent(invert(last), "undo"));
				next = Math.max(0, next - 1);
			} else if (what === 1 && redo.length > 0) {
				const again = redo.pop()!;
				undo.push(again);
				shot = applyEdit(shot, again.patches);
				queue.push(sent(again, "redo"));
				next++;
			} else if (next < EXAMPLES.length) {
				const made = edit(shot, EXAMPLES[next++]![1](shot));
				undo.push(made.edit);
				redo.length = 0;
				shot = made.shot;
				queue.push(sent(made.edit));
			}
			if (lot(3) > 0 || queue.length === 0) continue;
			const answer = await patch(id, revision, queue.splice(0));
			expect([seed, n, answer.status, answer.body.message]).toEqual([seed, n, 200, undefined]);
			revision = answer.body.revision;
		}
		if (queue.length > 0) await patch(id, revision, queue);
		expect(await stored(id)).toEqual(plain(shot));
	}
});

test("an edit that is sent twice is made once; of several only those that are new are made", async () => {
	const id = await makeShot(emptyShot("Twice"));
	const note = (value: string) => sent({ name: "Note", patches: [{ op: "replace", path: ["note"], value }], inverse: [] });
	const [one, two, three] = [note("one"), note("two"), note("three")];
	expect((await patch(id, 0, [one, two])).body.revision).toBe(2);
	// The answer was lost: all of it comes again, with what was done since.
	expect((await patch(id, 0, [one, two])).body).toMatchObject({ revision: 2 });
	expect((await patch(id, 0, [one, two, three])).body.revision).toBe(3);
	expect((await stored(id)).note).toBe("three");
	// Somebody else went on meanwhile: nothing is written over.
	expect((await patch(id, 2, [note("late")])).status).toBe(409);
	expect((await patch(id, 0, [one, note("later")])).status).toBe(409);
	expect((await stored(id)).note).toBe("three");
	expect((await json("GET", `/api/shots/${id}/patches?edits=${one.edit},${three.edit},nothing`)).body).toEqual({
		[one.edit]: 1,
		[three.edit]: 3,
	});
});

test("Ctrl G, Ctrl Z is saved, and so is what comes after; undo goes on after a reload", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await press(page, "Ball");
	await until(page, (s) => s.bodies.length === 2 && s.save.kind === "saved");
	await combine(page, "Control", "a");
	await combine(page, "Control", "g");
	await until(page, (s) => Object.keys(s.shot.objects).length === 3);
	await combine(page, "Control", "z");
	await until(page, (s) => Object.keys(s.shot.objects).length === 2);
	await press(page, "Cone");
	await until(page, (s) => s.save.kind === "saved" && Object.keys(s.shot.objects).length === 3);
	await page.reload({ waitUntil: "networkidle2" });
	await until(page, (s) => s.bodies.length === 3 && s.undoStack.length === 3);
	for (const left of [2, 1, 0]) {
		await combine(page, "Control", "z");
		await until(page, (s) => s.save.kind === "saved");
		expect(await state(page, (s) => Object.keys(s.shot.objects).length)).toBe(left);
	}
	await combine(page, "Control", "y");
	await until(page, (s) => s.save.kind === "saved" && Object.keys(s.shot.objects).length === 1);
	expect(session.errors).toEqual([]);
});

test("an answer is lost and the page reloaded: nothing is lost, and nothing is said to be another window's", async () => {
	const { page } = session;
	await newShot(page);
	const before = session.errors.length;
	// The server does its work; its answer never comes. A reload takes this away again.
	await page.evaluate(() => {
		const real = window.fetch;
		window.fetch = async (...asked) => {
			const answer = await real(...asked);
			if (String(asked[0]).endsWith("/patches")) throw new TypeError("The connection was reset");
			return answer;
		};
	});
	await press(page, "Box");
	await page.waitForSelector("::-p-text(not saved yet)");
	// Another edit, which the server never hears of before the reload.
	await press(page, "Ball");
	await until(page, (s) => Object.keys(s.shot.objects).length === 2);
	await page.reload({ waitUntil: "networkidle2" });
	await until(page, (s) => Object.keys(s.shot.objects).length === 2 && s.save.kind === "saved");
	await page.reload({ waitUntil: "networkidle2" });
	await until(page, (s) => Object.keys(s.shot.objects).length === 2);
	expect(await page.$("[role=alert]")).toBeNull();
	session.errors.splice(before);
});

test("what a window left behind is shown where the shot has changed since, and made again on demand", async () => {
	const { page } = session;
	const before = session.errors.length;
	await newShot(page);
	const url = page.url();
	await page.setOfflineMode(true);
	await press(page, "Box");
	await page.waitForSelector("::-p-text(not saved yet)");
	await page.setOfflineMode(false);
	// The edit is on its way again after some seconds: before that, somebody else changes the shot.
	const id = url.split("/")[4]!;
	await page.goto("about:blank");
	const held = await revisionOf(id);
	await patch(id, held.revision, [sent({ name: "Note", patches: [{ op: "replace", path: ["note"], value: "theirs" }], inverse: [] })]);
	await page.goto(url, { waitUntil: "networkidle2" });
	await page.waitForSelector("::-p-text(An edit of an earlier visit could not be saved)");
	await page.waitForSelector("::-p-text(Add Box)");
	expect(await state(page, (s) => Object.keys(s.shot.objects).length)).toBe(0);
	await pressText(page, "Make again");
	await until(page, (s) => Object.keys(s.shot.objects).length === 1 && s.save.kind === "saved");
	const now = await stored(id);
	expect([now.note, Object.keys(now.objects)]).toEqual(["theirs", [expect.any(String)]]);
	expect(await page.$("[role=alert]")).toBeNull();
	session.errors.splice(before);
});
/** Replaces a value of the shot in a page, as an edit; it waits for nothing. */
const set = (page: Page, path: readonly string[], value: unknown): Promise<void> =>
	page.evaluate(
		(where, what) => {
			const { performEdit, shot } = (window as any).rubble.state();
			const old = where.reduce((at, key) => at[key], shot);
			performEdit({
				name: `Set ${where.at(-1)}`,
				patches: [{ op: "replace", path: where, value: what }],
				inverse: [{ op: "replace", path: where, value: old }],
			});
		},
		[...path],
		value,
	);
const revisionOf = async (id: string) => (await json<{ revision: number }>("GET", `/api/shots/${id}?revision`)).body;

test("an edit that can never be saved is said at once; taken back, the rest is saved", async () => {
	const { page } = session;
	const before = session.errors.length;
	await newShot(page);
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 1 && s.save.kind === "saved");
	await set(page, ["note"], "a\0b");
	await press(page, "Ball");
	await page.waitForSelector("::-p-text(can never be saved)");
	await page.waitForSelector("::-p-text(holds a character that cannot be stored)");
	await pressText(page, "Take it back");
	await until(page, (s) => s.save.kind === "saved" && Object.keys(s.shot.objects).length === 2);
	expect(await page.$("[role=alert]")).toBeNull();
	const id = page.url().split("/")[4]!;
	const names = Object.values((await stored(id)).objects).map(({ name }) => name);
	expect(names.sort()).toEqual(["Ball", "Box"]);
	// Half a character is no better than NUL.
	const { revision } = await revisionOf(id);
	const half = await patch(id, revision, [
		sent({ name: "Half", patches: [{ op: "replace", path: ["note"], value: "\ud800" }], inverse: [] }),
	]);
	expect([half.status, half.body.message]).toEqual([422, expect.stringMatching(/cannot be stored/)]);
	session.errors.splice(before);
});

test("two windows run one take: it holds the frames of one of them only, and the other is told", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 1 && s.save.kind === "saved");
	const id = page.url().split("/")[4]!;
	const shot = await stored(id);
	const take = {
		format: "mighty-rubble-take",
		version: 1,
		name: "Take 1",
		snapshot: shot,
		build: "test",
		bodies: [{ id: "a", path: "A" }],
		frameHashes: [],
		chunks: [],
	};
	const first = (await json<{ id: string; run: string }>("POST", `/api/shots/${id}/takes`, { take, name: "Take 1" })).body;
	const second = (await json<{ id: string; run: string }>("PUT", `/api/takes/${first.id}`, take)).body;
	const chunk = async (run: string, frame: number) => {
		const bytes = new Uint8Array(8).fill(frame);
		const hash = Buffer.from(await crypto.subtle.digest("SHA-256", bytes)).toString("hex");
		const response = await fetch(`${URL_UNDER_TEST}/api/takes/${first.id}/chunks/${frame}?run=${run}&frames=2&hash=${hash}`, {
			method: "PUT",
			body: bytes,
		});
		return [response.status, ((await response.json()) as { message?: string }).message];
	};
	expect(await chunk(second.run, 1)).toEqual([200, undefined]);
	expect(await chunk(first.run, 3)).toEqual([409, expect.stringMatching(/Another window or worker runs this take/)]);
	expect(await chunk(second.run, 3)).toEqual([200, undefined]);
	const chunks = async () => (await json<{ take: { chunks: { firstFrame: number }[] } }>("GET", `/api/takes/${first.id}`)).body.take.chunks;
	expect((await chunks()).map(({ firstFrame }) => firstFrame)).toEqual([1, 3]);
	// A lock holds on the server, against whoever is at it.
	expect((await json("PATCH", `/api/takes/${first.id}`, { locked: true })).status).toBe(200);
	expect(await chunk(second.run, 5)).toEqual([409, expect.stringMatching(/was locked while it ran/)]);
	expect((await json("PUT", `/api/takes/${first.id}`, take)).status).toBe(409);
	expect((await json("DELETE", `/api/takes/${first.id}`)).status).toBe(409);
	expect(await chunks()).toHaveLength(2);
});

test("two windows press Run: the later one has the take, the earlier one stops and says so", async () => {
	const { page } = session;
	const before = session.errors.length;
	await page.goto(URL_UNDER_TEST, { waitUntil: "networkidle2" });
	await page.locator("main li form button::-p-text(Slipway stack)").click();
	await until(page, (s) => s.bodies.length > 0 && s.building === null && s.save.kind === "saved");
	// Long enough that both are at it together.
	await set(page, ["settings", "lastFrame"], 6000);
	await combine(page, "Control", "Enter");
	await until(page, (s) => s.frames.chunks.length > 0);
	const other = await newPage(session.browser, session.errors, session.downloads);
	await other.goto(page.url(), { waitUntil: "networkidle2" });
	await until(other, (s) => s.take !== null && s.bodies.length > 0 && s.building === null);
	await other.bringToFront();
	// Something is out of date there: it runs from the first frame.
	await set(other, ["settings", "gravity"], [0, -8, 0]);
	await combine(other, "Control", "Enter");
	await until(other, (s) => s.run !== null);
	await page.waitForFunction(() => /Another window or worker runs this take/.test(document.body.textContent ?? ""), { polling: 100 });
	await until(page, (s) => s.run === null);
	await until(other, (s) => s.frames.chunks.length > 1);
	await other.keyboard.down("Control");
	await other.keyboard.press(".");
	await other.keyboard.up("Control");
	await until(other, (s) => s.run === null);
	const id = page.url().split("/")[4]!;
	const takes = (await json<{ id: string; frames: number }[]>("GET", `/api/shots/${id}/takes`)).body;
	expect(takes).toHaveLength(1);
	const { take } = (await json<{ take: { snapshot: Shot; chunks: { hash: string }[] } }>("GET", `/api/takes/${takes[0]!.id}`)).body;
	expect(take.snapshot.settings.gravity).toEqual([0, -8, 0]);
	expect(take.chunks.map(({ hash }) => hash)).toEqual(await state(other, (s) => s.take!.take.chunks.map(({ hash }) => hash)));
	await other.close();
	session.errors.splice(before);
});

test("bytes that are stored again are young again: the cleaner leaves them for whoever is about to refer to them", async () => {
	const bytes = new TextEncoder().encode(`young ${Date.now()}`);
	const hash = Buffer.from(await crypto.subtle.digest("SHA-256", bytes)).toString("hex");
	const put = async () => (await fetch(`${URL_UNDER_TEST}/api/assets/${hash}`, { method: "PUT", body: bytes })).status;
	expect(await put()).toBe(200);
	const client = new Client({ connectionString: process.env.DATABASE_URL });
	await client.connect();
	try {
		const age = async () =>
			(await client.query("select extract(epoch from now() - created_at)::float8 as age from blobs where hash = $1", [hash])).rows[0].age;
		await client.query("update blobs set created_at = now() - interval '3 days' where hash = $1", [hash]);
		expect(await age()).toBeGreaterThan(86_400);
		expect(await put()).toBe(200);
		expect(await age()).toBeLessThan(60);
	} finally {
		await client.end();
	}
});

test("shots of any name can be saved as a file and opened again; a broken take keeps nobody out of the yard", async () => {
	const names = ["Волнолом 4", "Κυματοθραύστης", "防波堤", 'Quay "7"; drop', "🌊"];
	for (const name of names) {
		const id = await makeShot({ ...emptyShot("x"), name });
		const file = await fetch(`${URL_UNDER_TEST}/api/shots/${id}/file?takes`);
		expect([name, file.status]).toEqual([name, 200]);
		const opened = await fetch(`${URL_UNDER_TEST}/api/shots`, {
			method: "POST",
			headers: { "Content-Type": "application/zip" },
			body: new Uint8Array(await file.arrayBuffer()),
		});
		const { id: copy } = (await opened.json()) as { id: string };
		expect((await stored(copy)).name).toBe(name);
	}
	const id = await makeShot(emptyShot("Broken take"));
	const client = new Client({ connectionString: process.env.DATABASE_URL });
	await client.connect();
	try {
		for (const take of ['{"frameHashes":"abc"}', "[]", "null", '{"snapshot":{"settings":7}}'])
			await client.query("insert into takes (id, shot, name, take) values (gen_random_uuid(), $1, 'Broken', $2)", [id, take]);
		await client.query('update shots set document = document || \'{"objects": 7, "settings": []}\' where id = $1', [id]);
		expect((await fetch(URL_UNDER_TEST)).status).toBe(200);
		expect((await json<unknown[]>("GET", `/api/shots/${id}/takes`)).body).toHaveLength(4);
	} finally {
		await client.query("delete from shots where id = $1", [id]);
		await client.end();
	}
});

test("a deleted shot lies in the trash with its takes, and comes back; its page says where it is", async () => {
	const { page } = session;
	const name = `Gone ${Date.now()}`;
	const id = await makeShot({ ...emptyShot("x"), name });
	await page.goto(URL_UNDER_TEST, { waitUntil: "networkidle2" });
	await page.locator(`::-p-aria([name="Delete ${name}"])`).click();
	await page.locator("[role=alertdialog] button::-p-text(Delete)").click();
	await page.waitForSelector(`::-p-aria([name="Take back ${name}"])`);
	expect((await json("GET", `/api/shots/${id}`)).status).toBe(404);
	expect((await patch(id, 0, [sent({ name: "Note", patches: [], inverse: [] })])).status).toBe(404);
	await page.locator(`::-p-aria([name="Take back ${name}"])`).click();
	await page.waitForSelector(`::-p-aria([name="Delete ${name}"])`);
	expect((await stored(id)).name).toBe(name);
	await page.locator(`::-p-aria([name="Delete ${name}"])`).click();
	await page.locator("[role=alertdialog] button::-p-text(Delete)").click();
	await page.locator(`::-p-aria([name="Delete ${name} for good"])`).click();
	await page.locator("[role=alertdialog] button::-p-text(Delete for good)").click();
	await page.waitForFunction((gone) => !document.querySelector("main")!.textContent!.includes(gone), {}, name);
	const client = new Client({ connectionString: process.env.DATABASE_URL });
	await client.connect();
	expect((await client.query("select 1 from shots where id = $1", [id])).rowCount).toBe(0);
	await client.end();
	expect(session.errors).toEqual([]);
});

test("any revision is looked at without changing anything, and brought back as a step of its own", async () => {
	const { page } = session;
	await newShot(page);
	for (const shape of ["Box", "Ball", "Cone"]) {
		await press(page, shape);
		await until(page, (s) => s.save.kind === "saved");
	}
	await page.locator('button[aria-label^="What was done"]').click();
	await page.locator('::-p-aria([name="Look at revision 1"])').click();
	await until(page, (s) => Object.keys(s.shot.objects).length === 1);
	await page.waitForSelector("::-p-text(Nothing can be changed here)");
	await press(page, "Torus");
	await sleep(400);
	expect(await state(page, (s) => Object.keys(s.shot.objects).length)).toBe(1);
	await pressText(page, "Back to now");
	await until(page, (s) => Object.keys(s.shot.objects).length === 3);
	await page.locator('button[aria-label^="What was done"]').click();
	await page.locator('::-p-aria([name="Look at revision 2"])').click();
	await until(page, (s) => Object.keys(s.shot.objects).length === 2);
	await pressText(page, "Bring it back");
	await until(page, (s) => Object.keys(s.shot.objects).length === 2 && s.save.kind === "saved");
	await combine(page, "Control", "z");
	await until(page, (s) => Object.keys(s.shot.objects).length === 3 && s.save.kind === "saved");
	expect(session.errors).toEqual([]);
});
