import {
	choose,
	lasting,
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
import { FULL, keepPicture, LONG, untilBuilt } from "./fullSize";
import { handOver } from "./handOver";

/**
 * Pieces of work from an empty shot that take many bodies or long runs. In smaller numbers here; with RUBBLE_FULL=1 in
 * full size, as docs/journeys.md tells of them.
 */
let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

const pick = (name: string, more = false) => pickRow(session.page, name, more);
const posesOf = (path: string, frame: number) => posesAt(session.page, path, frame);
const built = () => untilBuilt(session.page);
const keep = (name: string) => keepPicture(session.page, name);
/** How many the bench tells that a vessel holds. */
const pouredFull = () =>
	session.page.evaluate(() => Number(document.body.textContent!.match(/Poured full\s*about ([\d,]+)/)![1]!.replace(",", "")));

test("float hopper: floats in a grid are stirred, a frame becomes the start, they are stirred harder and coloured by noise", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	await act(press(page, "Ground"));
	await act(press(page, "Ball"));
	await act(type(page, "Radius", "0.05"));
	await act(type(page, "Position height", "0.3"));
	await key(page.keyboard.press("a"));
	await act(press(page, "Grid"));
	await act(type(page, "Columns", FULL ? "20 15 20" : "5 4 5"));
	await built();
	const count = FULL ? 6000 : 100;
	await page.waitForFunction(
		(wanted) => (window as any).rubble.state().bodies.filter((body: any) => body.path.startsWith("Ball copies/")).length === wanted,
		{ timeout: LONG },
		count,
	);
	await key(page.keyboard.press("5"));
	await act(press(page, "Turbulence"));
	await act(type(page, "Strength", "6"));
	await page.keyboard.press("6");
	await act(type(page, "Last", FULL ? "96" : "24"));
	await key(runToEnd(page, LONG));
	await keep("hopper-first");
	await key(page.keyboard.press("End"));
	await act(page.locator("button::-p-text(Start from)").click());
	await page.waitForFunction(() => (window as any).rubble.state().shot.keptPlaces !== null, { timeout: LONG });
	await built();
	const last = FULL ? 96 : 24;
	const left = await posesOf("Ball copies/", last);
	await key(page.keyboard.press("5"));
	await act(pick("Turbulence"));
	await act(type(page, "Strength", "20"));
	await key(page.keyboard.press("6"));
	await act(press(page, "Run as new"));
	await until(page, (s) => s.run !== null, 20_000).catch(() => undefined);
	await until(page, (s) => s.run === null, LONG);
	// The second run begins where the first one ended.
	const begins = await posesOf("Ball copies/", 1);
	const away = begins.map((pose, i) => Math.hypot(...[0, 1, 2].map((k) => pose[k]! - left[i]![k]!)));
	expect(away.filter((distance) => distance > 0.005).length).toBeLessThan(0.02 * count);
	// And the block's shape is gone: floats have gone their own ways.
	const ends = await posesOf("Ball copies/", last);
	const ways = ends.map((pose, i) => Math.hypot(...[0, 1, 2].map((k) => pose[k]! - begins[i]![k]!)));
	expect(Math.max(...ways) - Math.min(...ways)).toBeGreaterThan(0.3);
	await act(pressText(page, "Colour by a gradient"));
	await page.waitForFunction(() => (window as any).rubble.state().shot.colouring?.by === "noise");
	await keep("hopper-second");
	expect(acts()).toBeLessThanOrEqual(30);
	expect(await state(page, (s) => (s as unknown as { takes: unknown[] }).takes.length)).toBe(2);
	await handOver(session, 3, counter);
	expect(session.errors).toEqual([]);
});

