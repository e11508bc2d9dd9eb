import { combine, newShot, openBrowser, press, pressText, runToEnd, type Session, state, type, until } from "./browser";
import { bakedGlb } from "./handOver";

let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

test("from an empty shot to an animated file: box, pieces, bodies, keyed ball, run, correct, bake", async () => {
	const { page } = session;
	await newShot(page);

	// Shape: a box, the ground and a ball, by the buttons and fields of the bench.
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 1);
	await type(page, "Width", "2.4");
	await press(page, "Ground");
	await press(page, "Ball");
	await until(page, (s) => s.bodies.length === 3);
	await type(page, "Radius", "0.6/2");
	for (const [axis, value] of [
		["x", "0"],
		["height", "0.6"],
		["z", "-2"],
	])
		await type(page, `Position ${axis}`, value!);

	// Keys: here at the first frame, past the box at frame 31.
	await pressText(page, "Set key at");
	for (let i = 0; i < 3; i++) await combine(page, "Shift", "ArrowRight");
	await until(page, (s) => s.frame === 31);
	await type(page, "Position z", "2");
	await page.keyboard.press("k");
	await until(page, (s) => s.bodies.some((body) => body.path === "Ball" && body.settings.kind === "animated"));
	await page.keyboard.press("Home");

	// Break: pick the box in the ledger, the way from the bench.
	await page.keyboard.press("2");
	await pressText(page, "Box");
	await pressText(page, "Rubble");
	await until(page, (s) => s.bodies.filter((body) => body.path.startsWith("Box/")).length === 200);
	await page.waitForSelector("::-p-text(0 cm³)");

	// Weigh: active, waking when touched.
	await page.keyboard.press("3");
	await press(page, "Active");
	await pressText(page, "Touched");
	await until(page, (s) => s.bodies.filter((body) => body.settings.kind === "active").length === 200);
	expect(await state(page, (s) => s.bodies.reduce((sum, body) => sum + (body.path.startsWith("Box/") ? body.mass : 0), 0))).toBeCloseTo(
		2.4 * 2400,
		1,
	);

	// Run, and nothing moves before the ball is there.
	await page.keyboard.press("6");
	await type(page, "Last", "60");
	await runToEnd(page);
	await until(page, (s) => s.frames.chunks.reduce((sum, chunk) => sum + chunk.frames, 0) === 60);
	await page.waitForSelector('[data-band="1-60/60"]');

	// Scrub by mouse, to about a third and back to the start.
	const slider = await page.waitForSelector("[role=slider][aria-label=Frame]");
	const box = (await slider!.boundingBox())!;
	await page.mouse.move(box.x + box.width / 3, box.y + 20);
	await page.mouse.down();
	await page.mouse.move(box.x + box.width / 2, box.y + 20, { steps: 4 });
	await page.mouse.up();
	await until(page, (s) => Math.abs(s.frame - 30.5) <= 1.5);

	// Another number of substeps makes every frame stale, and says so.
	await type(page, "Substeps", "8");
	await until(page, (s) => s.shot.settings.stepsPerSecond === 192);
	await page.waitForSelector("::-p-text(stale from 1)");
	await page.waitForSelector('[data-band="1-0/60"]');
	const before = await state(page, (s) => s.take!.take.chunks.map((chunk) => chunk.hash));
	await runToEnd(page);
	await page.waitForSelector('[data-band="1-60/60"]');
	expect(await state(page, (s) => s.take!.take.chunks.map((chunk) => chunk.hash))).not.toEqual(before);

	// Bake: the file holds what was seen, and is valid.
	await bakedGlb(session);
	await page.waitForSelector("::-p-text(Off by at most)");

	// A reload finds everything again.
	await until(page, (s) => s.save.kind === "saved");
	await page.reload({ waitUntil: "networkidle2" });
	await until(page, (s) => s.bodies.length === 202 && s.frames.chunks.length === 3);
	await page.waitForSelector('[data-band="1-60/60"]');
	expect(session.errors).toEqual([]);
});

test("undo reaches the start and redo comes back", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Panel");
	await until(page, (s) => s.bodies.length === 1);
	await type(page, "Thickness", "6");
	await page.keyboard.press("2");
	await pressText(page, "A few large pieces");
	await until(page, (s) => s.bodies.length === 40);
	await page.keyboard.press("3");
	await press(page, "Active");
	await until(page, (s) => s.bodies.every((body) => body.settings.kind === "active"));
	const steps = await state(page, (s) => s.undoStack.length);
	for (let i = 0; i < steps; i++) await combine(page, "Control", "z");
	await until(page, (s) => s.undoStack.length === 0 && s.bodies.length === 0);
	await page.keyboard.down("Shift");
	for (let i = 0; i < steps; i++) await combine(page, "Control", "z");
	await page.keyboard.up("Shift");
	await until(page, (s) => s.bodies.length === 40 && s.bodies.every((body) => body.settings.kind === "active"));
	expect(session.errors).toEqual([]);
});
