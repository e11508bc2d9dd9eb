import { readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { unzipSync } from "fflate";
import { ALL_FORMATS, BufferSource, Input } from "mediabunny";
import type { Page } from "puppeteer-core";
import {
	downloaded,
	kind,
	newShot,
	openBrowser,
	openSample,
	press,
	pressText,
	runToEnd,
	type Session,
	sleep,
	state,
	type,
	URL_UNDER_TEST,
	until,
} from "./browser";

/** Takes, sweeps, the board, settling, files: what comes after a run. */
let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

const takes = (): Promise<{ id: string; name: string; frames: number; picked: boolean; locked: boolean; lastFrame: number }[]> =>
	session.page.evaluate(async () => (await fetch(`/api/shots/${location.pathname.split("/")[2]}/takes`)).json());

test("a sweep of three strengths is run by workers; the board shows them side by side, over each other and in turn, and one is picked", async () => {
	const { page } = session;
	await openSample(page, "Spring scale");
	await page.evaluate(() => (document.activeElement as HTMLElement).blur());
	await type(page, "Last", "48");
	await runToEnd(page);
	await pressText(page, "Sweep …");
	await page.locator('input[aria-label="Number to sweep"]').fill("Spring: Stiffness");
	await page.locator('input[aria-label="Values"]').fill("-3");
	await page.locator("::-p-text(lies between)").wait();
	await page.locator('input[aria-label="Values"]').fill("130, 260, 520");
	await pressText(page, "Run 3 takes");
	for (let i = 0; i < 200 && (await takes()).filter(({ frames, lastFrame }) => frames === lastFrame).length < 4; i++) await sleep(300);
	const made = await takes();
	expect(made.map(({ name, frames }) => [name, frames])).toEqual([
		["Take 1", 48],
		["Stiffness 130 N/m", 48],
		["Stiffness 260 N/m", 48],
		["Stiffness 520 N/m", 48],
	]);
	// The middle one is the shot itself: the worker's bytes are those of the page.
	const hashes = await page.evaluate(
		async (ids) =>
			Promise.all(
				ids.map(async (id) =>
					((await (await fetch(`/api/takes/${id}`)).json()) as { take: { chunks: { hash: string }[] } }).take.chunks
						.map(({ hash }) => hash)
						.join(),
				),
			),
		made.map(({ id }) => id),
	);
	expect(hashes[2]).toBe(hashes[0]);
	expect(new Set(hashes).size).toBe(3);
	await pressText(page, "Compare takes");
	await page.locator("::-p-text(What differs)").wait();
	await pressText(page, "Stiffness 130 N/m");
	await page.waitForFunction(() => document.querySelectorAll("figure").length === 3);
	const row = await page.waitForFunction(() =>
		[...document.querySelectorAll("[aria-label='What differs'] tbody tr")].map((line) =>
			[...line.querySelectorAll("td")].map((cell) => cell.textContent),
		),
	);
	expect(await row.jsonValue()).toEqual([["Spring: Stiffness", expect.any(String), expect.any(String), expect.any(String)]]);
	// A spring that hangs free touches nothing: measured, not guessed.
	await pressText(page, "Measure");
	await page.locator("[aria-label='Deepest overlap'] .recharts-surface").wait();
	await pressText(page, "Overlay");
	await page.waitForFunction(
		() => document.querySelectorAll("figure").length === 1 && document.querySelectorAll("figure canvas").length === 2,
	);
	await page.keyboard.press("x");
	await page.waitForFunction(() => document.querySelectorAll("figure canvas").length === 1);
	const first = await page.$eval("figcaption", (caption) => (caption as HTMLElement).textContent!);
	await page.keyboard.press("x");
	await page.waitForFunction((was) => (document.querySelector("figcaption") as HTMLElement).textContent! !== was, {}, first);
	await pressText(page, "Pick");
	await page.locator("::-p-text(The good one)").wait();
	const [good, ...others] = (await takes()).filter(({ picked }) => picked);
	expect(others).toEqual([]);
	// It is what the bench shows and Bake writes; its settings are one click away.
	await pressText(page, "Take up its settings");
	await until(page, (s: any) => s.take !== null && s.shot !== null && s.save.kind === "saved" && s.undoStack.length > 0);
	await page.waitForFunction((id) => (window as any).rubble.state().take?.id === id && !location.search.includes("settings"), {}, good!.id);
	const stiffness = /([\d.]+) N\/m/.exec(good!.name);
	if (stiffness) expect(await state(page, (s: any) => JSON.stringify(s.shot.connectors))).toContain(`"stiffness":${stiffness[1]}`);
	// A run leaves what a sweep has made as it is.
	await type(page, "Time scale", "0.5");
	await runToEnd(page);
	const after = await takes();
	expect(after).toHaveLength(made.length + (good!.name === "Take 1" ? 0 : 1));
	expect(after.find(({ id }) => id === good!.id)).toMatchObject({ name: good!.name, frames: 48 });
	expect(session.errors).toEqual([]);
});

test("a take is renamed, locked and kept from a new run; its settings can be taken up again", async () => {
	const { page } = session;
	await openSample(page, "Spring scale");
	await type(page, "Last", "24");
	await runToEnd(page);
	const menu = async (of: string, item: string) => {
		await press(page, `More for ${of}`);
		await page.locator(`::-p-aria([role='menuitem']) ::-p-text(${item})`).click();
	};
	await menu("Take 1", "Rename");
	await page.locator('input[aria-label="Name of the take"]').fill("Soft");
	await page.keyboard.press("Enter");
	await page.locator("::-p-aria([name='More for Soft'])").wait();
	await menu("Soft", "Lock");
	await page.waitForFunction(() => document.querySelector("[aria-label='locked']"));
	await type(page, "Time scale", "0.5");
	await runToEnd(page);
	await page.locator("::-p-aria([name='More for Take 1'])").wait();
	expect((await takes()).map(({ name, locked, frames }) => [name, locked, frames])).toEqual([
		["Soft", true, 24],
		["Take 1", false, 24],
	]);
	const refused = await page.evaluate(async (id) => (await fetch(`/api/takes/${id}`, { method: "DELETE" })).status, (await takes())[0]!.id);
	expect(refused).toBe(409);
	await page.locator("ul[aria-label='Takes'] button ::-p-text(Soft)").click();
	await until(page, (s: any) => s.take?.name === "Soft" && s.frames.chunks.length > 0);
	await menu("Soft", "Take up its settings");
	await until(page, (s: any) => s.shot.settings.timeScale === 1);
	await page.waitForFunction(() => /24 frames/.test((document.querySelector("[data-stage='run']") as HTMLElement).textContent!));
	await menu("Take 1", "Delete");
	await page.waitForFunction(() => document.querySelectorAll("ul[aria-label='Takes'] li").length === 1);
	expect(session.errors).toEqual([]);
});

test("sixty things settle in a fish box and are kept: no physics, nothing in anything, there after a reload, back by one undo", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Ground");
	await page.evaluate(() => {
		const s = (window as any).rubble.state();
		const add = (id: string, source: object, translation: number[], more = {}) => ({
			op: "add",
			path: ["objects", id],
			value: {
				name: id,
				parent: null,
				translation,
				rotation: [0, 0, 0, 1],
				scale: [1, 1, 1],
				source,
				material: "oak",
				hidden: false,
				locked: false,
				order: 10,
				keys: { translation: [], rotation: [] },
				...more,
			},
		});
		const board = (width: number, height: number, depth: number) => ({ kind: "shape", shape: "box", parameters: { width, height, depth } });
		const patches = [
			add("Bottom", board(1.2, 0.04, 0.8), [0, 0.02, 0]),
			add("Left", board(0.04, 0.5, 0.8), [-0.58, 0.27, 0]),
			add("Right", board(0.04, 0.5, 0.8), [0.58, 0.27, 0]),
			add("Front", board(1.12, 0.5, 0.04), [0, 0.27, 0.38]),
			add("Back", board(1.12, 0.5, 0.04), [0, 0.27, -0.38]),
			add("Weight", board(0.14, 0.09, 0.11), [0, 3, 0], { hidden: true }),
			add(
				"Weights",
				{
					kind: "array",
					sources: ["Weight"],
					layout: "grid",
					options: { columns: 4, layers: 5, rows: 3, stepX: 0.22, stepY: 0.2, stepZ: 0.2, turn: 0.4, seed: 5 },
				},
				[0, 0.25, 0],
			),
		];
		s.performEdit({ name: "Set the box", patches, inverse: [{ op: "replace", path: [], value: s.shot }] });
	});
	await until(page, (s) => s.building === null && s.bodies.length >= 66);
	await page.locator("::-p-aria([role='treeitem']) ::-p-text(Weights)").click();
	await page.locator("[data-stage='run']").click();
	await pressText(page, "Settle picked and keep");
	await until(page, (s: any) => s.run === null && s.shot.keptPlaces !== null && s.kept.used === 60 && s.building === null);
	const heights = () =>
		state(page, (s: any) =>
			s.bodies.filter((b: any) => b.path.startsWith("Weights/")).map((b: any) => [b.settings.kind, b.kept.translation[1] as number]),
		);
	const kept = await heights();
	expect(new Set(kept.map(([kind]: [string, number]) => kind))).toEqual(new Set(["none"]));
	// Array's own frame: its middle stands 0.25 m above the quay, the box's bottom is 0.04 m thick.
	for (const [, y] of kept) expect(y + 0.25).toBeGreaterThan(0.04);
	for (const [, y] of kept) expect(y + 0.25).toBeLessThan(0.9);
	await until(page, (s) => s.save.kind === "saved");
	await page.reload({ waitUntil: "networkidle2" });
	await until(page, (s: any) => s.kept.used === 60 && s.building === null);
	expect(await heights()).toEqual(kept);
	expect(session.errors).toEqual([]);
});

