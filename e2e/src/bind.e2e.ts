import {
	choose,
	kind as kindOf,
	makeCounter,
	newShot,
	openBrowser,
	pick as pickRow,
	posesAt,
	press,
	pressText,
	runToEnd,
	type Session,
	sleep,
	state,
	type,
	until,
} from "./browser";
import { handOver } from "./handOver";

/** Bonds, connectors and chains, by mouse and keyboard. */
let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

const kind = (label: string) => kindOf(session.page, label);
const pick = (name: string, more = false) => pickRow(session.page, name, more);

/** Events of the stored frames of these kinds, with the paths of both bodies. */
const events = (kinds: readonly number[]) =>
	state(
		session.page,
		(s: any) =>
			s.frames.chunks.flatMap((chunk: any) =>
				[...chunk.events.kind].map((kind: number, k: number) => ({
					kind,
					frame: chunk.events.frame[k],
					value: chunk.events.value[k],
					a: s.take.take.bodies[chunk.events.a[k]]?.path,
					b: s.take.take.bodies[chunk.events.b[k]]?.path,
				})),
			) as { kind: number; frame: number; value: number; a: string; b: string }[],
	).then((all) => all.filter((event) => kinds.includes(event.kind)));
const BREAKS = [3, 4, 5];
const PARTED = 6;
const CRUMBLED = 9;

/** What a section of the bench says. */
const section = (title: string): Promise<string | undefined> =>
	session.page.$$eval(
		"section",
		(all, wanted) => all.find((one) => one.querySelector("h3")?.textContent === wanted)?.textContent ?? undefined,
		title,
	);

/** Breaks the picked box, and bonds its pieces. */
async function breakAndBond(): Promise<void> {
	const { page } = session;
	await page.keyboard.press("2");
	await pressText(page, "Rubble");
	await until(page, (s) => s.bodies.length > 100 && s.building === null);
	await page.keyboard.press("3");
	await kind("Active");
	await page.keyboard.press("4");
	await pressText(page, "Bond Box");
	await until(page, (s: any) => s.ties?.bonds.tension.length > 100);
}

/** Where a body stands at a stored frame. */
const at = async (path: string, frame: number): Promise<number[]> => (await posesAt(session.page, path, frame))[0]!.slice(0, 3);

