import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import puppeteer, { type Browser, type Page } from "puppeteer-core";

/** The application under test; scripts/test.mjs starts it. */
export const URL_UNDER_TEST = process.env.RUBBLE_URL ?? "http://localhost:4180";

/** How long anything is waited for: what never comes fails the test, slow machines do not. ms */
export const PATIENCE = Number(process.env.PATIENCE ?? 240_000);

/** What the page offers to tests: its state, read only. */
export interface PageState {
	readonly shot: { readonly objects: Record<string, { name: string }>; readonly settings: Record<string, number> };
	readonly bodies: readonly { readonly id: string; readonly path: string; readonly mass: number; readonly settings: { kind: string } }[];
	/** Stones that pieces may leave. */
	readonly crumbs: readonly { readonly id: string; readonly path: string }[];
	readonly frame: number;
	readonly run: unknown;
	readonly building: unknown;
	readonly undoStack: readonly unknown[];
	readonly selection: readonly string[];
	readonly findings: readonly { readonly check: string; readonly message: string }[];
	readonly frames: {
		readonly chunks: readonly {
			readonly firstFrame: number;
			readonly frames: number;
			readonly bodies: number;
			readonly poses: Float32Array;
		}[];
	};
	readonly take: {
		readonly take: {
			readonly chunks: readonly { readonly hash: string }[];
			readonly frameHashes: readonly string[];
			readonly bodies: readonly { readonly id: string }[];
		};
	} | null;
	readonly save: { readonly kind: string };
	/** Bodies that stand at kept places. */
	readonly kept: { readonly used: number };
}
declare global {
	interface Window {
		rubble?: { state: () => PageState };
	}
}

export interface Session {
	readonly browser: Browser;
	readonly page: Page;
	readonly downloads: string;
	/** Errors that the page threw or logged. */
	readonly errors: string[];
	readonly close: () => Promise<void>;
}

export async function openBrowser(): Promise<Session> {
	const downloads = mkdtempSync(join(tmpdir(), "rubble-downloads-"));
	const profile = mkdtempSync(join(tmpdir(), "rubble-profile-"));
	const browser = await puppeteer.launch({
		executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
		userDataDir: profile,
		defaultViewport: { width: 1280, height: 800 },
		// Waits have their own ends.
		protocolTimeout: 0,
		args: [
			"--no-sandbox",
			"--disable-quic",
			"--no-first-run",
			"--disable-background-networking",
			"--disable-component-update",
			"--disable-sync",
			"--use-angle=swiftshader",
			"--enable-unsafe-swiftshader",
		],
	});
	const errors: string[] = [];
	const page = await newPage(browser, errors, downloads);
	return {
		browser,
		page,
		downloads,
		errors,
		async close() {
			await browser.close();
			for (const folder of [downloads, profile]) rmSync(folder, { recursive: true, force: true });
		},
	};
}

export async function newPage(browser: Browser, errors: string[], downloads: string): Promise<Page> {
	const page = await browser.newPage();
	page.setDefaultTimeout(PATIENCE);
	page.on("pageerror", (error) => errors.push(String(error)));
	page.on("console", (message) => {
		if (message.type() === "error" && !/status of 4\d\d/.test(message.text())) errors.push(message.text());
	});
	const session = await browser.target().createCDPSession();
	await session.send("Browser.setDownloadBehavior", { behavior: "allow", downloadPath: downloads });
	return page;
}

export const sleep = (milliseconds: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, milliseconds));

export const state = <T>(page: Page, read: (state: PageState) => T): Promise<T> =>
	page.evaluate(`(${read.toString()})(window.rubble.state())`) as Promise<T>;

/** What the tests of a file have typed and waited for so far: fields, characters, seconds. */
const spent = { fields: 0, characters: 0, waited: 0 };