test("a run begins from a frame of the one before, and what is kept can be forgotten", async () => {
	const { page } = session;
	await openSample(page, "Float hopper");
	await type(page, "Last", "24");
	await runToEnd(page);
	await page.keyboard.press("End");
	await pressText(page, "Start from 24");
	await until(page, (s: any) => s.shot.keptPlaces !== null && s.building === null && s.kept.used > 100);
	expect(await page.$$eval("[data-stage='run']", ([button]) => (button as HTMLElement).textContent!)).toMatch(/stale from 1/);
	await runToEnd(page);
	const moved = await state(page, (s: any) => {
		const index = new Map(s.take.take.bodies.map((b: any, i: number) => [b.id, i]));
		const first = s.frames.chunks[0];
		return Math.max(
			...s.bodies
				.filter((b: any) => b.kept)
				.map((b: any) =>
					Math.abs(first.poses[7 * (index.get(b.id) as number) + 1] - s.shot.objects[b.object].translation[1] - b.kept.translation[1]),
				),
		);
	});
	expect(moved).toBeLessThan(0.01);
	await pressText(page, "Forget places");
	await until(page, (s: any) => s.shot.keptPlaces === null && s.kept.used === 0);
	expect(session.errors).toEqual([]);
});

test("a shot with its takes goes out as a file and comes in again with the same frames; a damaged one is explained", async () => {
	const { page } = session;
	await openSample(page, "Spring scale");
	await type(page, "Last", "24");
	await runToEnd(page);
	await until(page, (s) => s.save.kind === "saved");
	const hash = await state(page, (s) => s.take!.take.chunks.map((chunk) => chunk.hash).join());
	await page.locator("[data-stage='bake']").click();
	await pressText(page, "With takes");
	const bytes = await downloaded(session, "zip");
	expect(Object.keys(unzipSync(bytes)).filter((name) => name === "shot.json" || name.endsWith("/take.json"))).toHaveLength(2);
	const file = join(session.downloads, "again.zip");
	writeFileSync(file, bytes);
	await page.goto(URL_UNDER_TEST, { waitUntil: "networkidle2" });
	const input = (await page.$('input[type="file"]')) as import("puppeteer-core").ElementHandle<HTMLInputElement>;
	await input.uploadFile(file);
	await page.waitForFunction(() => location.pathname.endsWith("/run"));
	await until(page, (s) => s.frames.chunks.length > 0);
	expect(await state(page, (s) => s.take!.take.chunks.map((chunk) => chunk.hash).join())).toBe(hash);
	await page.waitForFunction(() => /24 frames/.test((document.querySelector("[data-stage='run']") as HTMLElement).textContent!));
	const broken = readFileSync(file);
	broken[broken.length >> 1]! ^= 0xff;
	writeFileSync(file, broken);
	await page.goto(URL_UNDER_TEST, { waitUntil: "networkidle2" });
	await ((await page.$('input[type="file"]')) as import("puppeteer-core").ElementHandle<HTMLInputElement>).uploadFile(file);
	await page.locator("::-p-text(Copy)").wait();
	expect(new URL(page.url()).pathname).toBe("/");
	rmSync(file);
	expect(session.errors).toEqual([]);
});