test("a bonded wall is hit and cracks along the weak line that was drawn on it; the rest and the foot hold", async () => {
	const { page } = session;
	await newShot(page);
	const { act, key, acts } = makeCounter();
	await act(press(page, "Ground"));
	await act(press(page, "Box"));
	await act(type(page, "Width", "2.4 1.6 0.2"));
	await key(page.keyboard.press("2"));
	await act(pressText(page, "Rubble"));
	await until(page, (s) => s.bodies.length > 150 && s.building === null);
	await key(page.keyboard.press("3"));
	await act(kind("Active"));
	await key(page.keyboard.press("4"));
	await act(pressText(page, "Bond Box"));
	await act(press(page, "Held"));
	await until(page, (s: any) => s.ties?.bonds.tension.length > 100 && s.ties.bonds.rooted.some((one: number) => one === 1));
	// A line from left to right across the middle of the wall, in the view from the front.
	await page.evaluate(() => (window as any).rubble.state().set({ camera: "front" }));
	await act(press(page, "Weak line"));
	const view = (await (await page.waitForSelector("canvas[aria-label='View of the shot']"))!.boundingBox())!;
	const middle = await page.evaluate(() => {
		const element = document.querySelector("canvas[aria-label='View of the shot']")!.getBoundingClientRect();
		return [element.x + element.width / 2, element.y + element.height / 2];
	});
	await page.mouse.move(middle[0]! - 110, middle[1]!);
	await page.mouse.down();
	await page.mouse.move(middle[0]! + 110, middle[1]!, { steps: 12 });
	await act(page.mouse.up());
	await act(press(page, "Done"));
	await until(page, (s: any) => Object.values(s.shot.bondSets as Record<string, any>)[0].changes.length === 1);
	expect(view.width).toBeGreaterThan(100);
	await act(type(page, "Strength", "0.02"));
	await act(type(page, "Weaker … stronger", "0.6"));
	await act(type(page, "Crumbles below", "300"));
	await act(choose(page, "Leaves", "Small stones"), 2);
	await act(type(page, "Crumbles after", "0.2"));
	const crumbs = await until(page, (s: any) => s.crumbs.length > 0).then(() =>
		state(page, (s: any) => s.crumbs as { path: string; crumbOf: string }[]),
	);
	await page.waitForFunction(
		(count) => document.body.textContent?.replaceAll(",", "").includes(`Stones of them${count}`),
		{},
		crumbs.length,
	);
	const strokes = await state(page, (s: any) => Object.values(s.shot.bondSets as Record<string, any>)[0].changes[0].strokes[0] as number[]);
	const heights = strokes.filter((_, i) => i % 3 === 1);
	expect(Math.max(...heights) - Math.min(...heights)).toBeLessThan(0.1);
	const height = heights[0]!;
	await key(page.keyboard.press("3"));
	await act(press(page, "Throw a ball at it"));
	await until(page, (s) => s.bodies.some((body) => body.path === "Thrown ball") && s.building === null);
	await page.keyboard.press("6");
	await type(page, "Last", "30");
	await key(runToEnd(page));
	expect(acts()).toBeLessThanOrEqual(22);
	const broke = (await events(BREAKS)).filter(({ b }) => b?.startsWith("Box/"));
	expect(broke.length).toBeGreaterThan(5);
	// It cracked at the line: most of what broke straddles its height.
	let near = 0;
	for (const { a, b } of broke) {
		const [one, other] = [await at(a, 1), await at(b, 1)];
		if (Math.abs((one[1]! + other[1]!) / 2 - height) < 0.35) near++;
	}
	expect(near / broke.length).toBeGreaterThan(0.5);
	expect((await events(BREAKS)).filter(({ b }) => b === "Ground").length).toBeLessThan(broke.length / 3);
	// Small pieces that came off have left stones in their places.
	const crumbled = await events([CRUMBLED]);
	expect(crumbled.length).toBeGreaterThan(0);
	const { a: piece, frame } = crumbled[0]!;
	const stones = crumbs.map(({ path }) => path).filter((path) => path.startsWith(`${piece}/`));
	expect(stones.length).toBeGreaterThan(1);
	const [stone, home] = [await at(stones[0]!, frame - 1), await at(piece, frame - 1)];
	expect(Math.hypot(...stone.map((value, k) => value - home[k]!))).toBeLessThan(0.3);
	// Bonds are shown by the stage also where its page is the first that is opened.
	await page.keyboard.press("4");
	await page.waitForFunction(() => location.pathname.endsWith("/bind"));
	await page.reload({ waitUntil: "networkidle2" });
	await until(page, (s: any) => s.showTies && s.ties?.bonds.tension.length > 100);
	expect(session.errors).toEqual([]);
});

test("bonds are changed by a rule: those in a region are cut, and the others stay as they are", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Add region");
	await type(page, "Position x", "0 1 0");
	await press(page, "Box");
	await type(page, "Position x", "0 0.5 0");
	await breakAndBond();
	/** Bonds by the ids of their ends, and how strong they are, MPa. */
	const bonds = () =>
		state(page, (s: any) =>
			[...s.ties.bonds.tension].map((tension: number, k: number) => {
				const ends = [0, 1].map((side) => s.ties.ids[s.ties.bonds.bodies[2 * k + side]] as string);
				return { key: ends.join("|"), ends, tension };
			}),
		);
	const inside = new Set(
		await state(page, (s: any) => {
			const region = Object.values(s.shot.objects as Record<string, any>).find((item) => item.source.kind === "region");
			const half = region.scale.map((size: number) => Math.abs(size) / 2);
			return s.bodies
				.filter((body: any) =>
					body.offset.every(
						(x: number, k: number) => Math.abs(s.shot.objects[body.object].translation[k] + x - region.translation[k]) <= half[k],
					),
				)
				.map((body: any) => body.id as string);
		}),
	);
	expect(inside.size).toBeGreaterThan(10);
	const before = await bonds();
	await press(page, "By a rule");
	await type(page, "Between", "in Nowhere");
	await page.waitForSelector("::-p-text(By a rule, 0 pieces)");
	await type(page, "Between", "in Region");
	await page.waitForFunction((count) => document.body.textContent?.includes(`By a rule, ${count} pieces`), {}, inside.size);
	await type(page, "Strength", "0");
	await page.waitForFunction((count) => (window as any).rubble.state().ties.bonds.tension.length < count, {}, before.length);
	const left = before.filter(({ ends }) => !ends.every((id) => inside.has(id)));
	expect(left.length).toBeLessThan(before.length - 10);
	expect(await bonds()).toEqual(left);
	// A rule that can't be read says what is wrong with it, and changes nothing.
	await type(page, "Between", "height <");
	await page.waitForSelector("::-p-text(a number is missing after the comparison)");
	expect(await bonds()).toEqual(left);
	expect(session.errors).toEqual([]);
});

