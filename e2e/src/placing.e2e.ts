import {
	choose,
	combine,
	downloaded,
	drag,
	dropFiles,
	kind,
	lasting,
	middle,
	newShot,
	openBrowser,
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

/** Placing, copying and setting several things at once, as anybody does all day. */
let session: Session;
beforeAll(async () => {
	session = await openBrowser();
});
afterAll(() => session.close());

/** Places of objects by name, to the millimetre. */
const placesOf = (...names: string[]): Promise<number[][]> =>
	session.page.evaluate(
		(wanted) =>
			wanted.map((name) => {
				const found = Object.values((window.rubble!.state() as any).shot.objects).find((one: any) => one.name === name) as any;
				return found.translation.map((x: number) => Math.round(1000 * x) / 1000 + 0);
			}),
		names,
	);

/** Looks straight at an object, so that its handles stand in the middle of the view, from the front. */
const faceUp = async (name: string) => {
	const { page } = session;
	await page.locator('button[aria-label^="Camera:"]').click();
	await page.locator("[role=menuitemradio]::-p-text(Front)").click();
	await pick(page, name);
	await page.keyboard.press("f");
};

/** Drags the handle that points to the right by so many pixels. */
const dragRight = async (by: number) => {
	const [x, y] = await middle(session.page);
	await session.page.mouse.move(x + 40, y);
	await drag(session.page, [x + 45, y], [x + 45 + by, y]);
};

test("handles carry all that is picked, along the world's axes or a thing's own; it is one step back", async () => {
	const { page } = session;
	await newShot(page);
	for (const name of ["Box", "Ball", "Cylinder"]) await press(page, name);
	await until(page, (s) => s.bodies.length === 3);
	const before = await placesOf("Box", "Ball", "Cylinder");
	await faceUp("Cylinder");
	await page.keyboard.press("t");
	await pick(page, "Box");
	await pick(page, "Cylinder", true);
	const steps = await state(page, (s) => s.undoStack.length);
	await dragRight(80);
	const after = await placesOf("Box", "Ball", "Cylinder");
	const by = after[2]![0]! - before[2]![0]!;
	expect(by).toBeGreaterThan(0.1);
	expect(after[0]).toEqual([before[0]![0]! + by, ...before[0]!.slice(1)].map((x) => expect.closeTo(x, 2)));
	expect(after[1]).toEqual(before[1]);
	expect(await state(page, (s) => s.undoStack.length)).toBe(steps + 1);
	await combine(page, "Control", "z");
	expect(await placesOf("Box", "Ball", "Cylinder")).toEqual(before);

	// A thing that is turned has other axes than the world: its own x points up.
	await pick(page, "Cylinder");
	await type(page, "Turn x", "0 0 90");
	await press(page, "Own axes");
	await until(page, (s) => (s as any).ownAxes);
	const [x, y] = await middle(page);
	await page.mouse.move(x, y - 40);
	await drag(page, [x, y - 45], [x, y - 125]);
	const [lifted] = await placesOf("Cylinder");
	expect(lifted![1]).toBeGreaterThan(before[2]![1]! + 0.1);
	expect([lifted![0], lifted![2]]).toEqual([before[2]![0], before[2]![2]]);
	await page.keyboard.press("o");
	await until(page, (s) => !(s as any).ownAxes);
	expect(session.errors).toEqual([]);
});

test("numbers of several: what differs is a range, what is typed goes to all, each keeps the rest", async () => {
	const { page } = session;
	await pick(page, "Box");
	await pick(page, "Ball", true);
	await pick(page, "Cylinder", true);
	const before = await placesOf("Box", "Ball", "Cylinder");
	const shown = () => page.$eval("[aria-label='Position x']", (field) => (field as HTMLInputElement).value);
	expect(await shown()).toMatch(/^\S+ … \S+$/);
	await type(page, "Position height", "2");
	expect(await placesOf("Box", "Ball", "Cylinder")).toEqual(before.map(([x, , z]) => [x, 2, z]));
	await press(page, "Set down");
	const down = await placesOf("Box", "Ball", "Cylinder");
	expect(down.map(([, height]) => height)).toEqual([0.5, 0.5, 0.3]);
	await page.keyboard.press("3");
	await page.keyboard.press("a");
	await pick(page, "Ball");
	await type(page, "Velocity z", "3");
	await pick(page, "Box", true);
	await type(page, "Velocity x", "-1");
	await until(page, (s: any) => {
		const of = (name: string) => s.bodies.find((body: any) => body.path === name).settings.velocity.join();
		return of("Box") === "-1,0,0" && of("Ball") === "-1,0,3";
	});
	expect(session.errors).toEqual([]);
});

test("a group stands in the middle of what it holds, weighs as it, and is copied with all of it", async () => {
	const { page } = session;
	await page.keyboard.press("1");
	await pick(page, "Box");
	await pick(page, "Ball", true);
	await pick(page, "Cylinder", true);
	await combine(page, "Control", "g");
	await until(page, (s) => s.bodies.every(({ path }) => path.startsWith("Group/")));
	expect((await placesOf("Group"))[0]![0]).toBeCloseTo(1.05, 2);
	expect(await posesOf("Group/Box")).toEqual([[expect.closeTo(0, 5), 0.5, 0]]);
	await page.keyboard.press("3");
	await kind(page, "Passive");
	await until(page, (s) => s.bodies.every(({ settings }) => settings.kind === "passive"));
	await combine(page, "Control", "d");
	await until(
		page,
		(s) => s.bodies.filter(({ path, settings }) => path.startsWith("Group 2/") && settings.kind === "passive").length === 3,
	);
	expect(await state(page, (s) => s.selection.length)).toBe(1);
	await combine(page, "Control", "z");
	await until(page, (s) => s.bodies.length === 3);
	// What is in it breaks in one step, each thing in its own way.
	await page.locator("::-p-aria([role='treeitem']) ::-p-text(Group)").click();
	await page.keyboard.press("2");
	await page.waitForSelector("::-p-text(3 objects are whole)");
	await pressText(page, "A few large pieces");
	await until(page, (s) => s.bodies.filter(({ path }) => path.startsWith("Group/")).length > 90);
	expect(await state(page, (s: any) => new Set(Object.values(s.shot.fractures).map(({ options }: any) => options.seed)).size)).toBe(3);
	await combine(page, "Control", "z");
	await until(page, (s) => s.bodies.length === 3);
	expect(session.errors).toEqual([]);
});

test("the wide ledger: sorted, filtered by a rule, a number typed in its place for all that is picked, and a CSV file of it", async () => {
	const { page } = session;
	await pick(page, "Box");
	await page.keyboard.press("2");
	await pressText(page, "A few large pieces");
	await until(page, (s) => s.bodies.filter(({ path }) => path.startsWith("Group/Box/")).length === 40);
	await page.keyboard.press("w");
	await page.waitForSelector("section[aria-label='Wide ledger']");
	await (await page.waitForSelector("input[aria-label='Rule for the table']"))!.type("piece, volume > 25 dm³");
	await pressText(page, "Pick all");
	const picked = await state(page, (s) => s.selection.length);
	expect(picked).toBeGreaterThan(3);
	const first = await page.waitForSelector("section[aria-label='Wide ledger'] button[aria-label^='friction of Group/Box/']");
	await first!.click();
	await page.waitForSelector("section[aria-label='Wide ledger'] input[aria-label^='friction of']");
	await page.keyboard.type("0.9");
	await page.keyboard.press("Enter");
	await until(page, (s: any) => s.selection.every((id: string) => s.bodies.find((body: any) => body.id === id).settings.friction === 0.9));
	expect(await state(page, (s: any) => s.bodies.filter((body: any) => body.settings.friction === 0.9).length)).toBe(picked);
	// Left by Escape it stays as it is.
	await (await page.waitForSelector("section[aria-label='Wide ledger'] button[aria-label^='bounce of Group/Box/']"))!.click();
	await page.keyboard.type("0.7");
	await page.keyboard.press("Escape");
	await pressText(page, "CSV");
	const lines = new TextDecoder()
		.decode(await downloaded(session, "csv"))
		.trim()
		.split("\r\n");
	expect(lines).toHaveLength(picked + 1);
	expect(lines[0]).toMatch(/^name,kind,mass kg/);
	for (const line of lines.slice(1)) expect(line).toMatch(/^Group\/Box\/\d+,passive,[\d.]+,2400,0.9,0.1,/);
	// In the order of the table: the largest first; Shift takes all from the row that was pressed last.
	const names = lines.slice(1).map((line) => line.split(",")[0]!);
	const volume = lines[0]!.split(",").findIndex((name) => name.startsWith("volume"));
	const volumes = lines.slice(1).map((line) => Number(line.split(",")[volume]));
	expect(volumes).toEqual([...volumes].sort((a, b) => b - a));
	const row = (index: number) => page.locator(`section[aria-label='Wide ledger'] [role=row] [role=cell]::-p-text(${names[index]!})`);
	await row(0).click();
	await page.keyboard.down("Shift");
	await row(2).click();
	await page.keyboard.up("Shift");
	const taken = await state(page, (s: any) => s.selection.map((id: string) => s.bodies.find((body: any) => body.id === id).path));
	expect(taken).toEqual(names.slice(0, 3));
	await page.keyboard.press("w");
	await page.waitForFunction(() => !document.querySelector("section[aria-label='Wide ledger']"));
	expect(session.errors).toEqual([]);
});

/** World places of bodies before anything moves. */
const posesOf = (path: string): Promise<number[][]> =>
	session.page.evaluate((start) => {
		const { shot, bodies } = window.rubble!.state() as any;
		const place = (id: string | null): number[] =>
			id === null ? [0, 0, 0] : place(shot.objects[id].parent).map((x: number, k: number) => x + shot.objects[id].translation[k]);
		return bodies.filter((body: any) => body.path === start).map((body: any) => place(body.object));
	}, path);

test("two keys become a start velocity; the ring of a waking frame is dragged in the timeline", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Ball");
	await until(page, (s) => s.bodies.length === 1);
	await page.keyboard.press("3");
	await page.keyboard.press("a");
	await page.keyboard.press("k");
	await type(page, "Go to frame", "25");
	await until(page, (s) => s.frame === 25);
	await page.keyboard.press("1");
	await type(page, "Position x", "2");
	await page.keyboard.press("3");
	await pressText(page, "Make numbers of them");
	await until(page, (s: any) => Object.values(s.shot.bodies).some((body: any) => Math.abs(body.velocity?.[0] - 2) < 0.01));
	expect(await state(page, (s: any) => Object.values(s.shot.objects).map((item: any) => item.keys.translation.length))).toEqual([0]);
	await type(page, "Go to frame", "13");
	await page.locator("::-p-aria([name='Frame'][role='radio'])").click();
	const ring = await page.waitForSelector("::-p-aria([name='Wakes at frame 13'])");
	const box = (await ring!.boundingBox())!;
	const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
	await drag(page, [x, y], [x + 60, y]);
	await until(page, (s: any) => s.bodies[0].settings.wake.frame > 15);
	const woken = await state(page, (s: any) => s.bodies[0].settings.wake.frame as number);
	await page.keyboard.press("6");
	await lasting(page, woken + 12);
	await runToEnd(page);
	// It waits until then, and goes with the speed that it had by its keys.
	const [at] = await posesAt(page, "Ball", woken);
	expect(at!.slice(0, 3)).toEqual([0, 0.5, 0].map((v) => expect.closeTo(v, 2)));
	const [later] = await posesAt(page, "Ball", woken + 12);
	expect(later![0]).toBeCloseTo(1, 1);
	expect(session.errors).toEqual([]);
});