test("USD and an OBJ sequence are told beforehand, written over a range, and named safely; a worker makes one too", async () => {
	const { page } = session;
	await openSample(page, "Spring scale");
	await type(page, "Last", "24");
	await runToEnd(page);
	await page.locator("[data-stage='bake']").click();
	const format = async (label: string) => {
		await page.locator("button[aria-label='Format']").click();
		await page.locator(`::-p-aria([role='option']) ::-p-text(${label})`).click();
	};
	await format("USD (text)");
	await type(page, "To", "12");
	await page.locator("::-p-text(Size, about)").wait();
	await pressText(page, "Bake and download");
	const usd = new TextDecoder().decode(await downloaded(session, "usda"));
	expect(usd).toMatch(/startTimeCode = 1\n {4}endTimeCode = 12\n/);
	expect(usd).toMatch(/def Xform "Float_1"/);
	await format("OBJ sequence");
	await pressText(page, "Bake and download");
	const names = Object.keys(unzipSync(await downloaded(session, "zip")));
	expect(names).toEqual([
		"spring-scale.mtl",
		...Array.from({ length: 12 }, (_, n) => `spring-scale_${String(n + 1).padStart(4, "0")}.obj`),
	]);
	await format("JSON Lines");
	await pressText(page, "Let a worker make it");
	await page.goto(`${URL_UNDER_TEST}/jobs`);
	await page.locator("a[aria-label^='Download spring-scale.jsonl']").click();
	const lines = new TextDecoder()
		.decode(await downloaded(session, "jsonl"))
		.trim()
		.split("\n");
	expect(JSON.parse(lines[0]!)).toMatchObject({ format: "mighty-rubble-lines", frames: [1, 12] });
	// A sequence in two parts, and a film that no page can make.
	await page.goBack();
	await page.locator("[data-stage='bake']").click();
	await type(page, "To", "4");
	await format("OBJ sequence");
	await type(page, "Frames a worker", "2");
	await pressText(page, "Let a worker make it");
	await format("Video (MP4)");
	await pressText(page, "Let a worker make it");
	await page.goto(`${URL_UNDER_TEST}/jobs`);
	await page.locator("a[aria-label='Download spring-scale_0003-0004.zip']").click();
	expect(Object.keys(unzipSync(await downloaded(session, "zip")))).toEqual([
		"spring-scale.mtl",
		"spring-scale_0003.obj",
		"spring-scale_0004.obj",
	]);
	await page.locator("a[aria-label='Download spring-scale.mp4']").click();
	expect(new TextDecoder().decode((await downloaded(session, "mp4")).subarray(4, 8))).toBe("ftyp");
	expect(session.errors).toEqual([]);
});

