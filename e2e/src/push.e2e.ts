import {
	combine,
	kind as kindOf,
	lasting,
	makeCounter,
	middle,
	newShot,
	openBrowser,
	pick as pickRow,
	posesAt,
	press,
	pressText,
	runToEnd,
	type Session,
	state,
	type,
	until,
} from "./browser";
import { FULL, keepPicture, LONG } from "./fullSize";
import { handOver } from "./handOver";

/** Real pieces of work with forces, regions, keys and worlds, by mouse and keyboard, in smaller numbers than in full size. */
let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

const pick = (name: string) => pickRow(session.page, name);
const kind = (name: string) => kindOf(session.page, name);

/** No gravity, by the button of the Push stage once that is there. */
const weightless = async () => {
	await session.page.waitForSelector("::-p-text(Add a force)");
	await session.page.locator("section:has(button) ::-p-aria([name='None'][role='button'])").click();
	await until(session.page, (s) => (s.shot.settings as any).gravity.every((g: number) => g === 0));
};

/** The same where gravity is keyed: a key at the frame on show. */
const weightlessByKey = async () => {
	await session.page.locator("section:has(button) ::-p-aria([name='None'][role='button'])").click();
	await until(session.page, (s) => (s.shot.settings as any).gravityKeys.some(({ value }: any) => value.every((g: number) => g === 0)));
};

/** World places of the bodies whose path begins so, at a frame: x, y, z each. */
const placesAt = (path: string, frame: number): Promise<number[][]> =>
	posesAt(session.page, path, frame).then((poses) => poses.map((pose) => pose.slice(0, 3)));

test("wave and whirl: a lifting force on keys passes baskets that wake by frame, a whirl follows; the falloff is drawn", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	await act(press(page, "Ground"));
	await act(press(page, "Ball"));
	await until(page, (s) => s.bodies.length === 2);
	await act(type(page, "Radius", "0.12"));
	await act(press(page, "Grid"));
	const baskets = FULL ? 400 : 25;
	if (FULL) await act(type(page, "Columns", "20 1 20"));
	await page.waitForFunction(
		(wanted) => window.rubble!.state().bodies.filter(({ path }) => path.startsWith("Ball copies/")).length === wanted,
		{},
		baskets,
	);
	await key(page.keyboard.press("3"));
	await key(page.keyboard.press("a"));
	await act(page.locator("::-p-aria([role='radio'][name='Frame'])").click());
	await page.locator("::-p-aria([name='Frame'][role='textbox'])").wait();
	await act(type(page, "Frame", "18"));
	await key(page.keyboard.press("5"));
	await act(press(page, "Push"));
	await act(type(page, "Strength", "40"));
	await act(press(page, "Falls off"));
	// The end of the falloff is pulled in by typing: nothing beyond 0.8 m.
	const curve = (await (await page.waitForSelector("svg[aria-label^='Falloff: a curve']"))!.boundingBox())!;
	await act(page.mouse.click(curve.x + curve.width * (1.5 / 1.62), curve.y + curve.height - 6));
	await act(type(page, "Falloff: distance of the picked point", "0.8"));
	await act(type(page, "Position x", "-2"));
	await key(page.keyboard.press("k"));
	await act(type(page, "Go to frame", "48"));
	await act(type(page, "Position x", "2"));
	await act(press(page, "Whirl"));
	await act(press(page, "In frames"));
	await act(type(page, "From", "49"));
	expect(acts()).toBeLessThanOrEqual(FULL ? 23 : 22);
	await page.keyboard.press("6");
	await type(page, "Last", "72");
	await runToEnd(page, LONG);
	await keepPicture(page, "wave-and-whirl");
	const [early, waiting, lifted, whirled] = await Promise.all([1, 17, 48, 72].map((frame) => placesAt("Ball copies/", frame)));
	// None twitches before it wakes.
	expect(waiting).toEqual(early);
	const far = (a: number[][], b: number[][], axis: number) => a.filter((place, i) => Math.abs(place[axis]! - b[i]![axis]!) > 0.05).length;
	expect(far(lifted!, early!, 1)).toBeGreaterThan(3);
	expect(far(lifted!, early!, 1)).toBeLessThan(baskets);
	expect(far(whirled!, lifted!, 0)).toBeGreaterThan(10);
	// The run can be switched off force by force.
	await page.keyboard.press("5");
	await pick("Ball copies");
	await press(page, "Turn Push off");
	await page.waitForSelector("::-p-aria([name='Turn Push on'])");
	await handOver(session, 18, counter);
	// Forces are shown by the stage also where its page is the first that is opened.
	await page.keyboard.press("5");
	await page.waitForFunction(() => location.pathname.endsWith("/push"));
	await page.reload({ waitUntil: "networkidle2" });
	await until(page, (s: any) => s.showForces && s.bodies.length > 0);
	await page.waitForSelector("::-p-aria([name='Forces'][role='button'])");
	expect(session.errors).toEqual([]);
});