test("slabs are seen by colour, grouped by noise, and made by hand of what is picked", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await breakAndBond();
	const slabs = () => state(page, (s: any) => [...s.ties.slabs] as number[]);
	const count = async () => new Set((await slabs()).filter((n) => n >= 0)).size;
	expect(await count()).toBe(0);
	await type(page, "Slabs", "6");
	await until(page, (s: any) => new Set(s.ties.slabs).size === 6);
	const even = await slabs();
	await press(page, "By noise");
	await page.waitForFunction((was) => [...(window as any).rubble.state().ties.slabs].join() !== was, {}, even.join());
	const picture = () => page.screenshot({ encoding: "base64", clip: { x: 280, y: 100, width: 660, height: 500 } });
	const grey = await picture();
	await pressText(page, "Colour by slab");
	await until(page, (s: any) => s.colourBy === "slab");
	await sleep(500);
	expect(await picture()).not.toBe(grey);
	// Two pieces of two slabs become one of their own.
	const noise = await slabs();
	const other = noise.findIndex((n) => n !== noise[0]);
	const ids = await state(page, (s: any) => s.ties.ids as string[]);
	const paths = await state(page, (s: any) => Object.fromEntries(s.bodies.map((body: any) => [body.id, body.path])));
	await page.locator("::-p-aria([name='Find, or filter by a rule'])").fill(`${paths[ids[0]!]} or ${paths[ids[other]!]}`);
	await pressText(page, "Select them");
	await until(page, (s) => s.selection.length === 2);
	await pressText(page, "Make one of what is picked");
	await until(page, (s: any) => s.ties.slabs[0] > 5);
	const made = await slabs();
	expect(made.filter((n) => n === made[0])).toHaveLength(2);
	expect(made[other]).toBe(made[0]);
	expect(await count()).toBe(7);
	await press(page, "Take back slab 1");
	await page.waitForFunction((was) => [...(window as any).rubble.state().ties.slabs].join() === was, {}, noise.join());
	expect(session.errors).toEqual([]);
});

test("a chain of real links is made from one, carries a buoy by a pick, and swings without slipping apart", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	await act(press(page, "Box"));
	await act(type(page, "Position x", "0 4"));
	await key(page.keyboard.press("p"));
	await act(press(page, "Ball"));
	await act(type(page, "Radius", "0.3"));
	await act(type(page, "Position x", "0 1.72"));
	await key(page.keyboard.press("3"));
	await key(page.keyboard.press("a"));
	await act(type(page, "Velocity x", "3"));
	await key(page.keyboard.press("1"));
	await act(press(page, "Torus"));
	await act(type(page, "Radius", "0.1 0.025"));
	await act(type(page, "Position x", "0 3.4"));
	await key(page.keyboard.press("4"));
	// What stands above and below the link is taken for what holds it and what hangs from it.
	await page.waitForSelector("::-p-aria([name='Hangs from']) ::-p-text(Box)");
	await page.waitForSelector("::-p-aria([name='Carries']) ::-p-text(Ball)");
	expect(await page.$eval("::-p-aria([name='Links'][role='textbox'])", (field) => (field as HTMLInputElement).value)).toBe("10");
	await act(pressText(page, "Make chain"));
	await until(page, (s: any) => s.bodies.filter((body: any) => body.path.startsWith("Torus chain/")).length === 10 && s.building === null);
	await until(page, (s: any) => s.ties?.joints.length === 11);
	// A stack of fish boxes where it swings.
	await key(page.keyboard.press("1"));
	await act(press(page, "Ground"));
	await act(press(page, "Box"));
	await act(type(page, "Height", "0.3"));
	await act(type(page, "Position x", "1.3"));
	await act(press(page, "Grid"));
	await act(type(page, "Columns", "1 6 1"));
	const stack = "Box 2 copies/";
	await page.waitForFunction((start) => window.rubble!.state().bodies.filter(({ path }) => path.startsWith(start)).length === 6, {}, stack);
	await key(page.keyboard.press("3"));
	await key(page.keyboard.press("a"));
	await act(type(page, "Density", "60"));
	expect(acts()).toBeLessThanOrEqual(17);
	await page.keyboard.press("6");
	await type(page, "Last", "72");
	await runToEnd(page);
	// It knocks some of them off; the lowest stands.
	const moved = (await posesAt(page, stack, 72)).map(([x]) => Math.abs(x! - 1.3));
	expect(moved.length).toBe(6);
	expect(Math.max(...moved)).toBeGreaterThan(0.3);
	expect(moved[0]!).toBeLessThan(0.05);
	const gaps: number[] = [];
	for (const frame of [1, 24, 48, 72])
		for (let link = 1; link < 10; link++) {
			const name = (n: number) => `Torus chain/${String(n).padStart(5, "0")}`;
			const [one, other] = [await at(name(link), frame), await at(name(link + 1), frame)];
			gaps.push(Math.hypot(...one.map((x, k) => x - other[k]!)));
		}
	// From link to link never more than a hair over 150 mm.
	expect(Math.max(...gaps)).toBeLessThan(0.153);
	const xs = await Promise.all([1, 12, 24, 36, 48, 60, 72].map(async (frame) => (await at("Ball", frame))[0]!));
	expect(Math.max(...xs)).toBeGreaterThan(0.5);
	expect(Math.min(...xs)).toBeLessThan(0.2);
	await handOver(session, 4, counter);
	expect(session.errors).toEqual([]);
});

