import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import type { AxeResults, RunOptions } from "axe-core";
import { combine, openBrowser, openSample, press, type Session, URL_UNDER_TEST, until } from "./browser";

/** Every page under an accessibility checker, in both themes. */
let session: Session;
let shot: string;
const checker = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");
beforeAll(async () => {
	session = await openBrowser();
	await session.page.goto(URL_UNDER_TEST, { waitUntil: "networkidle2" });
	shot = await openSample(session.page, "Breakwater strike");
});
afterAll(() => session.close());

/** What the checker has against the page as it stands, each with what it is about. */
async function findings(options: RunOptions = {}): Promise<string[]> {
	const { page } = session;
	await page.evaluate(checker);
	return page.evaluate(async (how) => {
		const { violations } = (await (window as any).axe.run(document, { resultTypes: ["violations"], ...how })) as AxeResults;
		return violations.flatMap(({ id, impact, nodes }) => nodes.map(({ html }) => `${impact} ${id}: ${html.slice(0, 160)}`));
	}, options as object);
}

const STAGES = ["shape", "break", "weigh", "bind", "push", "run", "bake"];
const goTo = (path: string) => session.page.goto(`${URL_UNDER_TEST}${path}`, { waitUntil: "networkidle2" });
/** The workbench, with what is broken picked: the benches have most to show of it. */
async function openBench(): Promise<void> {
	const { page } = session;
	await goTo(`/shots/${shot}/shape`);
	await until(page, (s) => s.bodies.length > 0 && s.building === null);
	await page.evaluate(() => {
		const { shot: now, select } = (window as any).rubble.state();
		select([(Object.values(now.fractures)[0] as { object: string }).object]);
	});
	await page.waitForFunction(() => document.querySelector("[role=treeitem][aria-selected=true]"));
}
async function eachStage(options?: RunOptions): Promise<void> {
	const { page } = session;
	await openBench();
	for (const [n, stage] of STAGES.entries()) {
		await page.keyboard.type(String(n + 1));
		await page.waitForSelector(`[data-stage="${stage}"][aria-current="page"]`);
		expect([stage, await findings(options)]).toEqual([stage, []]);
	}
}

test.each(["/", "/jobs", "/guide", "/guide/saving"])("%s has nothing that the checker minds", async (path) => {
	await goTo(path);
	expect(await findings()).toEqual([]);
});

test("no stage of the workbench has anything that the checker minds, nor have the board and the dialogs", async () => {
	const { page } = session;
	await eachStage();
	await page.keyboard.type("?");
	await page.waitForSelector("::-p-text(All keys)");
	expect(await findings()).toEqual([]);
	await page.keyboard.press("Escape");
	await combine(page, "Control", "k");
	await page.waitForSelector("[cmdk-item]");
	expect(await findings()).toEqual([]);
	await page.keyboard.press("Escape");
	await goTo(`/shots/${shot}/takes`);
	expect(await findings()).toEqual([]);
});

test("in the night theme everything stands out from its ground as well", async () => {
	const { page } = session;
	await goTo("/");
	await press(page, "Night theme");
	await page.waitForSelector('html[data-theme="night"]');
	const contrast: RunOptions = { runOnly: ["color-contrast"] };
	for (const path of ["/", "/jobs", "/guide", `/shots/${shot}/takes`]) {
		await goTo(path);
		expect([path, await findings(contrast)]).toEqual([path, []]);
	}
	await eachStage(contrast);
});

test("a hidden object's row can be read, and Tab leads past what is the same on every page", async () => {
	const { page } = session;
	await openBench();
	await press(page, `Hide ${await page.$eval("[role=treeitem][aria-selected=true] .font-medium", (name) => name.textContent)}`);
	await until(page, (s: any) => Object.values(s.shot.objects).some(({ hidden }: any) => hidden));
	expect(await findings({ runOnly: ["color-contrast"] })).toEqual([]);
	await goTo("/");
	await page.keyboard.press("Tab");
	expect(await page.evaluate(() => document.activeElement?.textContent)).toBe("Skip to the content");
	await page.keyboard.press("Enter");
	await page.keyboard.press("Tab");
	expect(await page.evaluate(() => document.activeElement?.closest("main")?.id)).toBe("main");
	expect(session.errors).toEqual([]);
});