test("a float in its cage: both fall, parts are refined until it fits, and the float stays inside", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	await act(press(page, "Ground"));
	// The cage: a cup and a ring on its rim that lets less through than the float, made one solid.
	await act(press(page, "Cup"));
	await act(type(page, "Position height", "1.2"));
	await act(press(page, "Torus"));
	await act(type(page, "Radius", "0.3 0.09"));
	await act(type(page, "Position x", "0 1.6"));
	await page.keyboard.down("Control");
	await act(pick("Cup"));
	await page.keyboard.up("Control");
	await act(press(page, "Merge"));
	await until(page, (s) => s.bodies.some((body) => body.path.endsWith("merged")) && s.building === null);
	await key(page.keyboard.press("3"));
	await key(page.keyboard.press("a"));
	// A hull would fill it.
	await act(choose(page, "Shape", "Convex hull"), 2);
	await key(page.keyboard.press("1"));
	await act(press(page, "Ball"));
	await act(type(page, "Radius", "0.24"));
	await act(type(page, "Position x", "0 1.2"));
	await key(page.keyboard.press("a"));
	await built();
	const found = (check: string) =>
		page.waitForFunction((wanted) => (window as any).rubble.state().findings.some((one: any) => one.check === wanted), {}, check);
	await found("concave-hull");
	await found("start-overlap");
	await act(pressText(page, "Use parts"));
	await built();
	await page.waitForFunction(() => !(window as any).rubble.state().findings.some(({ check }: any) => check === "start-overlap"));
	await act(press(page, "Colliders"));
	await sleep(500);
	await keep("cage-parts");
	await page.keyboard.press("6");
	await act(type(page, "Last", "72"));
	await key(runToEnd(page, LONG));
	expect(acts()).toBeLessThanOrEqual(18);
	for (const frame of [24, 48, 72]) {
		const [float] = await posesOf("Ball", frame);
		const [cage] = await posesOf("Torus merged", frame);
		// Nearer to its middle than it is high or wide: it has not left it.
		expect(Math.hypot(...[0, 1, 2].map((k) => cage![k]! - float![k]!))).toBeLessThan(0.4);
		expect(float![1]!).toBeGreaterThan(0.2);
	}
	await keep("cage-end");
	await handOver(session, 5, counter);
	expect(session.errors).toEqual([]);
});

test("a boat that bends goes through a wall of bricks: its foot holds, what was hit has left, colliders follow the boat", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	await act(press(page, "Ground"));
	await act(press(page, "Box"));
	await act(type(page, "Width", FULL ? "4 2 0.25" : "2 1.2 0.25"));
	await act(choose(page, "Made of", "Brick"), 2);
	await key(page.keyboard.press("a"));
	await key(page.keyboard.press("2"));
	await act(pressText(page, "Masonry"));
	await built();
	await until(page, (s) => s.bodies.length > 20, LONG);
	await key(page.keyboard.press("4"));
	await act(pressText(page, "Bond Box"));
	await act(press(page, "Held"));
	// Mortar gives way long before bricks do.
	await act(type(page, "Weaker … stronger", "0.35"));
	await built();
	await key(page.keyboard.press("1"));
	await act(press(page, "Box"));
	await act(type(page, "Width", "0.5 0.5 2"));
	await act(type(page, "Position x", "0 0.8 -2"));
	await key(page.keyboard.press("k"));
	await keep("boat-before");
	await act(pressText(page, "Bend it"));
	await act(type(page, "Angle", "0"));
	await act(press(page, "Key the bend at this frame"));
	await act(type(page, "Go to frame", "36"));
	await act(type(page, "Angle", "35"));
	await act(type(page, "Position z", "2.5"));
	await built();
	await page.keyboard.press("6");
	await act(type(page, "Last", "48"));
	await key(runToEnd(page, LONG));
	const bricks = await state(page, (s) => s.bodies.filter((body) => body.path.startsWith("Box/")).map((body) => body.path));
	const begins = await posesOf("Box/", 1);
	const ends = await posesOf("Box/", 48);
	const ways = ends.map((pose, i) => Math.hypot(...[0, 1, 2].map((k) => pose[k]! - begins[i]![k]!)));
	expect(bricks.length).toBe(ways.length);
	expect(ways.filter((way) => way > 0.2).length).toBeGreaterThan(3);
	expect(ways.filter((way) => way < 0.01).length).toBeGreaterThan(5);
	await act(press(page, "Colliders"));
	await type(page, "Go to frame", "30");
	await sleep(800);
	await keep("boat-through");
	expect(acts()).toBeLessThanOrEqual(20);
	await handOver(session, 10, counter);
	expect(session.errors).toEqual([]);
});