/** Waits until something of the page's state is true. */
export const until = async (page: Page, test: (state: PageState) => boolean, timeout = PATIENCE): Promise<void> => {
	const begin = performance.now();
	await page.waitForFunction(`window.rubble && (${test.toString()})(window.rubble.state())`, { timeout, polling: 100 });
	spent.waited += (performance.now() - begin) / 1000;
};

/** Clicks what carries this name, as a screen reader or an eye would find it. */
export const press = async (page: Page, name: string): Promise<void> => {
	await page.locator(`::-p-aria([name="${name}"])`).click();
};
export const pressText = async (page: Page, text: string): Promise<void> => {
	await page.locator(`::-p-text(${text})`).click();
};

/** Types a value into the field of this label and leaves it by Enter. */
export async function type(page: Page, label: string, value: string): Promise<void> {
	spent.fields++;
	spent.characters += value.length;
	// Tried again where the bench is drawn anew in between.
	await page.locator(`::-p-aria([name="${label}"][role="textbox"])`).click();
	await page.keyboard.down("Control");
	await page.keyboard.press("a");
	await page.keyboard.up("Control");
	await page.keyboard.type(value);
	await page.keyboard.press("Enter");
	await page.evaluate(() => (document.activeElement as HTMLElement).blur());
}

/** A run of so many frames. No act of the work where it asks for no length: an artist leaves the shot's own. */
export const lasting = (page: Page, last: number): Promise<void> => type(page, "Last", String(last));

/** Picks a row of the ledger; with Ctrl, one more. */
export async function pick(page: Page, name: string, more = false): Promise<void> {
	if (more) await page.keyboard.down("Control");
	await page.locator(`::-p-aria([role='treeitem']) ::-p-text(${name})`).click();
	if (more) await page.keyboard.up("Control");
}

/** One of several that exclude each other, by what is written on it: a kind of body. */
export const kind = (page: Page, name: string): Promise<void> => page.locator(`::-p-aria([role='radio']) ::-p-text(${name})`).click();

/** Chooses an entry of a list that opens. */
export async function choose(page: Page, label: string, entry: string): Promise<void> {
	await press(page, label);
	await page.locator(`::-p-aria([role='option']) ::-p-text(${entry})`).click();
}

/** Stored poses of the bodies whose path begins so, at a frame: 7 numbers each, the place first. */
export const posesAt = (page: Page, path: string, frame: number): Promise<number[][]> =>
	page.evaluate(
		(start, at) => {
			const { bodies, crumbs, take, frames } = window.rubble!.state();
			const chunk = frames.chunks.find((one) => at >= one.firstFrame && at < one.firstFrame + one.frames)!;
			const index = new Map(take!.take.bodies.map(({ id }, i) => [id, i]));
			return [...bodies, ...crumbs]
				.filter((body) => body.path.startsWith(start) && index.has(body.id))
				.map((body) => {
					const from = ((at - chunk.firstFrame) * chunk.bodies + index.get(body.id)!) * 7;
					return [...chunk.poses.subarray(from, from + 7)];
				});
		},
		path,
		frame,
	);

export async function combine(page: Page, modifier: "Control" | "Shift", key: Parameters<Page["keyboard"]["press"]>[0]): Promise<void> {
	await page.keyboard.down(modifier);
	await page.keyboard.press(key);
	await page.keyboard.up(modifier);
}

/** A new, empty shot in the workbench. */
export async function newShot(page: Page): Promise<void> {
	await page.goto(URL_UNDER_TEST, { waitUntil: "networkidle2" });
	await press(page, "New shot");
	await until(page, (s) => s.save.kind === "saved" && Object.keys(s.shot.objects).length === 0);
}

/** Opens a fresh copy of a sample in its Run stage; gives the shot's id. */
export async function openSample(page: Page, name: string): Promise<string> {
	await page.goto(URL_UNDER_TEST, { waitUntil: "networkidle2" });
	await page.locator(`main li form button::-p-text(${name})`).click();
	await page.waitForFunction(() => location.pathname.endsWith("/run"));
	await until(page, (s) => s.bodies.length > 0 && s.building === null);
	return page.url().split("/").at(-2)!;
}