test("a region takes the form of an object and wakes what it sweeps over; the rest sleeps on", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Ground");
	await press(page, "Ball");
	await type(page, "Radius", "0.1");
	await type(page, "Position x", "0 1.5 0");
	await press(page, "Line");
	await type(page, "Copies", "5");
	await type(page, "Step x", "0.6 0 0");
	await until(page, (s) => s.bodies.filter(({ path }) => path.startsWith("Ball copies/")).length === 5);
	await page.keyboard.press("a");
	await press(page, "Cone");
	await type(page, "Radius", "0.5");
	await until(page, (s) => s.bodies.some(({ path }) => path === "Cone"));
	await press(page, "Add region");
	await page.locator("::-p-aria([name='Object'][role='radio'])").click();
	await choose(page, "Form of", "Cone");
	await until(page, (s: any) => Object.values(s.shot.objects).some(({ source }: any) => source.form === "solid" && source.solid));
	// Its tip is above the second and the third of them, its foot reaches to their neighbours, which are too high for that.
	await type(page, "Position x", "0.6 1.5 0");
	await pick(page, "Ball copies");
	await page.keyboard.press("3");
	await page.locator("::-p-aria([name='Region'][role='radio'])").click();
	await until(page, (s: any) => s.bodies.some((body: any) => body.settings.wake.when === "region"));
	await page.keyboard.press("6");
	await lasting(page, 24);
	await runToEnd(page);
	const heights = (await posesAt(page, "Ball copies/", 24)).map((pose) => pose[1]!);
	expect(heights.map((height) => height < 1.4)).toEqual([false, true, false, false, false]);
	expect(session.errors).toEqual([]);
});

