import { unzipSync } from "fflate";
import {
	choose,
	combine,
	downloaded,
	kind,
	openBrowser,
	openSample,
	pick,
	posesAt,
	press,
	pressText,
	runToEnd,
	type Session,
	state,
	type,
	until,
} from "./browser";

/** Runs that follow edits, takes that are told apart, and files of a part of them. */
let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

const hashes = () => state(session.page, (s) => s.take!.take.frameHashes);
const height = async (frame: number) => (await posesAt(session.page, "Float 1", frame))[0]![1]!;
const stage = () => session.page.$eval("[data-stage=run]", (button) => button.textContent);

test("edits are held until Run is pressed, or run as soon as one pauses, from the frame on that they matter for", async () => {
	const { page } = session;
	await openSample(page, "Spring scale");
	await type(page, "Last", "48");
	await runToEnd(page);
	const fallen = await height(12);
	await type(page, "Simulation from", "13");
	await page.waitForFunction(() => document.querySelector("[data-stage=run]")!.textContent!.includes("stale from 1"));
	expect(await state(page, (s) => s.run)).toBeNull();
	await kind(page, "Run");
	await page.waitForFunction(() => document.querySelector("[data-stage=run]")!.textContent!.includes("48 frames"));
	// Until then it hangs in the air, afterwards it falls as it did from the first frame on.
	expect(await height(13)).toBe(await height(1));
	expect(await height(24)).toBeCloseTo(fallen, 2);
	const before = await hashes();
	await page.locator("::-p-aria(Simulation from frame 13)").wait();
	await type(page, "Simulation from", "25");
	await page.waitForFunction((old) => window.rubble!.state().take!.take.frameHashes.at(-1) !== old, {}, before.at(-1));
	await until(page, (s) => s.run === null);
	expect(await stage()).toContain("48 frames");
	const after = await hashes();
	expect(after.findIndex((hash, n) => hash !== before[n])).toBe(12);
	expect(await height(25)).toBe(await height(1));
	await kind(page, "Hold");
	await type(page, "Simulation from", "30");
	await page.waitForFunction(() => document.querySelector("[data-stage=run]")!.textContent!.includes("stale from 25"));
	expect(await hashes()).toEqual(after);
});

test("a take has a note, is chosen beside Run, and plays on the board", async () => {
	const { page } = session;
	await pressText(page, "Run as new");
	await until(page, (s) => s.run !== null, 5000).catch(() => undefined);
	await until(page, (s) => s.run === null);
	await type(page, "Note", "Hangs longer");
	// Given up by Escape it stays as it was.
	await (await page.waitForSelector("::-p-aria(Note)"))!.click();
	await page.keyboard.type(" than it should");
	await page.keyboard.press("Escape");
	await press(page, "Take on show: Take 2");
	await page.locator("[role=menuitem]::-p-text(Take 1)").click();
	await page.locator("::-p-aria(Take on show: Take 1)").wait();
	await press(page, "Take on show: Take 1");
	await page.locator("[role=menuitem]::-p-text(Compare takes)").click();
	const note = page.locator('input[aria-label="Note on Take 2"]');
	expect(await (await note.waitHandle()).evaluate((field) => (field as HTMLInputElement).value)).toBe("Hangs longer");
	await page.locator('input[aria-label="Note on Take 1"]').fill("As first tried");
	await page.keyboard.press("Enter");
	await page.waitForFunction(() => document.querySelectorAll("figure").length === 2);
	const frame = () => page.$eval("header p", (line) => Number(/frame (\d+)/.exec(line.textContent!)![1]));
	const stood = await frame();
	await page.keyboard.press("Space");
	await page.waitForFunction((at) => !document.querySelector("header p")!.textContent!.endsWith(`frame ${at}`), {}, stood);
	await page.locator("button::-p-aria(Pause)").click();
	const paused = await frame();
	await page.keyboard.press("ArrowRight");
	expect(await frame()).toBe(paused === 48 ? 48 : paused + 1);
	await page.reload({ waitUntil: "networkidle2" });
	const kept = await page.locator('input[aria-label="Note on Take 1"]').waitHandle();
	expect(await kept.evaluate((field) => (field as HTMLInputElement).value)).toBe("As first tried");
});

test("while it runs the page says where the time of a frame goes", async () => {
	const { page } = session;
	await openSample(page, "Breakwater strike");
	await combine(page, "Control", "Enter");
	await page.waitForFunction(
		() => {
			const panel = document.body.textContent;
			return (
				/A frame\s*[\d.,]+ ms · [\d.,]+ fps/.test(panel) &&
				/of it engine\s*[\d.,]+ ms/.test(panel) &&
				/of it bonds\s*[\d.,]+ ms/.test(panel)
			);
		},
		{ timeout: 240_000, polling: 50 },
	);
	await press(page, "Stop");
	await until(page, (s) => s.run === null);
});

test("a file of what is picked: one mesh with z up in centimetres; formats keep their own choices", async () => {
	const { page } = session;
	await openSample(page, "Spring scale");
	await type(page, "Last", "6");
	await runToEnd(page);
	await page.locator("[data-stage=bake]").click();
	await choose(page, "Format", "OBJ sequence");
	await pick(page, "Float 1");
	await pick(page, "Float 2", true);
	await kind(page, "Picked, 2");
	await kind(page, "Z");
	await kind(page, "cm");
	await kind(page, "One");
	await pressText(page, "Bake and download");
	const files = unzipSync(await downloaded(session, "zip"));
	expect(Object.keys(files).filter((name) => name.endsWith(".obj"))).toHaveLength(6);
	const obj = new TextDecoder().decode(files["spring-scale_0001.obj"]);
	expect(obj.match(/^o .*/gm)).toEqual(["o spring-scale"]);
	const heights = [...obj.matchAll(/^v \S+ \S+ (\S+)/gm)].map(([, z]) => Number(z));
	const [first, second] = [(await posesAt(page, "Float 1", 1))[0]![1]!, (await posesAt(page, "Float 2", 1))[0]![1]!];
	// Balls: the middle of the highest and the lowest point is that of their centres, give or take a radius each.
	expect((Math.min(...heights) + Math.max(...heights)) / 2).toBeCloseTo((100 * (first + second)) / 2, 0);
	await choose(page, "Format", "GLB");
	expect(await page.$$eval("[role=radio]", (all) => all.map((one) => one.textContent))).not.toContain("Z");
	await choose(page, "Format", "OBJ sequence");
	const pressed = await page.$$eval("[role=radio][aria-checked=true]", (all) => all.map((one) => one.textContent));
	expect(pressed).toEqual(expect.arrayContaining(["Z", "cm", "One", "Picked, 2"]));
	// A worker gets the same order.
	await pressText(page, "Let a worker make it");
	await page.goto(new URL("/jobs", page.url()).href, { waitUntil: "networkidle2" });
	const written = await page.waitForFunction(() =>
		[...document.querySelectorAll("li")]
			.find((job) => job.textContent.includes("Take 1 as OBJ sequence"))
			?.querySelector<HTMLAnchorElement>("a[href$='/file']")
			?.getAttribute("href"),
	);
	const bytes = await page.evaluate(
		async (href) => Array.from(new Uint8Array(await (await fetch(href!)).arrayBuffer())),
		await written.jsonValue(),
	);
	expect(unzipSync(Uint8Array.from(bytes))).toEqual(files);
});