test("a preview clip at true speed has every frame of its range; a browser plays it, and pictures are numbered", async () => {
	const { page } = session;
	await openSample(page, "Spring scale");
	await type(page, "Last", "30");
	await runToEnd(page);
	await page.locator("[data-stage='bake']").click();
	await type(page, "From", "7");
	await pressText(page, "Make the clip");
	const clip = await downloaded(session, "webm");
	// Decoded by the browser, frame by frame.
	const player = await session.browser.newPage();
	const seen = await player.evaluate(async (text) => {
		const bytes = Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
		const video = document.createElement("video");
		video.muted = true;
		video.src = URL.createObjectURL(new Blob([bytes], { type: "video/webm" }));
		await new Promise((resolve, reject) => {
			video.onloadedmetadata = resolve;
			video.onerror = () => reject(new Error("the browser cannot play the clip"));
		});
		const canvas = document.createElement("canvas");
		canvas.width = 64;
		canvas.height = 36;
		const pen = canvas.getContext("2d", { willReadFrequently: true })!;
		const pictures: string[] = [];
		for (let n = 0; n < 24; n++) {
			const sought = new Promise((resolve) => {
				video.onseeked = resolve;
			});
			video.currentTime = (n + 0.5) / 24;
			await sought;
			pen.drawImage(video, 0, 0, 64, 36);
			pictures.push(pen.getImageData(0, 0, 64, 36).data.join());
		}
		return { width: video.videoWidth, height: video.videoHeight, duration: video.duration, different: new Set(pictures).size };
	}, Buffer.from(clip).toString("base64"));
	await player.close();
	await page.bringToFront();
	expect([seen.width, seen.height]).toEqual([1280, 720]);
	expect(seen.duration).toBeCloseTo(1, 2);
	expect(seen.different).toBeGreaterThan(20);
	const input = new Input({ source: new BufferSource(clip), formats: ALL_FORMATS });
	const track = (await input.getPrimaryVideoTrack())!;
	expect((await track.computePacketStats()).packetCount).toBe(24);
	await page.locator("::-p-aria([role='radio']) ::-p-text(Pictures)").click();
	await pressText(page, "Make the clip");
	const pictures = unzipSync(await downloaded(session, "zip"));
	expect(Object.keys(pictures)).toEqual(Array.from({ length: 24 }, (_, n) => `spring-scale-take-1_${String(n + 7).padStart(4, "0")}.png`));
	expect(new Set(Object.values(pictures).map((bytes) => Buffer.from(bytes).toString("base64"))).size).toBe(24);
	await pressText(page, "This frame");
	expect(
		Buffer.from(await downloaded(session, "png"))
			.subarray(1, 4)
			.toString(),
	).toBe("PNG");
	expect(await state(page, (s) => s.frame)).toBe(1);
	expect(session.errors).toEqual([]);
});