export async function runToEnd(page: Page, longest = PATIENCE): Promise<void> {
	await combine(page, "Control", "Enter");
	await until(page, (s) => s.run !== null, 5000).catch(() => undefined);
	await until(page, (s) => s.run === null, longest);
}

/** A drag over the view, by points of the window. */
export async function drag(page: Page, ...points: (readonly [number, number])[]): Promise<void> {
	await page.mouse.move(...points[0]!);
	await page.mouse.down();
	for (const point of points.slice(1)) await page.mouse.move(...point, { steps: 6 });
	await page.mouse.up();
}

interface Dropped {
	readonly name: string;
	readonly bytes: Uint8Array;
	/** Its media type, as the desktop tells it. */
	readonly type: string;
}

/** Files from outside, dropped together at a point of the window. */
export async function dropFiles(page: Page, at: readonly [number, number], ...files: readonly Dropped[]): Promise<void> {
	await page.evaluate(
		(clientX, clientY, all) => {
			const dataTransfer = new DataTransfer();
			for (const { name, bytes, type } of all) dataTransfer.items.add(new File([new Uint8Array(bytes)], name, { type }));
			const target = document.elementFromPoint(clientX, clientY)!;
			for (const kind of ["dragover", "drop"])
				target.dispatchEvent(new DragEvent(kind, { dataTransfer, clientX, clientY, bubbles: true, cancelable: true }));
		},
		...at,
		files.map(({ bytes, ...rest }) => ({ ...rest, bytes: [...bytes] })),
	);
}

/** The middle of the view, in the window. */
export const middle = async (page: Page): Promise<readonly [number, number]> => {
	const box = (await (await page.waitForSelector("canvas[aria-label='View of the shot']"))!.boundingBox())!;
	return [box.x + box.width / 2, box.y + box.height / 2];
};

/** The file that a click downloads, once it is whole. */
export async function downloaded(session: Session, extension: string): Promise<Uint8Array> {
	for (let i = 0; i < Math.max(900, PATIENCE / 100); i++) {
		const name = readdirSync(session.downloads).find((file) => file.endsWith(`.${extension}`));
		const path = name && join(session.downloads, name);
		if (path && existsSync(path) && statSync(path).size > 0) {
			const bytes = readFileSync(path);
			rmSync(path);
			return new Uint8Array(bytes);
		}
		await sleep(100);
	}
	throw new Error(`no .${extension} file was downloaded`);
}

export interface Counter {
	/** Does something that takes a click, a drag or a typed value, or more of them. */
	readonly act: (work: Promise<unknown>, times?: number) => Promise<void>;
	/** Does something by a key. */
	readonly key: (work: Promise<unknown>) => Promise<void>;
	readonly acts: () => number;
	readonly keys: () => number;
	readonly minutes: () => number;
}

/**
 * Counts what a practitioner does: clicks, drags and typed values, and keys beside them. The minutes are those of somebody
 * practised by the keystroke-level model (Card, Moran and Newell 1980: to think 1.35 s, to point 1.1 s, to press 0.2 s, to change
 * between mouse and keyboard 0.4 s, to type a character 0.28 s), and the seconds that the application really let wait.
 */
export function makeCounter(): Counter {
	const begun = { ...spent };
	let acts = 0;
	let keys = 0;
	return {
		act: async (work, times = 1) => {
			acts += times;
			await work;
		},
		key: async (work) => {
			keys++;
			await work;
		},
		acts: () => acts,
		keys: () => keys,
		minutes: () =>
			((1.35 + 1.1 + 0.2) * acts +
				(1.35 + 0.2) * keys +
				2 * 0.4 * (spent.fields - begun.fields) +
				0.28 * (spent.characters - begun.characters) +
				(spent.waited - begun.waited)) /
			60,
	};
}