test("a chain whose links hold by contacts alone, by its length: a light buoy swings on it, a heavy one is named by a check that pins them", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Torus");
	await type(page, "Radius", "0.1");
	await type(page, "Wire radius", "0.025");
	await type(page, "Position height", "3.4");
	await type(page, "Position x", "0");
	// What it is made of goes over to its copies; itself takes no part then.
	await page.keyboard.press("3");
	await kind("Active");
	await page.keyboard.press("1");
	await press(page, "Ball");
	await type(page, "Radius", "0.15");
	await type(page, "Position height", "2.2");
	await type(page, "Position x", "0");
	await page.keyboard.press("3");
	await kind("Active");
	await pressText(page, "Give the mass");
	await type(page, "Mass", "15");
	await type(page, "Velocity x", "2");
	await page.keyboard.press("4");
	await pick("Torus");
	await page.locator("::-p-aria([name='Contacts'][role='radio'])").click();
	await type(page, "Length", "1.08");
	await page.locator("::-p-aria([name='Carries'])").click();
	await page.locator("::-p-aria([role='option']) ::-p-text(Ball)").click();
	await pressText(page, "Make chain");
	await until(page, (s: any) => s.bodies.filter((body: any) => body.path.startsWith("Torus chain/")).length === 8 && s.building === null);
	expect(await state(page, (s: any) => s.bodies.find((body: any) => body.path === "Torus").settings.kind)).toBe("none");
	await until(page, (s: any) => s.ties?.joints.length === 2);
	await page.keyboard.press("6");
	await type(page, "Last", "48");
	await runToEnd(page);
	const gaps: number[] = [];
	for (const frame of [1, 12, 24, 36, 48])
		for (let link = 1; link < 8; link++) {
			const name = (n: number) => `Torus chain/${String(n).padStart(5, "0")}`;
			const [one, other] = [await at(name(link), frame), await at(name(link + 1), frame)];
			gaps.push(Math.hypot(...one.map((x, k) => x - other[k]!)));
		}
	// Taut is 150 mm; contacts give way a little.
	expect(Math.max(...gaps)).toBeLessThan(0.165);
	const xs = await Promise.all([1, 12, 24].map(async (frame) => (await at("Ball", frame))[0]!));
	expect(Math.max(...xs)).toBeGreaterThan(0.2);
	// Ten times as heavy.
	await page.keyboard.press("3");
	await pick("Ball");
	await type(page, "Mass", "150");
	await page.keyboard.press("6");
	await pressText(page, "Pin each to the next");
	await page.keyboard.press("4");
	await until(page, (s: any) => s.ties?.joints.length === 9);
	expect(session.errors).toEqual([]);
});

