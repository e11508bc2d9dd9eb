import type { HTTPResponse } from "puppeteer-core";
import {
	combine,
	newPage,
	newShot,
	openBrowser,
	press,
	pressText,
	type Session,
	sleep,
	state,
	type,
	URL_UNDER_TEST,
	until,
} from "./browser";

let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

test("the yard shows the sample shots; a card opens, and a fresh copy of a sample is one click", async () => {
	const { page } = session;
	await page.goto(URL_UNDER_TEST, { waitUntil: "networkidle2" });
	await page.waitForSelector("::-p-text(Lamp-room pane)");
	await page.locator("main li form button::-p-text(Lamp-room pane)").click();
	await until(page, (s) => s.bodies.filter((body) => body.path.startsWith("Pane/")).length === 400);
	expect(page.url()).toMatch(/\/run$/);
	expect(session.errors).toEqual([]);
});

test("a rule in the ledger picks pieces, which are set together; wrong rules say why", async () => {
	const { page } = session;
	const rule = await page.waitForSelector('input[aria-label="Find, or filter by a rule"]');
	await rule!.type("pane, piece, volume < 5 cm³");
	await page.waitForSelector("::-p-text(fit)");
	await pressText(page, "Select them");
	const picked = await state(page, (s) => s.selection.length);
	expect(picked).toBeGreaterThan(5);
	expect(picked).toBeLessThan(400);
	await page.evaluate(() => (document.activeElement as HTMLElement).blur());
	await page.keyboard.press("3");
	await press(page, "None");
	await until(page, (s) => s.bodies.filter((body) => body.settings.kind === "none").length > 4);
	expect(await state(page, (s) => s.bodies.filter((body) => body.settings.kind === "none").length)).toBe(picked);
	await press(page, "Clear the filter");
	await rule!.type("weight > 3");
	await page.waitForSelector("::-p-text(there is no column)");
	await press(page, "Clear the filter");
	expect(session.errors).toEqual([]);
});

test("stage and picked object stand in the address, and the back button walks the stages", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 1);
	await sleep(100);
	expect(new URL(page.url()).searchParams.get("at")).toBe(await state(page, (s) => s.selection[0]!));
	await page.keyboard.press("2");
	await page.waitForSelector('[data-stage="break"][aria-current="page"]');
	await page.keyboard.press("3");
	await page.waitForSelector('[data-stage="weigh"][aria-current="page"]');
	await page.goBack();
	await page.waitForSelector('[data-stage="break"][aria-current="page"]');
	expect(session.errors).toEqual([]);
});

test("a click in the view picks, the gizmo moves, hide and lock hold", async () => {
	const { page } = session;
	await page.keyboard.press("1");
	await page.keyboard.press("Escape");
	await until(page, (s) => s.selection.length === 0);
	await page.mouse.click(612, 370);
	await until(page, (s) => s.selection.length === 1);
	await press(page, "Lock Box");
	await page.keyboard.press("Escape");
	await page.mouse.click(612, 370);
	await sleep(200);
	expect(await state(page, (s) => s.selection.length)).toBe(0);
	await press(page, "Unlock Box");
	await press(page, "Hide Box");
	await page.mouse.click(612, 370);
	await sleep(200);
	expect(await state(page, (s) => s.selection.length)).toBe(0);
	await press(page, "Show Box");
	for (const view of ["Front", "Side", "Top"]) {
		await page.locator('button[aria-label^="Camera:"]').click();
		await page.locator(`[role=menuitemradio]::-p-text(${view})`).click();
	}
	expect(session.errors).toEqual([]);
});

test("edits made in two windows never overwrite each other", async () => {
	const { page } = session;
	await until(page, (s) => s.save.kind === "saved");
	const other = await newPage(session.browser, session.errors, session.downloads);
	await other.goto(page.url(), { waitUntil: "networkidle2" });
	await until(other, (s) => s.bodies.length === 1);
	await other.bringToFront();
	await press(other, "Ball");
	await until(other, (s) => Object.keys(s.shot.objects).length === 2 && s.save.kind === "saved");
	await page.bringToFront();
	await press(page, "Cylinder");
	await page.waitForSelector("::-p-text(changed in another window)");
	await pressText(page, "Load theirs");
	await until(page, (s) => Object.keys(s.shot.objects).length === 2 && s.save.kind === "saved");
	expect(
		await state(page, (s) =>
			Object.values(s.shot.objects)
				.map((item) => item.name)
				.sort(),
		),
	).toEqual(["Ball", "Box"]);
	await other.close();
});