test("a barrel follows its keys until frame 46 and goes on with their speed", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Ground");
	await press(page, "Ball");
	await until(page, (s) => s.bodies.length === 2);
	await type(page, "Position height", "2");
	await page.keyboard.press("k");
	await type(page, "Go to frame", "46");
	await type(page, "Position x", "3");
	await page.keyboard.press("k");
	await page.keyboard.press("3");
	await kind("Active");
	await page.waitForSelector("::-p-text(It follows its keys until it wakes)");
	await page.locator("::-p-aria([role='radio'][name='Frame'])").click();
	await page.locator("::-p-aria([name='Frame'][role='textbox'])").wait();
	await type(page, "Frame", "46");
	await page.keyboard.press("5");
	await weightless();
	await page.keyboard.press("6");
	await type(page, "Last", "72");
	await runToEnd(page);
	const x = async (frame: number) => (await placesAt("Ball", frame))[0]![0]!;
	const perFrame = (await x(40)) - (await x(39));
	expect(perFrame).toBeCloseTo(3 / 45, 4);
	expect((await x(72)) - (await x(71))).toBeCloseTo(perFrame, 3);
	expect(session.errors).toEqual([]);
});

test("a boat-hook region drawn through a field of stones wakes only those that it meets", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 1);
	for (const label of ["Width", "Height", "Depth"]) await type(page, label, "0.2");
	await type(page, "Position height", "2");
	await press(page, "Line");
	await until(page, (s) => s.bodies.filter((body) => body.path.startsWith("Box copies/")).length > 3);
	const count = await state(page, (s) => s.bodies.filter((body) => body.path.startsWith("Box copies/")).length);
	const start = await page.evaluate(() =>
		(window as any).rubble
			.state()
			.bodies.filter((b: any) => b.path.startsWith("Box copies/"))
			.map((b: any) => b.offset[0]),
	);
	await press(page, "Add region");
	await type(page, "Position x", String(Math.min(...start) - 0.6));
	await type(page, "Position height", "2");
	await type(page, "Position z", "0");
	// It stands beside all that the view shows; F brings it into the middle.
	const off = async () => {
		const [x, y] = await page.evaluate((at) => (window as any).rubble.project([at, 2, 0]) as [number, number], Math.min(...start) - 0.6);
		const [mx, my] = await middle(page);
		return Math.hypot(x - mx, y - my);
	};
	expect(await off()).toBeGreaterThan(40);
	await page.keyboard.press("f");
	expect(await off()).toBeLessThan(5);
	await page.keyboard.press("k");
	await type(page, "Go to frame", "24");
	// As far as half of the row.
	await type(page, "Position x", String((Math.min(...start) + Math.max(...start)) / 2 - 0.5));
	await pick("Box copies");
	await page.keyboard.press("3");
	await kind("Active");
	await page.locator("::-p-aria([role='radio'][name='Region'])").click();
	await until(page, (s) => s.bodies.some((body) => (body.settings as any).wake?.when === "region"));
	await page.keyboard.press("6");
	await type(page, "Last", "48");
	await runToEnd(page);
	const [first, last] = [await placesAt("Box copies/", 1), await placesAt("Box copies/", 48)];
	const fell = first.filter((place, i) => place[1]! - last[i]![1]! > 0.2).length;
	expect(fell).toBeGreaterThan(0);
	expect(fell).toBeLessThan(count);
	// Nothing is below them: the check says so and mends it.
	await page.waitForSelector("::-p-text(falls for ever)");
	await pressText(page, "Add ground");
	await until(page, (s) => s.bodies.some((body) => body.path === "Ground"));
	await page.waitForFunction(() => !document.body.textContent!.includes("falls for ever"));
	expect(session.errors).toEqual([]);
});