test("a chain of what is no ring is pinned end to end, and hangs as long as it was made", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await type(page, "Width", "0.1 0.4 0.1");
	await type(page, "Position x", "0 4");
	await page.keyboard.press("4");
	await page.waitForSelector("::-p-text(It is no ring)");
	expect(await page.$("::-p-aria([name='Contacts'])")).toBeNull();
	await type(page, "Links", "5");
	expect(await page.$eval("::-p-aria([name='Length'][role='textbox'])", (field) => (field as HTMLInputElement).value)).toBe("2");
	await pressText(page, "Make chain");
	await until(page, (s: any) => s.ties?.joints.length === 5 && s.building === null);
	await page.keyboard.press("6");
	await type(page, "Last", "24");
	await runToEnd(page);
	const heights = (await posesAt(page, "Box chain/", 24)).map(([, y]) => y!);
	expect(heights).toHaveLength(5);
	for (const [n, y] of heights.entries()) expect(y).toBeCloseTo(4 - 0.4 * n, 2);
	expect(
		await state(page, (s: any) => s.findings.filter(({ severity }: any) => severity !== "info").map(({ message }: any) => message)),
	).toEqual([]);
	expect(session.errors).toEqual([]);
});

test("a chain and a rope are hung between two posts: they sag as they hang, and stay there", async () => {
	const { page } = session;
	await newShot(page);
	for (const x of [-1.2, 1.2]) {
		await press(page, "Box");
		await type(page, "Width", "0.2 3 0.2");
		await type(page, "Position x", `${x} 1.5`);
		await page.keyboard.press("p");
	}
	await press(page, "Torus");
	await type(page, "Radius", "0.06 0.012");
	await type(page, "Position x", "0 0.5 2");
	await page.keyboard.press("4");
	await choose(page, "Hangs from", "Box");
	await choose(page, "Carries", "Box 2");
	await page.waitForSelector("::-p-text(It sags between the two, which are 2.20 m apart.)");
	await type(page, "Links", "10");
	await page.waitForSelector("::-p-text(Too short: the two are 2.20 m apart.)");
	await type(page, "Length", "2.5");
	await pressText(page, "Make chain");
	await until(page, (s: any) => s.ties?.joints.length > 20 && s.building === null);
	await page.keyboard.press("6");
	await type(page, "Last", "36");
	await runToEnd(page);
	const links = (frame: number) => posesAt(page, "Torus chain/", frame);
	const [first, last] = [await links(1), await links(36)];
	expect(first.length).toBeGreaterThan(20);
	// 2.5 m over 2.2 m: the catenary sags by half a metre.
	expect(1.5 - Math.min(...first.map(([, y]) => y!))).toBeCloseTo(0.51, 1);
	for (const [n, [x, y, z]] of last.entries()) {
		const [atX, atY, atZ] = first[n]!;
		expect(Math.hypot(x! - atX!, y! - atY!, z! - atZ!)).toBeLessThan(0.05);
	}
	await page.keyboard.press("4");
	await pressText(page, "‹ All bonds and connectors");
	await press(page, "Rope");
	await choose(page, "Hangs from", "Box");
	await choose(page, "Carries", "Box 2");
	await pressText(page, "Make rope");
	await until(page, (s: any) => s.bodies.some((body: any) => body.path.startsWith("Rope/")) && s.building === null);
	const ropes = await state(page, (s: any) => s.bodies.filter((body: any) => body.path.startsWith("Rope/")).length);
	expect(ropes).toBeGreaterThan(10);
	expect(session.errors).toEqual([]);
});

test("a connector breaks at its load: what hangs from it is too heavy, then light enough", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await type(page, "Position height", "3");
	await type(page, "Position x", "0");
	await press(page, "Ball");
	await type(page, "Position height", "1.5");
	await type(page, "Position x", "0");
	await page.keyboard.press("3");
	await kind("Active");
	await pressText(page, "Give the mass");
	await type(page, "Mass", "100");
	await pick("Box");
	await kind("Passive");
	await page.keyboard.press("4");
	await pick("Ball");
	await pick("Box", true);
	await press(page, "Add pin");
	await until(page, (s: any) => s.ties?.joints.length === 1);
	await press(page, "At a load");
	// The weight is 981 N.
	await type(page, "Force", "950");
	await page.keyboard.press("6");
	await type(page, "Last", "12");
	await runToEnd(page);
	const [broke] = await events([PARTED]);
	expect(broke).toMatchObject({ a: "Ball", b: "Box" });
	expect(broke!.value).toBeGreaterThan(950);
	expect(broke!.value).toBeLessThan(1010);
	await page.keyboard.press("4");
	await type(page, "Force", "1000");
	await until(page, (s) => s.building === null);
	await runToEnd(page);
	expect(await events([PARTED])).toEqual([]);
	expect((await at("Ball", 12))[1]).toBeCloseTo(1.5, 2);
	// The bench says what it bears, and of what; the list of connectors too.
	expect(await section("Load")).toMatch(/Force at most\s*981 N of 1\.00 kN, frame 2/);
	await pressText(page, "Go to frame 2, where it bears most");
	await until(page, (s) => s.frame === 2);
	expect(await section("Load")).toMatch(/Force now\s*981 N/);
	await pressText(page, "‹ All bonds and connectors");
	expect(await section("Connectors")).toMatch(/Pin · 981 N/);
	expect(session.errors).toEqual([]);
});

