import { join } from "node:path";
import type { Page } from "puppeteer-core";
import {
	choose,
	drag,
	middle,
	newShot,
	openBrowser,
	openSample,
	pick,
	press,
	pressText,
	runToEnd,
	sleep,
	type,
	URL_UNDER_TEST,
	until,
} from "./browser";

/**
 * The pictures of `docs/screenshots`, from the demo data of the running application: `npm run screenshots`, or with names for some of
 * them. Look at each afterwards: nothing here knows what a picture should look like.
 */
const FOLDER = join(import.meta.dirname, "../../docs/screenshots");

/** Things come to rest in the view: a camera that turns, what is still being drawn. ms */
const SETTLES = 5000;
/** No message stays longer. ms */
const MESSAGE_STAYS = 15_000;

interface Sample {
	readonly name: string;
	readonly stage: string;
	readonly frame?: number;
	/** A drag over the view that turns it, pixels, and how many notches nearer. */
	readonly turn?: readonly [x: number, y: number, nearer: number];
}

/** Opens a sample at a stage, with its frames and everything that is drawn of it. */
async function open(page: Page, { name, stage, frame, turn }: Sample): Promise<void> {
	const shots = (await (await fetch(`${URL_UNDER_TEST}/api/shots`)).json()) as { id: string; name: string }[];
	// The newest come first; copies are newer than what ships.
	const id = shots.filter((shot) => shot.name === name).at(-1)?.id;
	if (!id) throw new Error(`There is no shot ${name}: start the application with its samples.`);
	await page.goto(`${URL_UNDER_TEST}/shots/${id}/${stage}`, { waitUntil: "networkidle2" });
	await built(page);
	if (frame !== undefined) {
		await until(page, (s) => s.frames.chunks.length > 0);
		await type(page, "Go to frame", String(frame));
	}
	if (turn) {
		const [x, y] = [400, 300];
		await page.mouse.move(x, y);
		await page.mouse.down({ button: "middle" });
		await page.mouse.move(x + turn[0], y + turn[1], { steps: 12 });
		await page.mouse.up({ button: "middle" });
		await page.mouse.move(612, 430);
		for (let i = 0; i < turn[2]; i++) await page.mouse.wheel({ deltaY: -120 });
	}
}

/** A drag over the view, by points from its middle. */
async function stroke(page: Page, ...points: readonly (readonly [number, number])[]): Promise<void> {
	const [x, y] = await middle(page);
	await drag(page, ...points.map(([dx, dy]) => [x + dx, y + dy] as const));
}

/** Takes of a scale, each with a spring of its own, run by workers. Returns the shot. */
async function sweep(page: Page): Promise<string> {
	const shot = await openSample(page, "Spring scale");
	await runToEnd(page);
	await pressText(page, "Sweep …");
	await page.locator('input[aria-label="Number to sweep"]').fill("Spring: Stiffness");
	await page.locator('input[aria-label="Values"]').fill("130, 260, 520");
	await pressText(page, "Run 3 takes");
	await sleep(2000);
	return shot;
}

const built = (page: Page) => until(page, (s) => s.bodies.length > 0 && s.building === null);
const STRUCK: Sample = { name: "Breakwater strike", stage: "run", frame: 44, turn: [290, -40, 2] };