test("two decks: under two gravities, a crate slides off the one it belongs to; another shot is brought in with its own", async () => {
	const { page } = session;
	const counter = makeCounter();
	const { act, acts, key } = counter;
	await newShot(page);
	// Both boats list, each its own way.
	await key(page.keyboard.press("5"));
	await page.waitForSelector("::-p-text(Add a world)");
	await act(type(page, "Pull x", "-7 -7"));
	await act(press(page, "Add a world"));
	await until(page, (s) => Object.keys((s.shot as any).worlds).length === 1);
	const second = await page.waitForSelector("fieldset ::-p-aria([name='Pull x'][role='textbox'])");
	await second!.click({ count: 3 });
	await act(page.keyboard.type("7"));
	await page.keyboard.press("Enter");
	await until(page, (s) => Object.values((s.shot as any).worlds).every(({ gravity }: any) => gravity[0] === 7 && gravity[1] === -7));
	// A deck for each, in the same place.
	await key(page.keyboard.press("1"));
	await act(press(page, "Box"));
	await act(type(page, "Width", "8 0.2 2"));
	await key(page.keyboard.press("p"));
	await key(combine(page, "Control", "d"));
	await until(page, (s) => s.bodies.length === 2 && s.bodies.every(({ settings }) => settings.kind === "passive"));
	await act(type(page, "Position x", "0"));
	await key(page.keyboard.press("3"));
	await act(press(page, "World 2"));
	await key(page.keyboard.press("1"));
	await act(press(page, "Box"));
	await act(type(page, "Position x", "0 0.7"));
	await key(page.keyboard.press("3"));
	await key(page.keyboard.press("a"));
	await key(page.keyboard.press("6"));
	await lasting(page, 30);
	await key(runToEnd(page));
	const slid = async () => {
		const [[first], [last]] = [await placesAt("Box 3", 1), await placesAt("Box 3", 30)];
		expect(last![1]!).toBeCloseTo(0.7, 2);
		return last![0]! - first![0]!;
	};
	// 7 m/s² along and down, concrete on concrete rubs with 0.6: it speeds up by 2.8 m/s² over 29 frames.
	const way = 0.5 * 7 * (1 - 0.6) * (29 / 24) ** 2;
	expect(Math.abs((await slid()) / way + 1)).toBeLessThan(0.03);
	await key(page.keyboard.press("3"));
	await act(press(page, "World 2"));
	await until(page, (s) => s.bodies.filter((body) => (body.settings as any).world !== "").length === 2);
	await key(runToEnd(page));
	expect(Math.abs((await slid()) / way - 1)).toBeLessThan(0.03);
	await key(page.keyboard.press("5"));
	await act(pressText(page, "Bring in a shot"));
	await act(page.locator("::-p-aria([role='menuitem']) ::-p-text(Breakwater strike)").click());
	await until(page, (s) => s.bodies.filter((body) => body.path.startsWith("Breakwater strike/")).length > 300);
	expect(await state(page, (s) => Object.values((s.shot as any).worlds).map((world: any) => world.name))).toEqual(
		expect.arrayContaining(["World 2", "Breakwater strike"]),
	);
	expect(acts()).toBeLessThanOrEqual(14);
	await combine(page, "Control", "z");
	await until(page, (s) => s.bodies.length === 3);
	await handOver(session, 7, counter);
	expect(session.errors).toEqual([]);
});

test("without anything that holds still in its world, a crate falls through all of the other one, and is named", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Ground");
	await press(page, "Box");
	await page.keyboard.press("a");
	await page.keyboard.press("5");
	await press(page, "Add a world");
	await page.keyboard.press("3");
	await press(page, "World 2");
	await page.waitForSelector("::-p-text(In “World 2” nothing holds still)");
	await page.keyboard.press("6");
	await type(page, "Last", "30");
	await runToEnd(page);
	expect((await placesAt("Box", 30))[0]![1]!).toBeLessThan(-1);
	expect(session.errors).toEqual([]);
});

test("name board: three stages by age, letters that spin, are gathered and flung out", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Letters");
	await until(page, (s) => s.bodies.length === 1);
	await type(page, "Text", "OAR");
	await press(page, "Split in 3");
	await until(page, (s) => s.bodies.length === 4);
	await page.keyboard.press("3");
	await kind("Active");
	await page.keyboard.press("5");
	await press(page, "Burst");
	await type(page, "Strength", "-6");
	await press(page, "Stage");
	await type(page, "Age from", "8");
	await type(page, "Age until", "20");
	await press(page, "Burst");
	await type(page, "Strength", "20");
	await press(page, "Stage");
	await type(page, "Age from", "20");
	await type(page, "Age until", "40");
	await pick("Letters");
	await weightless();
	await page.keyboard.press("6");
	await type(page, "Last", "40");
	await runToEnd(page);
	const spread = async (frame: number) => {
		const places = await placesAt("Letters part", frame).then((found) => (found.length > 0 ? found : placesAt("Letters ", frame)));
		const xs = places.map(([x]) => x!);
		return Math.max(...xs) - Math.min(...xs);
	};
	const [start, still, flung] = [await spread(1), await spread(8), await spread(40)];
	expect(still).toBeCloseTo(start, 3);
	expect(flung).toBeGreaterThan(start + 0.3);
	expect(session.errors).toEqual([]);
});