test("a beacon tower falls on the foreshore: coarse on flat ground while trying, then carried over to fine pieces, then true", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	await act(press(page, "Terrain"));
	await key(page.keyboard.press("3"));
	await act(choose(page, "Shape", "Flat, while trying"), 2);
	await key(page.keyboard.press("1"));
	await act(press(page, "Cylinder"));
	await act(type(page, "Height", "2.4"));
	await act(type(page, "Position x", "0 2.6"));
	await act(type(page, "Turn z", "-25"));
	await key(page.keyboard.press("2"));
	await act(pressText(page, "Rubble"));
	await act(type(page, "Pieces", "8"));
	await key(page.keyboard.press("a"));
	await built();
	await page.keyboard.press("6");
	const last = FULL ? 120 : 36;
	await lasting(page, last);
	await key(runToEnd(page, LONG));
	await keep("tower-coarse");
	// Finer pieces move as the coarse ones did, at once.
	await key(page.keyboard.press("2"));
	const fine = FULL ? 400 : 40;
	await act(type(page, "Pieces", String(fine)));
	await built();
	await until(page, (s) => s.bodies.length > 30, LONG);
	const pieces = await state(page, (s) => s.bodies.filter((body) => body.path.startsWith("Cylinder/")).length);
	await page.keyboard.press("6");
	await act(press(page, "More for Take 1"));
	await act(pressText(page, "Carry over to the pieces now"));
	await page.waitForFunction(
		(count) => (window as any).rubble.state().take?.take.bodies.length > count && (window as any).rubble.state().frames.chunks.length > 0,
		{ timeout: LONG },
		pieces - 1,
	);
	const carried = await posesOf("Cylinder/", last);
	const began = await posesOf("Cylinder/", 1);
	expect(carried.length).toBe(pieces);
	expect(Math.min(...carried.map((pose, i) => began[i]![1]! - pose[1]!))).toBeGreaterThan(0.1);
	await keep("tower-carried");
	// A boat that was hauled out lies there, hollow as it is.
	await key(page.keyboard.press("1"));
	await act(press(page, "Bowl"));
	await act(type(page, "Position x", "1.7 0.78 0"));
	await key(page.keyboard.press("p"));
	// The strip where it falls, and the true ground in it.
	await key(page.keyboard.press("3"));
	await act(pick("Terrain"));
	await act(pressText(page, "Only where things go"));
	await until(page, (s: any) => Object.values(s.shot.objects).some(({ source }: any) => source.kind === "region"));
	const [strip, size] = await state(page, (s: any) => {
		const { translation, scale } = Object.values(s.shot.objects).find(({ source }: any) => source.kind === "region") as any;
		return [translation, scale] as number[][];
	});
	// All that fell lies in it, and it is far from all of the terrain.
	for (const pose of carried) for (const k of [0, 2]) expect(Math.abs(pose[k]! - strip![k]!)).toBeLessThan(size![k]! / 2);
	expect(size![0]! * size![2]!).toBeLessThan(80);
	await act(pressText(page, "True ground for the final run"));
	await built();
	await act(press(page, "Colliders"));
	await page.waitForFunction(() => (window as any).rubble.state().colliderLines?.ids.length > 0);
	await sleep(600);
	await keep("tower-strip");
	await page.keyboard.press("6");
	await act(press(page, "Run as new"));
	await until(page, (s) => s.run !== null, 20_000).catch(() => undefined);
	await until(page, (s) => s.run === null, LONG);
	const heights = (await posesOf("Cylinder/", last)).map((pose) => pose[1]!);
	expect(heights.every(Number.isFinite)).toBe(true);
	const boat = await state(page, (s: any) => s.colliders[s.bodies.find(({ path }: any) => path === "Bowl").id].choice);
	expect(boat).toBe("mesh");
	// Where the ground is true, nothing has fallen through it.
	expect(heights.filter((height) => height > -0.8).length / heights.length).toBeGreaterThan(0.9);
	await keep("tower-true");
	expect(acts()).toBeLessThanOrEqual(20);
	await handOver(session, 14, counter);
	expect(session.errors).toEqual([]);
});

