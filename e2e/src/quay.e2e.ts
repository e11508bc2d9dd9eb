import { unzipSync } from "fflate";
import {
	choose,
	combine,
	downloaded,
	makeCounter,
	newShot,
	openBrowser,
	pick as pickRow,
	posesAt,
	press,
	pressText,
	runToEnd,
	type Session,
	type,
	until,
} from "./browser";
import { FULL, keepPicture, LONG, untilBuilt } from "./fullSize";
import { noteActs } from "./handOver";

/**
 * Pieces of work from an empty shot to files or kept places. In smaller numbers here; with RUBBLE_FULL=1 in full size, as
 * docs/journeys.md tells of them.
 */
let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

const pick = (name: string, more = false) => pickRow(session.page, name, more);
const built = () => untilBuilt(session.page);
const keep = (name: string) => keepPicture(session.page, name);
const copies = (path: string, count: number) =>
	session.page.waitForFunction(
		(start, wanted) => window.rubble!.state().bodies.filter((body) => body.path.startsWith(start)).length === wanted,
		{ timeout: LONG },
		path,
		count,
	);

test("floats over the quay: a jittered block of lively floats falls; one USD file holds them, the same each time, without camera and light", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	await act(press(page, "Ground"));
	await act(press(page, "Ball"));
	await act(type(page, "Radius", "0.1"));
	await act(type(page, "Position height", "1"));
	await act(press(page, "Grid"));
	const [columns, layers, rows] = FULL ? [15, 10, 15] : [4, 3, 4];
	await act(type(page, "Columns", `${columns} ${layers} ${rows}`));
	await act(type(page, "Jitter", "0.04"));
	const count = columns! * layers! * rows!;
	await copies("Ball copies/", count);
	await key(page.keyboard.press("3"));
	await key(page.keyboard.press("a"));
	await act(type(page, "Bounce", "0.8"));
	await key(page.keyboard.press("1"));
	await act(press(page, "Add light"));
	await act(press(page, "Add camera"));
	await page.keyboard.press("6");
	await act(type(page, "Last", "96"));
	await key(runToEnd(page, LONG));
	await keep("quay-floats");
	// Lively: the topmost of them jump higher again than balls of concrete would.
	const heights = async (frame: number) => (await posesAt(page, "Ball copies/", frame)).map((pose) => pose[1]!);
	const low = Math.min(...(await heights(24)));
	expect(low).toBeGreaterThan(0.09);
	await page.keyboard.press("7");
	await act(choose(page, "Format", "USD (text)"), 2);
	await page.locator("::-p-text(Size, about)").setTimeout(LONG).wait();
	await act(pressText(page, "Bake and download"));
	const once = await downloaded(session, "usda");
	const text = new TextDecoder().decode(once);
	expect(text).toMatch(/startTimeCode = 1\n {4}endTimeCode = 96\n/);
	expect(text.match(/references = <\/[^>]*\/Copies\/Ball_copies>/g)).toHaveLength(count);
	expect(text).toMatch(/def Material "Concrete"/);
	expect(text).not.toMatch(/Camera|Light/);
	await pressText(page, "Bake and download");
	expect(Buffer.compare(Buffer.from(await downloaded(session, "usda")), Buffer.from(once))).toBe(0);
	expect(acts()).toBeLessThanOrEqual(18);
	noteActs(8, counter);
	expect(session.errors).toEqual([]);
});