test("a buoy that is drawn away on a rope pulls a bonded column over: it breaks at its foot", async () => {
	const { page } = session;
	await newShot(page);
	const { act, key, acts } = makeCounter();
	await act(press(page, "Ground"));
	await act(press(page, "Box"));
	await act(type(page, "Width", "0.3 2 0.3"));
	await key(page.keyboard.press("2"));
	await act(pressText(page, "Rubble"));
	await until(page, (s) => s.bodies.length > 20 && s.building === null);
	await key(page.keyboard.press("3"));
	await act(kind("Active"));
	await key(page.keyboard.press("4"));
	await act(pressText(page, "Bond Box"));
	await act(press(page, "Held"));
	await act(type(page, "Weaker … stronger", "0.2"));
	await key(page.keyboard.press("1"));
	await act(press(page, "Ball"));
	await act(type(page, "Position x", "3"));
	await key(page.keyboard.press("k"));
	await act(type(page, "Go to frame", "36"));
	await act(type(page, "Position x", "5"));
	await key(page.keyboard.press("k"));
	await act(type(page, "Go to frame", "1"));
	await key(page.keyboard.press("3"));
	await act(kind("Animated"));
	await key(page.keyboard.press("4"));
	await act(pressText(page, "All bonds and connectors"));
	await act(pick("Box"));
	await act(pick("Ball", true));
	await act(press(page, "Add rope"));
	await until(page, (s: any) => s.ties?.joints.length === 1);
	await page.keyboard.press("6");
	await type(page, "Last", "48");
	await key(runToEnd(page));
	expect(acts()).toBeLessThanOrEqual(24);
	const broke = await events(BREAKS);
	const first = broke.filter(({ frame }) => frame === broke[0]!.frame);
	expect(first.map(({ b }) => b)).toContain("Ground");
	const pieces = (await state(page, (s) => s.bodies.map(({ path }) => path))).filter((path) => path.startsWith("Box/"));
	const heights = await Promise.all(pieces.map(async (path) => (await at(path, 1))[1]!));
	const top = pieces[heights.indexOf(Math.max(...heights))]!;
	expect((await at(top, 1))[1]).toBeGreaterThan(1.6);
	expect((await at(top, 48))[1]).toBeLessThan(0.6);
	// And goes along.
	const along = await Promise.all(pieces.map(async (path) => (await at(path, 48))[0]!));
	expect(along.reduce((sum, x) => sum + x, 0) / along.length).toBeGreaterThan(0.3);
	expect(session.errors).toEqual([]);
});

test("a spring scale from an empty shot: the coil follows its weight by a formula, rests where it was set, and says what is wrong", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	await act(press(page, "Coil"));
	await act(type(page, "Position x", "0 2"));
	await act(press(page, "Ball"));
	await act(type(page, "Radius", "0.2"));
	await act(type(page, "Position x", "0 1.3"));
	await key(page.keyboard.press("3"));
	await key(page.keyboard.press("a"));
	await act(pressText(page, "Give the mass"));
	await act(type(page, "Mass", "20"));
	await key(page.keyboard.press("4"));
	await act(press(page, "Add spring"));
	await act(type(page, "Stiffness", "800"));
	await act(type(page, "Damping", "40"));
	await act(pressText(page, "All bonds and connectors"));
	await act(pick("Coil"));
	await act(press(page, "Link Coil").catch(() => pressText(page, "Link Coil")));
	await page.locator("::-p-aria([name='By'])").wait();
	// What is wrong is said where it is written.
	await type(page, "By", "-(heigth - height0) / turns");
	await page.locator("::-p-text(There is no “heigth”)").wait();
	await type(page, "By", "seconds");
	await page.locator("::-p-text(cannot be added or compared)").wait();
	await act(type(page, "By", "-(height - height0) / turns"));
	await page.waitForFunction(() => !document.querySelector("fieldset [role=alert]"));
	expect(acts()).toBeLessThanOrEqual(18);
	await page.keyboard.press("6");
	await type(page, "Last", "120");
	await runToEnd(page);
	// 20 kg on 800 N/m sink by 245 mm.
	const sunk = (await at("Ball", 1))[1]! - (await at("Ball", 120))[1]!;
	expect(sunk).toBeCloseTo((20 * 9.81) / 800, 2);
	await handOver(session, 2, counter);
	expect(session.errors).toEqual([]);
});