test("settings of many: a hundred and fifty pieces get a margin, a surface and a hull limit at once, and one differs", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 1);
	await page.keyboard.press("2");
	await pressText(page, "Rubble");
	await until(page, (s) => s.bodies.length === 200 && s.building === null);
	await type(page, "Pieces", "150");
	await until(page, (s) => s.bodies.length === 150);
	await page.keyboard.press("3");
	await kind("Active");
	await type(page, "Friction", "0.9");
	await type(page, "Margin", "1");
	await until(page, (s) => s.bodies.every((body) => (body.settings as any).margin === 0.001 && (body.settings as any).friction === 0.9));
	await page.locator("::-p-aria([name='Find, or filter by a rule'])").fill("00007");
	await page.locator("::-p-text(Select them)").click();
	await type(page, "Friction", "0.2");
	await until(page, (s) => s.bodies.filter((body) => (body.settings as any).friction === 0.2).length === 1);
	await page.locator("::-p-aria([name='Find, or filter by a rule'])").fill("");
	await pick("Box");
	await page.waitForFunction(() => [...document.querySelectorAll("input")].some((input) => input.value === "0.2 … 0.9"));
	// And all of them like that one, which is picked last.
	await press(page, "Open Box");
	await page.locator("::-p-aria([name='Find, or filter by a rule'])").fill("00007");
	await pickRow(page, "00007", true);
	await pressText(page, "All like Box/00007");
	await until(page, (s) => s.bodies.every((body) => (body.settings as any).friction === 0.2 && (body.settings as any).margin === 0.001));
	await combine(page, "Control", "z");
	await until(page, (s) => s.bodies.filter((body) => (body.settings as any).friction === 0.2).length === 1);
	expect(session.errors).toEqual([]);
});

test("parts of a cup that may bury 15 mm of its surface do so at most, and are more than before", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Cup");
	await until(page, (s) => s.bodies.length === 1 && s.building === null);
	await page.keyboard.press("3");
	await kind("Active");
	const fact = (label: string): Promise<string> =>
		page.evaluate(
			(wanted) => [...document.querySelectorAll("span")].find((one) => one.textContent === wanted)?.nextElementSibling?.textContent ?? "",
			label,
		);
	const settled = () =>
		page.waitForFunction(() => [...document.querySelectorAll("span")].some((one) => one.textContent === "Buries the surface by"));
	await settled();
	const hulls = Number(await fact("Hulls"));
	expect(await fact("Buries the surface by")).toMatch(/^[0-9.]+ [cm]?m at most$/);
	await type(page, "Most hulls", "64");
	await type(page, "Until within", "1000");
	await type(page, "Buries at most", "15");
	await until(page, (s: any) => Object.values(s.colliders).some((one: any) => one.depth <= 0.015 && one.parts > 12));
	await settled();
	expect(Number(await fact("Hulls"))).toBeGreaterThan(hulls);
	expect(await fact("Buries the surface by")).toMatch(/^(1\.[0-5]\d? cm|[0-9.]+ mm) at most$/);
	expect(session.errors).toEqual([]);
});