/** An upright prism over a bow tie: two of its sides pass through each other. */
const BOW_TIE = (() => {
	const outline = [
		[0, 0],
		[3, 2],
		[3, 0],
		[0, 1],
	];
	const at = (height: number) => outline.map(([x, z]) => `v ${x} ${height} ${z}`).join("\n");
	const sides = [0, 1, 2, 3].map((k) => [k + 1, ((k + 1) % 4) + 1]).map(([a, b]) => `f ${a} ${b} ${b! + 4} ${a! + 4}`);
	return `${at(0)}\n${at(1)}\nf 4 3 2 1\nf 5 6 7 8\n${sides.join("\n")}\n`;
})();

test("an imported surface that passes through itself is told so, and a re-mesh mends it", async () => {
	const { page } = session;
	await newShot(page);
	await dropFiles(page, await middle(page), { name: "tie.obj", bytes: new TextEncoder().encode(BOW_TIE), type: "model/obj" });
	await page.waitForSelector("::-p-text(How large is tie.obj?)");
	await press(page, "Add to the shot");
	await page.waitForSelector("::-p-text(The surface passes through itself)");
	await page.locator("section button::-p-text(Re-mesh at)").click();
	await page.waitForSelector("::-p-text(Repaired: remesh)");
	await page.waitForFunction(() => !document.body.textContent.includes("The surface passes through itself"));
	expect(session.errors).toEqual([]);
});