test("a tub fills while the camera moves: how many it takes is told, it starts at frame 36, a pole comes in at its moment", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	await page.keyboard.press("6");
	await lasting(page, FULL ? 120 : 72);
	await page.keyboard.press("1");
	await act(press(page, "Ground"));
	await act(press(page, "Cup"));
	await act(press(page, "Ball"));
	await act(type(page, "Radius", FULL ? "0.045" : "0.09"));
	await act(press(page, "In a volume"));
	await page.waitForSelector("::-p-text(Poured full)");
	const told = await pouredFull();
	await act(pressText(page, "Pour in"));
	await page.waitForFunction(
		(count) => (window as any).rubble.state().bodies.filter((body: any) => body.path.startsWith("Ball copies/")).length === count,
		{ timeout: LONG },
		told,
	);
	const copies = await state(page, (s) => s.bodies.filter((body) => body.path.startsWith("Ball copies/")).length);
	await key(page.keyboard.press("3"));
	await key(page.keyboard.press("a"));
	await act(page.locator("::-p-aria([role='radio'][name='Frame'])").click());
	await act(type(page, "Frame", FULL ? "36" : "12"));
	await key(page.keyboard.press("1"));
	await act(press(page, "Cylinder"));
	await act(type(page, "Radius", "0.04"));
	await act(type(page, "Position x", "0 2.2"));
	await act(type(page, "Go to frame", FULL ? "60" : "48"));
	await key(page.keyboard.press("k"));
	await act(type(page, "Go to frame", FULL ? "84" : "60"));
	await act(type(page, "Position height", "1"));
	await act(press(page, "Add beacon"));
	await act(type(page, "Position x", "0 0.5"));
	await act(press(page, "Add camera"));
	await page.waitForSelector("::-p-aria([name='Aims at']) ::-p-text(Beacon)");
	await key(page.keyboard.press("Home"));
	await key(page.keyboard.press("k"));
	await key(page.keyboard.press("End"));
	await act(type(page, "Position x", "2.5"));
	await key(page.keyboard.press("l"));
	await page.waitForSelector("::-p-text(Leave the camera)");
	await key(runToEnd(page, LONG));
	const last = FULL ? 120 : 72;
	const first = await posesOf("Ball copies/", 1);
	const before = await posesOf("Ball copies/", FULL ? 36 : 12);
	const after = await posesOf("Ball copies/", last);
	expect(Math.max(...before.map((pose, i) => Math.abs(pose[1]! - first[i]![1]!)))).toBe(0);
	expect(Math.max(...after.map((pose, i) => Math.abs(pose[1]! - first[i]![1]!)))).toBeGreaterThan(0.003);
	// What it takes was told, and nearly all of it is in it at the end: the pole has pushed some out.
	const inside = after.filter(([x, y, z]) => Math.hypot(x!, z!) < 0.4 && y! < 0.9).length;
	expect(inside / copies).toBeGreaterThan(FULL ? 0.85 : 0.6);
	await page.keyboard.press("End");
	await sleep(500);
	await keep("tub-end");
	expect(acts()).toBeLessThanOrEqual(18);
	await handOver(session, 19, counter);
	expect(session.errors).toEqual([]);
});