test("a run goes on from a stored frame with other settings, as a take of its own that says so", async () => {
	const { page } = session;
	await openSample(page, "Slipway stack");
	await type(page, "Last", "36");
	await runToEnd(page);
	const before = await state(page, (s) => s.take!.take.chunks.map(({ hash }) => hash));
	await type(page, "Gravity height", "-3");
	await type(page, "Go to frame", "18");
	await press(page, "Go on from 18");
	await until(page, (s) => s.run !== null, 10_000).catch(() => undefined);
	await until(page, (s) => s.run === null && (s.take as any)?.take.wentOn?.frame === 18);
	await page.waitForSelector("::-p-text(Take 1, frame 18)");
	// Until there it is what it was, and all of it holds for the shot as it is now.
	await page.waitForFunction(() => /36 frames/.test((document.querySelector("[data-stage='run']") as HTMLElement).textContent!));
	const chunks = await state(page, (s) => s.take!.take.chunks.map(({ hash }) => hash));
	expect(chunks.length).toBeGreaterThan(1);
	expect(chunks.at(-1)).not.toBe(before.at(-1));
	// A reload shows the same take; a later change is stale from the frame after.
	await page.reload({ waitUntil: "networkidle2" });
	await until(page, (s) => s.frames.chunks.length > 0);
	await page.waitForSelector("::-p-text(Take 1, frame 18)");
	await type(page, "Gravity height", "-5");
	await page.waitForSelector("::-p-text(from frame 19)");
	expect(session.errors).toEqual([]);
});

test("a fix is tried as a take of its own beside the one before, and the shot stays; a file that is cancelled is not written at all", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Ground");
	await press(page, "Cup");
	await until(page, (s) => s.bodies.length === 2 && s.building === null);
	await page.keyboard.press("3");
	await kind(page, "Active");
	await page.locator("button[aria-label='Shape']").click();
	await page.locator("::-p-aria([name='Convex hull'][role='option'])").click();
	await until(page, (s) => s.findings.some(({ check }) => check === "concave-hull"));
	await page.locator("[data-stage='run']").click();
	await type(page, "Last", "24");
	await runToEnd(page);
	const before = await page.evaluate(() => JSON.stringify(window.rubble!.state().shot));
	await press(page, "Try: Use parts");
	await page.locator("::-p-text(was tried. The shot is as it was)").wait();
	expect((await takes()).map(({ name, frames }) => [name, frames])).toEqual([
		["Take 1", 24],
		["Use parts", 24],
	]);
	expect(await page.evaluate(() => JSON.stringify(window.rubble!.state().shot))).toBe(before);
	// Both beside each other, as the button of the note opens them.
	const board = new Promise<Page | null>((resolve) =>
		session.browser.once("targetcreated", async (target) => resolve(await target.page())),
	);
	await page.locator("[data-sonner-toast] button[data-action]").click();
	const other = (await board)!;
	await other.waitForFunction(() => document.querySelectorAll("figure").length === 2);
	expect(await other.$$eval("figcaption", (captions) => captions.map((caption) => (caption.textContent ?? "").slice(0, 6)))).toEqual([
		"Take 1",
		"Use pa",
	]);
	await other.close();
	await page.locator("[data-stage='bake']").click();
	await page.locator("button[aria-label='Format']").click();
	await page.locator("::-p-aria([name='Pictures (PNG)'][role='option'])").click();
	await pressText(page, "Bake and download");
	await page.locator("section ::-p-text(Cancel)").click();
	await page.locator("::-p-text(Bake and download)").wait();
	await sleep(1500);
	expect(readdirSync(session.downloads)).toEqual([]);
	expect(session.errors).toEqual([]);
});
