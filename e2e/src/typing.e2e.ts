import { combine, newShot, openBrowser, press, type Session, state, type, until } from "./browser";

/** What is typed into fields: quantities in any unit, sums, several at once. */
let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

const parameter = (name: string): Promise<number> =>
	state(session.page, ((s: any) => (Object.values(s.shot.objects).at(-1) as any).source.parameters) as never).then(
		(parameters) => (parameters as Record<string, number>)[name]!,
	);
const settled = () => until(session.page, (s) => s.save.kind === "saved" && s.building === null);

test("lengths are typed in any unit and as sums; what is no length is refused with why, and Escape gives the old value back", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 1);
	for (const [typed, metres] of [
		["2.4", 2.4],
		["240 cm", 2.4],
		["0.6/2", 0.3],
		["1.2m", 1.2],
		["70 cm", 0.7],
		["1 m + 20 cm", 1.2],
		["3 ft", 0.9144],
	] as const) {
		await type(page, "Width", typed);
		await settled();
		expect([typed, await parameter("width")]).toEqual([typed, expect.closeTo(metres, 9)]);
	}
	await type(page, "Width", "3 kg");
	await page.waitForSelector("::-p-text(is a mass; a length is needed here)");
	expect(await parameter("width")).toBeCloseTo(0.9144, 9);
	const picked = await state(page, (s) => s.selection.length);
	await page.locator('::-p-aria([name="Width"][role="textbox"])').click();
	await page.keyboard.press("Escape");
	await page.waitForFunction(() => !document.body.textContent.includes("is a mass"));
	const shown = await page.evaluate(
		() => ([...document.querySelectorAll("label")].find((one) => one.textContent === "Width")!.control as HTMLInputElement).value,
	);
	expect([shown, await state(page, (s) => s.selection.length)]).toEqual(["0.9144", picked]);
});

test("several at once go by what each field shows: the thickness of a pane takes 6 as millimetres", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Panel");
	await until(page, (s) => s.bodies.length === 1);
	await type(page, "Thickness", "6 mm");
	await settled();
	await type(page, "Width", "1 1 6");
	await settled();
	expect([await parameter("width"), await parameter("height"), await parameter("thickness")]).toEqual([1, 1, 0.006]);
	expect(await state(page, (s) => s.bodies[0]!.mass)).toBeCloseTo(0.006 * 2500, 3);
});

test("masses, densities, speeds, angles and times, each in the units of the trade", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 1);
	await type(page, "Turn height", "0.25 turns");
	await settled();
	const rotation = (await state(page, ((s: any) => (Object.values(s.shot.objects)[0] as any).rotation) as never)) as number[];
	expect(rotation[1]).toBeCloseTo(Math.SQRT1_2, 6);
	await page.keyboard.press("3");
	await page.keyboard.press("a");
	await until(page, (s) => s.bodies[0]!.settings.kind === "active");
	await type(page, "Density", "2.7 g/cm³");
	await settled();
	expect(await state(page, (s) => s.bodies[0]!.mass)).toBeCloseTo(2700, 6);
	await type(page, "Velocity x", "36 km/h");
	await settled();
	expect(((await state(page, ((s: any) => Object.values(s.shot.bodies)[0]) as never)) as { velocity: number[] }).velocity[0]).toBeCloseTo(
		10,
		9,
	);
	expect(session.errors).toEqual([]);
});

test("F2 renames what is picked, Escape leaves its name; a piece says why it cannot be", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 1);
	await page.keyboard.press("F2");
	await page.locator('::-p-aria([name="New name"])').fill("Pier");
	await page.keyboard.press("Enter");
	await until(page, (s) => Object.values(s.shot.objects)[0]!.name === "Pier" && s.save.kind === "saved");
	await page.keyboard.press("F2");
	await page.locator('::-p-aria([name="New name"])').fill("Other");
	await page.keyboard.press("Escape");
	await page.waitForFunction(() => !document.querySelector("[aria-label='New name']"));
	expect(await state(page, (s) => [Object.values(s.shot.objects)[0]!.name, s.selection.length])).toEqual(["Pier", 1]);
	await page.keyboard.press("Escape");
	await until(page, (s) => s.selection.length === 0);
	await page.keyboard.press("F2");
	await page.waitForSelector("::-p-text(Pick an object first)");
});

test("Ctrl K knows the trade's other words, the likeliest first", async () => {
	const { page } = session;
	await newShot(page);
	for (const [typed, wanted] of [
		["sphere", "Add ball"],
		["cube", "Add box"],
		["export", "Go to Bake"],
		["constraint", "Go to Bind"],
		["glue", "Go to Bind"],
		["rename", "Rename"],
		["collision", "Go to Weigh"],
		["render", "Go to Bake"],
		["simulate", "Run"],
	] as const) {
		await combine(page, "Control", "k");
		await page.locator('input[placeholder="Find a command, an object or a setting"]').fill(typed);
		await page
			.waitForFunction(
				(label) => document.querySelector("[cmdk-item][aria-selected='true']")?.getAttribute("data-value") === label,
				{ timeout: 8000 },
				wanted,
			)
			.catch(async () => {
				const first = await page.evaluate(() => document.querySelector("[cmdk-item][aria-selected='true']")?.getAttribute("data-value"));
				throw new Error(`${typed}: ${first} comes first instead of ${wanted}`);
			});
		await page.keyboard.press("Escape");
		await page.waitForFunction(() => !document.querySelector("[cmdk-item]"));
	}
	expect(session.errors).toEqual([]);
});