test("curves: keys are dragged, boxed, curved, copied to a later frame and taken back", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Ball");
	await until(page, (s) => s.bodies.length === 1);
	await page.keyboard.press("k");
	await type(page, "Go to frame", "25");
	await type(page, "Position x", "2");
	await page.keyboard.press("k");
	await type(page, "Go to frame", "49");
	await type(page, "Position x", "1");
	await page.keyboard.press("k");
	await pressText(page, "Edit as curves");
	const keys = () =>
		page.evaluate(() => {
			const object = Object.values((window as any).rubble.state().shot.objects)[0] as any;
			return object.keys.translation.map((key: any) => [key.tick, Number(key.value[0].toFixed(3)), key.easing]) as [
				number,
				number,
				string,
			][];
		});
	const point = async (name: string) => {
		const rect = (await (await page.waitForSelector(`rect[data-key="${name}"]`))!.boundingBox())!;
		return [rect.x + rect.width / 2, rect.y + rect.height / 2] as const;
	};
	// A frame is at the same place in the curves and in the timeline below them.
	for (const frame of [1, 25, 49]) {
		const diamond = (await (await page.waitForSelector(`::-p-aria([name="Key of Ball at frame ${frame}"])`))!.boundingBox())!;
		expect(Math.abs(diamond.x + diamond.width / 2 - (await point(`translation.0 ${frame}`))[0])).toBeLessThan(1);
	}
	// The middle key of x goes up and ten frames on.
	const [x, y] = await point("translation.0 25");
	const perFrame = ((await point("translation.0 49"))[0] - x) / 24;
	await page.mouse.move(x, y);
	await page.mouse.down();
	await page.mouse.move(x + 10 * perFrame, y, { steps: 10 });
	await page.mouse.move(x + 10 * perFrame, y - 12, { steps: 3 });
	await page.mouse.up();
	await until(page, (s) => (Object.values(s.shot.objects)[0] as any).keys.translation[1].tick === 1700);
	expect((await keys())[1]![1]).toBeGreaterThan(2);
	// A box around everything, and all of it curved.
	const area = (await (await page.waitForSelector("svg[aria-label='Curves of the keys']"))!.boundingBox())!;
	await page.mouse.move(area.x + 3, area.y + 3);
	await page.mouse.down();
	await page.mouse.move(area.x + area.width - 3, area.y + area.height - 3, { steps: 4 });
	await page.mouse.up();
	await page.waitForSelector("::-p-text(9 points)");
	await page.locator("section[aria-label=Curves] button::-p-text(Curved)").click();
	await until(page, (s) => (Object.values(s.shot.objects)[0] as any).keys.translation.every((key: any) => key.easing === "curved"));
	await page.locator("section[aria-label=Curves] button::-p-text(Copy)").click();
	await type(page, "Go to frame", "80");
	await page.locator("section[aria-label=Curves] button::-p-text(Paste)").click();
	await until(page, (s) => (Object.values(s.shot.objects)[0] as any).keys.translation.length === 6);
	expect((await keys()).map(([tick]) => tick)).toEqual([0, 1700, 2400, 3950, 5650, 6350]);
	await combine(page, "Control", "z");
	await until(page, (s) => (Object.values(s.shot.objects)[0] as any).keys.translation.length === 3);
	// A correction over them: lifted at frame 60 alone, muted, heard again, and thrown away; the keys stay as they are.
	const before = await keys();
	await type(page, "Go to frame", "60");
	await pressText(page, "Correct here");
	await type(page, "Position height", "1.5");
	const layers = () => page.evaluate(() => (Object.values((window as any).rubble.state().shot.objects)[0] as any).keys.layers ?? []);
	expect((await layers())[0].translation.map((key: any) => key.tick)).toEqual([2350, 2950, 3550]);
	const height = () => page.$eval('input[aria-label="Position height"]', (field) => Number((field as HTMLInputElement).value));
	expect(await height()).toBeCloseTo(1.5, 5);
	await page.waitForSelector('rect[data-key="translation.1 60"]');
	await press(page, "Mute Correction 1");
	await page.waitForFunction(() => Number((document.querySelector('input[aria-label="Position height"]') as HTMLInputElement).value) < 1);
	await press(page, "Apply Correction 1");
	await page.waitForFunction(() => Number((document.querySelector('input[aria-label="Position height"]') as HTMLInputElement).value) > 1);
	expect(await keys()).toEqual(before);
	await press(page, "Remove Correction 1");
	expect(await layers()).toEqual([]);
	await press(page, "Close the curves");
	expect(session.errors).toEqual([]);
});

test("everything that is picked gets a key at once and is animated then; one undo takes it back", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await press(page, "Ball");
	await until(page, (s) => s.bodies.length === 2 && s.building === null);
	await pickRow(page, "Box", true);
	await page.keyboard.press("k");
	await until(page, (s) => s.bodies.every(({ settings }) => settings.kind === "animated"));
	const keys = () => state(page, (s: any) => Object.values(s.shot.objects).map((item: any) => item.keys.translation.length) as number[]);
	expect(await keys()).toEqual([1, 1]);
	await combine(page, "Control", "z");
	await until(page, (s) => s.bodies.every(({ settings }) => settings.kind === "none"));
	expect(await keys()).toEqual([0, 0]);
	expect(session.errors).toEqual([]);
});

