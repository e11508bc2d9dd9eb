import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { tmpdir } from "node:os";
import { join } from "node:path";
import validator from "gltf-validator";
import type { ElementHandle } from "puppeteer-core";
import {
	combine,
	downloaded,
	dropFiles,
	middle,
	newShot,
	openBrowser,
	press,
	pressText,
	runToEnd,
	type Session,
	state,
	type,
	until,
} from "./browser";

let session: Session;
let folder: string;
beforeAll(async () => {
	session = await openBrowser();
	folder = mkdtempSync(join(tmpdir(), "rubble-scan-"));
});
afterAll(async () => {
	await session.close();
	rmSync(folder, { recursive: true, force: true });
});

/** A scanned mesh, ten units long, with its foot cut off so that it is open at the bottom. */
function writeScan(): string {
	const scan = createRequire(import.meta.url)("bunny") as { positions: number[][]; cells: number[][] };
	const low = Math.min(...scan.positions.map((p) => p[1]!));
	const faces = scan.cells.filter((cell) => cell.some((v) => scan.positions[v]![1]! > low + 0.35));
	const file = join(folder, "scan.obj");
	writeFileSync(
		file,
		[...scan.positions.map((p) => `v ${p.join(" ")}`), ...faces.map((cell) => `f ${cell.map((v) => v + 1).join(" ")}`)].join("\n"),
	);
	return file;
}

async function chooseFile(file: string): Promise<void> {
	const [chooser] = await Promise.all([session.page.waitForFileChooser(), press(session.page, "Open file")]);
	await chooser.accept([file]);
}

test("a scanned mesh that is open at the bottom is reported, repaired, broken, dropped and baked", async () => {
	const { page } = session;
	await newShot(page);
	await chooseFile(writeScan());
	await page.waitForSelector("::-p-text(How large is scan.obj?)");
	// Ten decimetres: the size is shown for each unit before anything is added.
	await pressText(page, "cm");
	await page.waitForSelector("::-p-text(0.0991 ×)");
	await press(page, "m");
	await press(page, "Add to the shot");
	await until(page, (s) => s.bodies.length === 1);
	await page.waitForSelector("::-p-text(none: not closed)");
	await page.waitForSelector("::-p-text(open edges)");
	expect(await state(page, (s) => s.findings.map((finding) => finding.check))).toContain("open-mesh");
	await press(page, "Weld and fill");
	await page.waitForSelector("::-p-text(Repaired: weld, fill)");

	// Ten metres of animal are made half a metre by its scale, then broken into 200.
	for (const axis of ["x", "height", "z"]) await type(page, `Size ${axis}`, "0.1");
	await press(page, "Set down");
	await press(page, "Ground");
	await pressText(page, "scan");
	await page.keyboard.press("2");
	await pressText(page, "Rubble");
	await until(page, (s) => s.bodies.filter((body) => body.path.startsWith("scan/")).length >= 200);
	await page.keyboard.press("3");
	await press(page, "Active");
	await until(page, (s) => s.bodies.filter((body) => body.settings.kind === "active").length >= 200);
	await page.keyboard.press("6");
	await type(page, "Last", "48");
	await runToEnd(page);
	await page.waitForSelector('[data-band="1-48/48"]');
	await page.keyboard.press("7");
	await press(page, "Bake and download");
	const report = await validator.validateBytes(await downloaded(session, "glb"));
	expect(report.issues.messages.filter(({ severity }) => severity < 2)).toEqual([]);
	expect(session.errors).toEqual([]);
});

test("files that are dropped together are opened one after the other, and undone one by one; a picture is worn by what it falls on", async () => {
	const { page } = session;
	await newShot(page);
	const spike = (name: string, at: number) =>
		[`o ${name}`, ...["0 0 0", "1 0 0", "0 1 0", "0 0 1"].map((place) => `v ${place}`)].join("\n") +
		["1 3 2", "1 2 4", "1 4 3", "2 3 4"].map((face) => `\nf ${face.replace(/\d/g, (n) => String(Number(n) + at))}`).join("");
	const mesh = (name: string, text: string) => ({ name, bytes: new TextEncoder().encode(text), type: "" });
	const centre = await middle(page);
	await dropFiles(page, centre, mesh("pair.obj", `${spike("left", 0)}\n${spike("right", 4)}`), mesh("one.obj", spike("third", 0)));
	await page.waitForSelector("::-p-text(How large is pair.obj?)");
	await press(page, "Add to the shot");
	await page.waitForSelector("::-p-text(How large is one.obj?)");
	expect(await state(page, (s) => s.bodies.length + Object.keys(s.shot.objects).length)).toBeGreaterThanOrEqual(2);
	await press(page, "Add to the shot");
	await until(page, (s) => s.bodies.length === 3);
	await combine(page, "Control", "z");
	await until(page, (s) => s.bodies.map(({ path }) => path).join() === "left,right");
	await combine(page, "Control", "z");
	await until(page, (s) => Object.keys(s.shot.objects).length === 0);

	const granite = { name: "granite.png", bytes: await page.screenshot({ clip: { x: 0, y: 0, width: 32, height: 32 } }), type: "image/png" };
	await dropFiles(page, centre, granite);
	await page.waitForSelector("::-p-text(Drop granite.png on what shall wear it)");
	await press(page, "Box");
	await press(page, "Ball");
	await until(page, (s) => s.bodies.length === 2 && s.building === null);
	// Both are of concrete, and the ball is picked; but it falls on nothing, so what is picked wears it.
	await dropFiles(page, [centre[0], centre[1] - 200], granite);
	await page.waitForSelector("::-p-text(All 2 objects of concrete wear it)");
	expect(await state(page, (s: any) => s.shot.materials.concrete.texture.size)).toBe(1);
	// The same by the bench.
	await pressText(page, "Edit concrete");
	await page.waitForSelector("::-p-aria([name='Covers'])");
	await page.locator("section button::-p-text(None)").click();
	await until(page, (s: any) => s.shot.materials.concrete.texture === undefined);
	const file = join(folder, "granite.png");
	writeFileSync(file, granite.bytes);
	const input = (await page.waitForSelector("input[accept='image/png,image/jpeg']")) as unknown as ElementHandle<HTMLInputElement>;
	await input.uploadFile(file);
	await until(page, (s: any) => s.shot.materials.concrete.texture?.size === 1);
	expect(session.errors).toEqual([]);
});

test("a damaged file gets a sentence and leaves the shot as it was", async () => {
	const { page } = session;
	await newShot(page);
	await press(page, "Box");
	await until(page, (s) => s.bodies.length === 1);
	const damaged = join(folder, "cut.obj");
	writeFileSync(damaged, "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n");
	await chooseFile(damaged);
	await page.waitForSelector("::-p-text(Line 4 of the OBJ file)");
	writeFileSync(
		join(folder, "points.ply"),
		"ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n0 0 0\n",
	);
	await chooseFile(join(folder, "points.ply"));
	await page.waitForSelector("::-p-text(points but no faces)");
	expect(await state(page, (s) => Object.keys(s.shot.objects).length)).toBe(1);
	expect(session.errors).toEqual([]);
});