test("edits survive a server that does not answer, and a reload meanwhile", async () => {
	const { page } = session;
	await page.setOfflineMode(true);
	await press(page, "Panel");
	await page.waitForSelector("::-p-text(not saved yet)");
	await page.setOfflineMode(false);
	await page.reload({ waitUntil: "networkidle2" });
	await until(page, (s) => Object.keys(s.shot.objects).length === 3 && s.save.kind === "saved");
	await page.reload({ waitUntil: "networkidle2" });
	await until(page, (s) => Object.keys(s.shot.objects).length === 3);
});

test("a run can be stopped and goes on; a check's fix is one click and undone by one", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await until(page, (s) => s.findings.some((finding) => finding.check === "nothing-wakes"));
	await pressText(page, "Make Box active");
	await until(page, (s) => s.bodies[0]!.settings.kind === "active" && s.findings.every((finding) => finding.check !== "nothing-wakes"));
	await combine(page, "Control", "z");
	await until(page, (s) => s.bodies[0]!.settings.kind === "none");
	await pressText(page, "Make Box active");
	await page.keyboard.press("2");
	await pressText(page, "Fine and even");
	await until(page, (s) => s.bodies.length === 600);
	await page.keyboard.press("1");
	await press(page, "Ground");
	await until(page, (s) => s.bodies.length === 601);
	await combine(page, "Control", "Enter");
	await until(page, (s) => s.frames.chunks.length >= 1);
	await combine(page, "Control", ".");
	await until(page, (s) => s.run === null);
	const stopped = await state(page, (s) => s.frames.chunks.reduce((sum, chunk) => sum + chunk.frames, 0));
	expect(stopped).toBeLessThan(120);
	await page.keyboard.press("6");
	await type(page, "Last", "48");
	await combine(page, "Control", "Enter");
	await until(page, (s) => s.run === null && s.frames.chunks.reduce((sum, chunk) => sum + chunk.frames, 0) >= 48);
});

test("all of it can be reached by keyboard: palette, help, theme", async () => {
	const { page } = session;
	await combine(page, "Control", "k");
	await page.keyboard.type("go to bake");
	await page.keyboard.press("Enter");
	await page.waitForSelector('[data-stage="bake"][aria-current="page"]');
	// A setting is found by its name, shown in its stage and ready to be typed.
	await combine(page, "Control", "k");
	await page.keyboard.type("time scale");
	await page.keyboard.press("Enter");
	await page.waitForSelector('[data-stage="run"][aria-current="page"]');
	await page.waitForFunction(() =>
		(document.activeElement as HTMLElement | null)?.closest("div.grid")?.textContent?.includes("Time scale"),
	);
	await page.keyboard.press("Escape");
	// One that is not there says where it would be.
	await combine(page, "Control", "k");
	await page.keyboard.type("drag · wind");
	await page.keyboard.press("Enter");
	await page.waitForSelector("::-p-text(Drag is in Push, under Wind)");
	await page.keyboard.type("?");
	await page.waitForSelector("::-p-text(All keys)");
	await page.keyboard.press("Escape");
	// The answer to the choice itself: the script of the route "theme" has it in its address too.
	const kept = (answer: HTTPResponse) => answer.request().method() === "POST" && answer.url().includes("/theme");
	await Promise.all([page.waitForResponse(kept), press(page, "Night theme")]);
	await page.waitForSelector('html[data-theme="night"]');
	await page.reload({ waitUntil: "networkidle2" });
	await page.waitForSelector('html[data-theme="night"]');
	await press(page, "Light theme");
	await page.waitForSelector('html[data-theme="light"]');
});

test("every control has a name for screen readers", async () => {
	const { page } = session;
	for (const stage of ["1", "2", "3", "6", "7"] as const) {
		await page.keyboard.press(stage);
		await sleep(150);
		const nameless = await page.evaluate(() =>
			[...document.querySelectorAll("button, input, [role=slider], canvas")]
				.filter((element) => element.getClientRects().length > 0)
				.filter((element) => {
					const id = element.getAttribute("id");
					const labelled = element.getAttribute("aria-label") ?? element.getAttribute("aria-labelledby") ?? element.textContent?.trim();
					return !labelled && !(id && document.querySelector(`label[for="${id}"]`)) && !element.closest("label");
				})
				.map((element) => element.outerHTML.slice(0, 120)),
		);
		expect([stage, nameless]).toEqual([stage, []]);
	}
});