test("a connector is placed and turned by its handles in the view, and snaps to a corner of what it holds", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await press(page, "Set down");
	await page.keyboard.press("3");
	await kind("Active");
	await page.keyboard.press("4");
	await press(page, "Add pin");
	await until(page, (s: any) => s.bound?.kind === "connector" && s.tool === "move" && s.selection.length === 0);
	await page.evaluate(() => (window as any).rubble.state().set({ camera: "front" }));
	await sleep(800);
	const read = () => state(page, (s: any) => (Object.values(s.shot.connectors)[0] as any).from as number[]);
	const on = (place: readonly number[]) => page.evaluate((at) => (window as any).rubble.project(at) as [number, number], place);
	const before = await read();
	/** Drags the middle of the handles. */
	const drag = async (to: readonly [number, number]) => {
		const [x, y] = await on(await read());
		await page.mouse.move(x, y);
		await page.mouse.down();
		await page.mouse.move((x + to[0]) / 2, (y + to[1]) / 2, { steps: 4 });
		await page.mouse.move(to[0], to[1], { steps: 6 });
		await page.mouse.up();
	};
	const target = [before[0]! + 0.2, before[1]! + 0.25, before[2]!];
	await drag(await on(target));
	const moved = await read();
	expect(Math.abs(moved[0]! - target[0]!)).toBeLessThan(0.03);
	expect(Math.abs(moved[1]! - target[1]!)).toBeLessThan(0.03);
	// The box is a metre wide and stands on the ground: near its upper corner Ctrl takes the corner itself.
	const corner = await on([0.5, 1, 0.5]);
	await page.keyboard.down("Control");
	await drag([corner[0] - 6, corner[1] + 5]);
	await page.keyboard.up("Control");
	const snapped = await read();
	expect([snapped[0], snapped[1]].map((v) => Number(v!.toFixed(4)))).toEqual([0.5, 1]);
	// And the middle of its upper face.
	const upper = await on([0, 1, 0]);
	await page.keyboard.down("Control");
	await drag([upper[0] + 5, upper[1] - 4]);
	await page.keyboard.up("Control");
	expect((await read()).map((v) => Number(v.toFixed(4)) + 0)).toEqual([0, 1, 0]);
	await page.keyboard.press("t");
	await until(page, (s: any) => s.tool === "turn");
	expect(session.errors).toEqual([]);
});

test("a hinge shows its stops: an arc between them in the view, and the hand of what turns", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await page.keyboard.press("3");
	await kind("Active");
	await page.keyboard.press("4");
	await press(page, "Add hinge");
	await until(page, (s: any) => s.ties?.joints.length === 1);
	const lines = () => state(page, (s: any) => s.ties.joints.map(({ held, moving }: any) => [held.length / 6, moving.length / 6])[0]);
	const picture = () => page.screenshot({ encoding: "base64", clip: { x: 280, y: 100, width: 660, height: 500 } });
	// Its axis alone.
	expect(await lines()).toEqual([1, 0]);
	const free = await picture();
	await press(page, "Limited");
	// From −45° to 45° in lines of 6°, two spokes, and the hand.
	await until(page, (s: any) => s.ties?.joints[0].moving.length === 6);
	expect(await lines()).toEqual([1 + 15 + 2, 1]);
	await sleep(300);
	const limited = await picture();
	expect(limited).not.toBe(free);
	await type(page, "To", "90");
	await until(page, (s: any) => s.ties?.joints[0].held.length / 6 === 1 + 23 + 2);
	await sleep(300);
	expect(await picture()).not.toBe(limited);
	expect(session.errors).toEqual([]);
});
