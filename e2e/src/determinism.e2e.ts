import { spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { openBrowser, runToEnd, type Session, state, URL_UNDER_TEST, until } from "./browser";

let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

test.each(["Breakwater strike", "Lamp-room pane"])("%s gives the same bytes in Chromium and in Node", async (name) => {
	const { page } = session;
	await page.goto(URL_UNDER_TEST, { waitUntil: "networkidle2" });
	await page.locator(`main li form button::-p-text(${name})`).click();
	await until(page, (s) => s.bodies.length > 300);
	await runToEnd(page);
	const inBrowser = await state(page, (s) => s.take!.take.chunks.map((chunk) => chunk.hash));

	const folder = mkdtempSync(join(tmpdir(), "rubble-node-"));
	try {
		const rubble = (...words: string[]) =>
			spawnSync(process.execPath, [resolve("packages/cli/bin/rubble.mjs"), ...words], {
				cwd: folder,
				env: { ...process.env, NODE_OPTIONS: "" },
			});
		rubble("sample", name.toLowerCase().replace(" ", "-"), "--out", "shot.json");
		rubble("run", "shot.json", "--out", "take", "--report", "report.json");
		const inNode = JSON.parse(readFileSync(join(folder, "take", "take.json"), "utf8")).chunks.map((chunk: { hash: string }) => chunk.hash);
		expect(inBrowser.length).toBeGreaterThan(3);
		expect(inBrowser).toEqual(inNode);
	} finally {
		rmSync(folder, { recursive: true, force: true });
	}
	expect(session.errors).toEqual([]);
});