test("five kinds of shackle fill a tub at random; at rest, a fast boat-hook wakes only what it meets", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	await act(press(page, "Ground"));
	await act(press(page, "Cup"));
	for (const shape of ["Torus", "Box", "Cylinder", "Ball", "Cone"]) await act(press(page, shape));
	// From the one that was added last up to the first.
	await page.keyboard.down("Shift");
	await act(pick("Torus"));
	await page.keyboard.up("Shift");
	expect(await state(page, (s) => s.selection.length)).toBe(5);
	await act(press(page, "In a volume"));
	// From the smallest to the largest; larger ones, and so fewer, where it shall be quick.
	await act(type(page, "Smallest", FULL ? "0.07 0.08" : "0.13 0.16"));
	await act(pressText(page, "Pour in"));
	await built();
	const name = "Torus copies/";
	const count = await pouredFull();
	await page.waitForFunction(
		(start, wanted) => (window as any).rubble.state().bodies.filter((body: any) => body.path.startsWith(start)).length === wanted,
		{ timeout: LONG },
		name,
		count,
	);
	// What it is poured into has become passive.
	expect(await state(page, (s) => s.bodies.find(({ path }) => path === "Cup")!.settings.kind)).toBe("passive");
	await key(page.keyboard.press("a"));
	await key(page.keyboard.press("6"));
	const last = FULL ? 120 : 60;
	await lasting(page, last);
	await key(runToEnd(page, LONG));
	await keep("shackles-filled");
	const lie = await posesOf(name, last);
	expect(lie.length).toBe(count);
	// Nothing has gone through the floor or the wall.
	expect(Math.min(...lie.map((pose) => pose[1]!))).toBeGreaterThan(0);
	await key(page.keyboard.press("End"));
	await act(page.locator("button::-p-text(Start from)").click());
	await page.waitForFunction(() => (window as any).rubble.state().shot.keptPlaces !== null, { timeout: LONG });
	await built();
	await key(page.keyboard.press("Home"));
	await key(page.keyboard.press("1"));
	await act(press(page, "Add region"));
	await act(type(page, "Size x", "0.15 1.5 0.15"));
	await act(type(page, "Position x", "-2 0.6 0"));
	await key(page.keyboard.press("k"));
	await act(type(page, "Go to frame", "13"));
	await act(type(page, "Position x", "2"));
	await act(pick("Torus copies"));
	await key(page.keyboard.press("3"));
	await act(page.locator("::-p-aria([role='radio'][name='Region'])").click());
	await act(type(page, "Least speed", "2"));
	await key(page.keyboard.press("6"));
	await lasting(page, 48);
	await act(press(page, "Run as new"));
	await until(page, (s) => s.run !== null, 20_000).catch(() => undefined);
	await until(page, (s) => s.run === null, LONG);
	const woken = await page.evaluate(() => {
		const { frames } = (window as any).rubble.state();
		return frames.chunks.reduce(
			(sum: number, { events }: any) => sum + events.kind.filter((kind: number) => kind === 1).length,
			0,
		) as number;
	});
	expect(woken).toBeGreaterThan(0);
	expect(woken).toBeLessThan(count / 2);
	await keep("shackles-hook");
	expect(acts()).toBeLessThanOrEqual(22);
	await handOver(session, 6, counter);
	expect(session.errors).toEqual([]);
});

test("a float chute: modelled large and run three times as fast, a float rolls down joined rails; the frame is one heavy body", async () => {
	const { page } = session;
	await newShot(page);
	const counter = makeCounter();
	const { act, key, acts } = counter;
	await act(press(page, "Ground"));
	// Two rails on a slope, joined to one solid.
	await act(press(page, "Cylinder"));
	await act(type(page, "Radius", "0.06 4"));
	await act(type(page, "Position x", "0 1.3 -0.2"));
	await act(type(page, "Turn z", "75"));
	await page.keyboard.down("Control");
	await key(page.keyboard.press("d"));
	await page.keyboard.up("Control");
	await until(page, (s) => s.bodies.length === 3);
	await act(type(page, "Position x", "0 1.3 0.2"));
	await page.keyboard.down("Control");
	await act(pick("Cylinder"));
	await page.keyboard.up("Control");
	await act(press(page, "Merge"));
	await built();
	await until(page, (s) => s.bodies.some((body) => body.path.endsWith("merged")));
	await key(page.keyboard.press("p"));
	await act(press(page, "Ball"));
	await act(type(page, "Radius", "0.3"));
	await act(type(page, "Position x", "-1.6 2.1 0"));
	await key(page.keyboard.press("3"));
	await key(page.keyboard.press("a"));
	await act(type(page, "Bounce", "0.3"));
	await page.keyboard.press("6");
	await act(type(page, "Time scale", "3"));
	await act(type(page, "Last", "36"));
	await key(runToEnd(page, LONG));
	const way = await Promise.all([1, 6, 12, 18, 24].map((frame) => posesOf("Ball", frame).then(([pose]) => pose!)));
	// It goes down the rails and stays between them, and it rolls: it turns as far as its way over its radius asks.
	expect(way.at(-1)![0]! - way[0]![0]!).toBeGreaterThan(1.5);
	for (const pose of way.filter(([x]) => Math.abs(x!) < 1.7)) expect(Math.abs(pose[2]!)).toBeLessThan(0.12);
	const turned = (a: number[], b: number[]) =>
		2 * Math.acos(Math.min(1, Math.abs([3, 4, 5, 6].reduce((sum, k) => sum + a[k]! * b[k]!, 0))));
	expect(turned(way[1]!, way[2]!)).toBeGreaterThan(0.4);
	await keep("chute");
	expect(acts()).toBeLessThanOrEqual(24);
	await handOver(session, 12, counter);
	expect(session.errors).toEqual([]);
});