test("name board: letters spin, are gathered by age and flung out; balls while trying, hulls for true; an OBJ for each frame", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	const word = FULL ? "SALTMARSHHARBOUR" : "OAR";
	await act(press(page, "Letters"));
	await until(page, (s) => s.bodies.length === 1);
	await act(type(page, "Text", word));
	// Letters that touch are one part.
	await act(pressText(page, "Split in"));
	await page.waitForFunction((count) => window.rubble!.state().bodies.length > count, { timeout: LONG }, word.length / 2 + 1);
	await key(page.keyboard.press("3"));
	await key(page.keyboard.press("a"));
	await act(type(page, "Spin height", "180"));
	await act(choose(page, "Shape", "Sphere"), 2);
	await key(page.keyboard.press("5"));
	await page.waitForSelector("::-p-text(Add a force)");
	await act(page.locator("section:has(button) ::-p-aria([name='None'][role='button'])").click());
	for (const [strength, from, until_] of [
		["-6", "24", "48"],
		["20", "48", "72"],
	] as const) {
		await act(press(page, "Burst"));
		await act(type(page, "Strength", strength));
		await act(press(page, "Stage"));
		await act(type(page, "Age from", `${from} ${until_}`));
	}
	await page.keyboard.press("6");
	await act(type(page, "Last", FULL ? "150" : "80"));
	await key(runToEnd(page, LONG));
	// True shapes at last: the same shot with hulls.
	await key(page.keyboard.press("3"));
	await act(page.locator("::-p-aria([name='Find, or filter by a rule'])").fill("active"));
	await key(page.keyboard.press("Enter"));
	await built();
	await act(choose(page, "Shape", "Convex hull"), 2);
	await page.waitForFunction(() => document.querySelectorAll("[role=listbox]").length === 0);
	await built();
	await key(runToEnd(page, LONG));
	await keep("name-board");
	const last = FULL ? 150 : 80;
	const spread = async (frame: number) => {
		const xs = (await posesAt(page, "Letters", frame)).map(([x]) => x!);
		return Math.max(...xs) - Math.min(...xs);
	};
	const [start, spun, gathered, flung] = [await spread(1), await spread(24), await spread(46), await spread(last)];
	expect(Math.abs(spun - start)).toBeLessThan(0.15 * start);
	expect(gathered).toBeLessThan(0.9 * start);
	expect(flung).toBeGreaterThan(gathered + 0.3);
	await page.locator("[data-stage='bake']").click();
	await act(choose(page, "Format", "OBJ sequence"), 2);
	await act(pressText(page, "Bake and download"));
	const names = Object.keys(unzipSync(await downloaded(session, "zip"))).filter((name) => name.endsWith(".obj"));
	expect(names).toHaveLength(last);
	expect(names).toEqual([...names].sort());
	expect(acts()).toBeLessThanOrEqual(22);
	noteActs(9, counter);
	expect(session.errors).toEqual([]);
});

test("slipway dressing: twenty boxes, cups and coils settle on a slope in one press, and lie there without physics", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	await act(press(page, "Ground"));
	await act(press(page, "Box"));
	await act(press(page, "Cup"));
	await act(press(page, "Coil"));
	await until(page, (s) => s.bodies.length === 4 && s.building === null);
	await page.keyboard.down("Shift");
	await act(pick("Box"));
	await page.keyboard.up("Shift");
	await act(press(page, "Grid"));
	await act(type(page, "Layers", "1"));
	await until(page, (s) => s.building === null && s.bodies.filter((body) => body.path.includes(" copies/")).length >= 9);
	const settled = await page.evaluate(() => window.rubble!.state().bodies.filter((body) => body.path.includes(" copies/")).length);
	await key(page.keyboard.press("6"));
	await act(pressText(page, "Settle picked and keep"));
	await until(page, (s) => s.run === null && s.kept.used > 0 && s.building === null, LONG);
	await keep("slipway-dressing");
	const told = await page.evaluate(() => {
		const s = window.rubble!.state();
		return { kept: s.kept.used, active: s.bodies.filter(({ settings }) => settings.kind === "active").length };
	});
	expect(told).toEqual({ kept: settled, active: 0 });
	await combine(page, "Control", "z");
	await until(page, (s) => s.kept.used === 0);
	expect(acts()).toBeLessThanOrEqual(8);
	noteActs(11, counter);
	expect(session.errors).toEqual([]);
});