test("the server sends its security headers and refuses requests that do not fit", async () => {
	const page = await fetch(URL_UNDER_TEST);
	expect(page.headers.get("content-security-policy")).toMatch(/script-src 'self' 'nonce-[^']+' 'wasm-unsafe-eval'/);
	// Nothing from elsewhere, and styles only where they have the nonce.
	expect(page.headers.get("content-security-policy")).toMatch(/style-src 'self' 'nonce-[^']+';.*font-src 'self'/);
	expect(page.headers.get("cache-control")).toBe("no-store");
	expect(page.headers.get("cross-origin-opener-policy")).toBe("same-origin");
	expect(page.headers.get("cross-origin-embedder-policy")).toBe("require-corp");
	expect(await session.page.evaluate(() => crossOriginIsolated)).toBe(true);
	const id = new URL(session.page.url()).pathname.split("/")[2]!;
	const post = (path: string, body: string, headers: Record<string, string> = {}) =>
		fetch(`${URL_UNDER_TEST}${path}`, { method: "POST", body, headers: { "Content-Type": "application/json", ...headers } });
	expect((await post(`/api/shots/${id}/patches`, "no json")).status).toBe(400);
	const edits = [{ edit: "e", step: "s", way: "do", name: "x", patches: [] }];
	expect((await post(`/api/shots/${id}/patches`, JSON.stringify({ base: -1, edits }))).status).toBe(400);
	expect((await post(`/api/shots/${id}/patches`, JSON.stringify({ base: 0, edits }), { "Sec-Fetch-Site": "cross-site" })).status).toBe(403);
	expect((await post("/api/shots/nobody/patches", JSON.stringify({ base: 0, edits }))).status).toBe(404);
	const wrong = await fetch(`${URL_UNDER_TEST}/api/assets/${"0".repeat(64)}`, { method: "PUT", body: "bytes" });
	expect([wrong.status, (await wrong.json()).message]).toEqual([400, expect.stringMatching(/do not have this hash/)]);
	expect((await fetch(`${URL_UNDER_TEST}/shots/nobody/shape`)).status).toBe(404);
});

test("a camera is put where the view looks from, aims at a keyed beacon and is looked through", async () => {
	const { page } = session;
	const before = session.errors.length;
	await newShot(page);
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 1);
	await press(page, "Add beacon");
	await press(page, "Add camera");
	await until(page, (s) => Object.keys(s.shot.objects).length === 3);
	await press(page, "Aims at");
	await page.locator("::-p-aria([role='option']) ::-p-text(Beacon)").click();
	await page.waitForSelector("::-p-text(Aims at)");
	await press(page, "Look through it");
	await page.waitForSelector("::-p-text(Leave the camera)");
	// Orbiting leaves it.
	const box = (await (await page.waitForSelector("canvas[aria-label='View of the shot']"))!.boundingBox())!;
	await page.mouse.move(box.x + 200, box.y + 300);
	await page.mouse.down({ button: "middle" });
	await page.mouse.move(box.x + 260, box.y + 320, { steps: 4 });
	await page.mouse.up({ button: "middle" });
	await page.waitForSelector("::-p-text(Look through it)");
	// Helpers are no bodies.
	expect(await state(page, (s) => s.bodies.length)).toBe(1);
	expect(session.errors.slice(before)).toEqual([]);
});

test("the same large bytes can be stored twice: a run that was made before is saved again", async () => {
	const { page } = session;
	await page.goto(URL_UNDER_TEST, { waitUntil: "networkidle2" });
	const answers = await page.evaluate(async () => {
		const bytes = new Uint8Array(12 * 1024 * 1024).map((_, i) => (i * 7919) >> 3);
		const digest = new Uint8Array(await crypto.subtle.digest("SHA-256", bytes));
		const hash = [...digest].map((byte) => byte.toString(16).padStart(2, "0")).join("");
		const put = async () => (await fetch(`/api/assets/${hash}`, { method: "PUT", body: bytes })).status;
		return [await put(), await put(), (await (await fetch(`/api/assets/${hash}`)).arrayBuffer()).byteLength];
	});
	expect(answers).toEqual([200, 200, 12 * 1024 * 1024]);
});