const PICTURES: Readonly<Record<string, (page: Page) => Promise<void>>> = {
	yard: async (page) => {
		// The takes that ship are still being made on a fresh machine.
		await page.goto(`${URL_UNDER_TEST}/jobs`, { waitUntil: "networkidle2" });
		await page.waitForFunction(
			async () => {
				const text = await (await fetch("/jobs")).text();
				return (text.match(/>done</g) ?? []).length >= 7;
			},
			{ polling: 2000 },
		);
		await page.goto(URL_UNDER_TEST, { waitUntil: "networkidle2" });
	},
	run: (page) => open(page, STRUCK),
	bake: (page) => open(page, { ...STRUCK, stage: "bake" }),
	shape: async (page) => {
		await open(page, { name: "Breakwater strike", stage: "shape" });
		await pick(page, "Davit");
	},
	break: async (page) => {
		await open(page, { name: "Breakwater strike", stage: "break" });
		await pick(page, "Breakwater");
	},
	weigh: async (page) => {
		await open(page, { name: "Breakwater strike", stage: "weigh" });
		await pick(page, "Buoy");
	},
	bind: async (page) => {
		await open(page, { name: "Breakwater strike", stage: "bind" });
		await pick(page, "Anchor chain");
	},
	push: (page) => open(page, { name: "Sign letters", stage: "push" }),
	"run-slipway": (page) => open(page, { name: "Slipway stack", stage: "run", frame: 66 }),
	"break-arch": async (page) => {
		await open(page, { name: "Causeway arch", stage: "break" });
		await pick(page, "Arch");
	},
	"break-strokes": async (page) => {
		await newShot(page);
		await press(page, "Panel");
		await built(page);
		await page.keyboard.press("2");
		await pressText(page, "Splinters and crumbs");
		await stroke(page, [0, 0], [0, 0]);
		await stroke(page, [-60, 80], [0, 50], [60, 90]);
		await press(page, "Done");
		await until(page, (s) => s.bodies.length > 330 && s.building === null);
	},
	"break-crack": async (page) => {
		await newShot(page);
		await press(page, "Ground");
		await press(page, "Box");
		await built(page);
		await type(page, "Width", "2 1.2 0.12");
		await page.keyboard.press("2");
		await pressText(page, "Crack, then part");
		await stroke(page, [-150, 10], [-60, -20], [30, 15], [150, -10]);
		await until(page, (s) => s.bodies.length === 3 && s.building === null);
		await press(page, "Done");
		await type(page, "Go to frame", "15");
	},
	"break-stones": async (page) => {
		await newShot(page);
		await press(page, "Ground");
		await press(page, "Box");
		await built(page);
		await page.keyboard.press("2");
		await pressText(page, "Rounded stones");
		await until(page, (s) => s.bodies.length > 50 && s.building === null);
	},
	"weigh-hulls": async (page) => {
		await newShot(page);
		await press(page, "Ground");
		await press(page, "Cup");
		await built(page);
		await page.keyboard.press("3");
		await page.keyboard.press("a");
		await type(page, "Most hulls", "36");
		await until(page, (s) => s.building === null && s.findings.length === 0);
		await press(page, "Colliders");
		await page.focus("::-p-aria([name='Apart'][role='slider'])");
		for (let i = 0; i < 30; i++) await page.keyboard.press("ArrowRight");
	},
	checks: async (page) => {
		await newShot(page);
		await press(page, "Ground");
		await press(page, "Cup");
		await type(page, "Position height", "0.2");
		await press(page, "Box");
		await type(page, "Width", "0.3 0.3 0.3");
		await type(page, "Position x", "0 0.6");
		await page.keyboard.press("a");
		await pick(page, "Cup");
		await page.keyboard.press("3");
		await page.keyboard.press("a");
		await choose(page, "Shape", "Convex hull");
		await until(page, (s) => s.building === null && s.findings.length > 1);
		await page.keyboard.press("f");
	},
	curves: async (page) => {
		await openSample(page, "Slipway stack");
		await runToEnd(page);
		await pick(page, "Barrel");
		await page.keyboard.press("7");
		await type(page, "Go to frame", "60");
		await pressText(page, "Bake it to keys");
		await page.waitForSelector("section[aria-label=Curves]");
		await pressText(page, "Correct here");
		await page.keyboard.press("1");
		await type(page, "Position height", "0.9");
	},
	jobs: async (page) => {
		await sweep(page);
		await page.goto(`${URL_UNDER_TEST}/jobs`, { waitUntil: "networkidle2" });
	},
	takes: async (page) => {
		const shot = await sweep(page);
		await page.waitForFunction(
			async (id) => {
				const takes = (await (await fetch(`/api/shots/${id}/takes`)).json()) as { frames: number; lastFrame: number }[];
				return takes.length === 4 && takes.every(({ frames, lastFrame }) => frames === lastFrame);
			},
			{ polling: 1000 },
			shot,
		);
		await pressText(page, "Compare takes");
		await page.waitForFunction(() => document.querySelectorAll("figure canvas").length > 1);
	},
	// Last: the theme stays.
	night: async (page) => {
		await open(page, STRUCK);
		await press(page, "Night theme");
	},
};

const wanted = process.argv.slice(2);
const { page, close } = await openBrowser();
try {
	for (const [name, prepare] of Object.entries(PICTURES)) {
		if (wanted.length > 0 && !wanted.includes(name)) continue;
		await prepare(page);
		await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
		await sleep(SETTLES);
		await page.waitForFunction(() => !document.querySelector(".toast"), { timeout: MESSAGE_STAYS });
		await page.screenshot({ path: join(FOLDER, `${name}.png`) as `${string}.png` });
		process.stdout.write(`${name}\n`);
	}
} finally {
	await close();
}