test("gravity is keyed: on at first, off from frame 13", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Ball");
	await until(page, (s) => s.bodies.length === 1);
	await page.keyboard.press("3");
	await kind("Active");
	await page.keyboard.press("5");
	await type(page, "Go to frame", "12");
	await press(page, "Key gravity at this frame");
	await type(page, "Go to frame", "13");
	await weightlessByKey();
	await page.keyboard.press("6");
	await type(page, "Last", "36");
	await runToEnd(page);
	const heights = await Promise.all([12, 20, 28, 36].map((frame) => placesAt("Ball", frame).then(([place]) => place![1]!)));
	expect(heights[0]! - heights[1]!).toBeGreaterThan(1);
	expect(heights[1]! - heights[2]!).toBeCloseTo(heights[2]! - heights[3]!, 3);
	// Its keys stand in the timeline while nothing is picked: one is dragged ten frames on.
	await page.evaluate(() => (document.activeElement as HTMLElement).blur());
	await page.keyboard.press("Escape");
	const mark = async (frame: number) => {
		const rect = (await (await page.waitForSelector(`button[aria-label="Key of gravity at frame ${frame}"]`))!.boundingBox())!;
		return [rect.x + rect.width / 2, rect.y + rect.height / 2] as const;
	};
	const [x, y] = await mark(13);
	const perFrame = x - (await mark(12))[0];
	await page.mouse.move(x, y);
	await page.mouse.down();
	await page.mouse.move(x + 10 * perFrame, y, { steps: 5 });
	await page.mouse.up();
	await mark(23);
	expect(await state(page, (s) => (s.shot.settings as any).gravityKeys.map(({ tick }: any) => tick))).toEqual([550, 1100]);
	expect(session.errors).toEqual([]);
});

test("single pieces get keys from a take: one is corrected by hand, the others fall as they did, and it goes back", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Ground");
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 2);
	await type(page, "Position height", "2");
	await page.keyboard.press("2");
	await pressText(page, "Rubble");
	await type(page, "Pieces", "8");
	await until(page, (s) => s.bodies.length === 9 && s.building === null);
	await page.keyboard.press("3");
	await kindOf(page, "Active");
	await page.keyboard.press("6");
	await type(page, "Last", "30");
	await runToEnd(page);
	await page.keyboard.press("7");
	// The last piece of the box, picked in the ledger.
	await page.locator("::-p-aria([name='Open Box'])").click();
	await pickRow(page, "00003");
	await pressText(page, "Bake it to keys");
	await until(page, (s: any) => Object.keys(s.shot.motions ?? {}).length === 1);
	await page.waitForSelector("section[aria-label=Curves]");
	const [piece, motion] = await page.evaluate(() => Object.entries((window as any).rubble.state().shot.motions)[0] as [string, any]);
	expect([motion.keys.translation[0].tick, motion.keys.translation.at(-1).tick]).toEqual([0, 29 * 50]);
	const place = (axis: string) => page.$eval(`input[aria-label="Position ${axis}"]`, (field) => Number((field as HTMLInputElement).value));
	await type(page, "Go to frame", "20");
	const before = await place("height");
	await pressText(page, "Correct here");
	await type(page, "Position height", "3.5");
	await page.waitForFunction((id) => (window as any).rubble.state().shot.motions[id].keys.layers[0].translation.length === 3, {}, piece);
	expect(await place("height")).toBeCloseTo(3.5, 4);
	await press(page, "Mute Correction 1");
	await page.waitForFunction(() => Number((document.querySelector('input[aria-label="Position height"]') as HTMLInputElement).value) < 3);
	expect(await place("height")).toBeCloseTo(before, 4);
	await press(page, "Apply Correction 1");
	// The run meets it where the correction has it.
	await runToEnd(page);
	const heights = await posesAt(page, "Box/", 20);
	expect(heights.filter((pose) => pose[1]! > 3.4)).toHaveLength(1);
	await page.reload({ waitUntil: "networkidle2" });
	await until(page, (s: any) => Object.keys(s.shot.motions ?? {}).length === 1 && s.bodies.length === 9);
	await pressText(page, "Delete bake");
	await until(page, (s: any) => s.shot.motions === undefined && Object.keys(s.shot.overrides).length === 0);
	await combine(page, "Control", "z");
	await until(page, (s: any) => Object.keys(s.shot.motions ?? {}).length === 1);
	expect(session.errors).toEqual([]);
});
