import { execFileSync, spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";

const program = resolve("packages/cli/bin/rubble.mjs");
let folder: string;
beforeAll(() => {
	folder = mkdtempSync(join(tmpdir(), "rubble-cli-"));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const rubble = (...words: string[]) =>
	spawnSync(process.execPath, [program, ...words], { cwd: folder, encoding: "utf8", env: { ...process.env, NODE_OPTIONS: "" } });
const json = (file: string) => JSON.parse(readFileSync(join(folder, file), "utf8"));

/** A scanned animal, as test data; its foot is cut off, so that it is open at the bottom. */
function writeScan(): void {
	const scan = createRequire(import.meta.url)("bunny") as { positions: number[][]; cells: number[][] };
	const low = Math.min(...scan.positions.map((p) => p[1]!));
	const faces = scan.cells.filter((cell) => cell.some((v) => scan.positions[v]![1]! > low + 0.35));
	const lines = [...scan.positions.map((p) => `v ${p.join(" ")}`), ...faces.map((cell) => `f ${cell.map((v) => v + 1).join(" ")}`)];
	writeFileSync(join(folder, "scan.obj"), lines.join("\n"));
}

test("inspect says what a file holds, in words and as JSON", () => {
	writeScan();
	const words = rubble("inspect", "scan.obj", "--unit", "cm");
	expect(words.status).toBe(0);
	expect(words.stdout).toMatch(/not closed/);
	expect(words.stdout).toMatch(/open edges/);
	const report = JSON.parse(rubble("inspect", "scan.obj", "--unit", "cm", "--json").stdout);
	expect(report.closed).toBe(false);
	expect(report.openEdges).toBeGreaterThan(10);
	expect(report.size[0]).toBeCloseTo(0.099, 2);
});

test("break writes pieces and a report; the pieces are read by another program", () => {
	writeFileSync(join(folder, "cube.obj"), cubeObj());
	const run = rubble("break", "cube.obj", "--pieces", "30", "--seed", "7", "--out", "out/pieces.obj", "--report", "out/report.json");
	expect([run.status, run.stderr]).toEqual([0, ""]);
	const report = json("out/report.json");
	expect(report.input).toEqual({ volume: expect.closeTo(1, 9), area: expect.closeTo(6, 6), closed: true, triangles: 12 });
	expect(report.pieces).toHaveLength(30);
	expect(report.pieces.reduce((sum: number, piece: { volume: number }) => sum + piece.volume, 0)).toBeCloseTo(1, 6);
	expect(Math.abs(report.volumeError)).toBeLessThan(1e-6);
	expect(report.contacts[0]).toEqual({
		a: expect.any(String),
		b: expect.any(String),
		area: expect.any(Number),
		normal: expect.any(Array),
		centre: expect.any(Array),
	});
	expect(readFileSync(join(folder, "out/pieces.obj"), "utf8").match(/^o /gm)).toHaveLength(30);
	const assimp = spawnSync("assimp", ["info", join(folder, "out/pieces.obj")], { encoding: "utf8" });
	if (!assimp.error) expect(assimp.stdout).toMatch(/Meshes:\s+30/);
});

test("break takes its points from a file: cell N is line N", () => {
	writeFileSync(join(folder, "cube.obj"), cubeObj());
	writeFileSync(join(folder, "points.csv"), "-0.25,0,0\n0.25,0,0\n");
	rubble("break", "cube.obj", "--points", "points.csv", "--out", "two.glb", "--report", "two.json");
	const report = json("two.json");
	expect(report.pieces.map((piece: { name: string; centroid: number[] }) => [piece.name, Number(piece.centroid[0]!.toFixed(6))])).toEqual([
		["cube/00001", -0.25],
		["cube/00002", 0.25],
	]);
	expect(readFileSync(join(folder, "two.glb")).subarray(0, 4).toString()).toBe("glTF");
	writeFileSync(join(folder, "points.csv"), "-0.25,0,0\n0.25,zero,0\n");
	const bad = rubble("break", "cube.obj", "--points", "points.csv");
	expect([bad.status, bad.stderr]).toEqual([1, expect.stringMatching(/line 2 of “points.csv”/)]);
});

test("every way to break is listed with its options, and takes them as flags", () => {
	const methods = JSON.parse(rubble("methods", "--json").stdout) as { id: string; options: Record<string, { kind: string }> }[];
	expect(methods.map(({ id }) => id)).toEqual(
		expect.arrayContaining(["voronoi", "strokes", "slices", "cells", "cuts", "cutter", "masonry", "picture", "cobbles"]),
	);
	for (const { id } of methods) expect(rubble("methods").stdout).toContain(id);
	writeFileSync(join(folder, "cube.obj"), cubeObj());
	writeFileSync(join(folder, "bar.obj"), cubeObj(0.2, 3));
	writeFileSync(join(folder, "cuts.csv"), "1,0,0,0\n0,1,0,0.1\n");
	writeFileSync(join(folder, "strokes.csv"), "0,0,0.5\n\n-0.4,-0.3,0.5\n0.4,-0.2,0.5\n");
	const pieces = (...words: string[]) => {
		const run = rubble("break", ...words, "--report", "r.json");
		expect([words, run.status, run.stderr]).toEqual([words, 0, ""]);
		return json("r.json").pieces as { name: string; parent: string; method: string }[];
	};
	expect(pieces("cube.obj", "--method", "slices", "--pieces", "8", "--axis", "y")).toHaveLength(8);
	expect(pieces("cube.obj", "--method", "cuts", "--planes", "cuts.csv")).toHaveLength(4);
	expect(pieces("cube.obj", "--method", "cutter", "--cutter", "bar.obj")[0]).toMatchObject({
		name: "cube/outside/00001",
		parent: "cube",
		method: "cutter",
	});
	expect(
		pieces("cube.obj", "--method", "masonry", "--brick", "0.24x0.115x0.24", "--joint", "0.01", "--mortar", "gap").length,
	).toBeGreaterThan(100);
	expect(pieces("cube.obj", "--method", "strokes", "--strokes", "strokes.csv", "--pieces", "90").length).toBeGreaterThan(60);
	expect(
		pieces(
			"--method",
			"picture",
			"--image",
			resolve("packages/core/pictures/bricks.png"),
			"--width",
			"3",
			"--thickness",
			"0.2",
			"--mortar",
			"gap",
		),
	).toHaveLength(78);
	for (const words of [
		["cube.obj", "--method", "slices", "--joint", "0.1"],
		["cube.obj", "--method", "cutter", "--cutter", "nowhere.obj"],
		["cube.obj", "--method", "picture", "--image", "cube.obj"],
		["--method", "slices"],
		["cube.obj", "--method", "masonry", "--brick", "big"],
	]) {
		const { status, stderr } = rubble("break", ...words);
		expect([words, status, stderr.trim().split("\n").length]).toEqual([words, 1, 1]);
	}
});

test("sample, run and bake go all the way, and the same shot gives the same hash", () => {
	expect(rubble("sample", "--list").stdout).toMatch(/breakwater-strike[\s\S]*lamp-room-pane[\s\S]*causeway-arch/);
	expect(rubble("sample", "breakwater-strike", "--out", "shot.json").status).toBe(0);
	const first = rubble("run", "shot.json", "--frames", "1-30", "--out", "take", "--report", "run.json");
	expect([first.status, first.stderr]).toEqual([0, ""]);
	const report = json("run.json");
	expect(report).toMatchObject({
		frames: 30,
		bodies: 668,
		hash: expect.stringMatching(/^[0-9a-f]{64}$/),
		events: { breaks: expect.any(Number) },
		checks: [],
	});
	expect(report.events.breaks).toBeGreaterThan(50);
	rubble("run", "shot.json", "--frames", "1-30", "--out", "again", "--report", "again.json");
	expect(json("again.json").hash).toBe(report.hash);
	const bake = rubble("bake", "take", "--format", "glb", "--tolerance", "2", "--out", "take.glb");
	expect([bake.status, bake.stdout]).toEqual([0, expect.stringMatching(/keys instead of .* at most .* mm/)]);
	expect(rubble("bake", "take", "--format", "csv", "--every", "2", "--out", "take.csv").status).toBe(0);
	expect(readFileSync(join(folder, "take.csv"), "utf8").split("\n")[0]).toBe("frame,seconds,name,x,y,z,qx,qy,qz,qw");
});

test("every format is written by its name, sequences as folders or zips, and only the frames that are asked for", () => {
	for (const format of ["glb", "usda", "usdz", "csv", "json", "jsonl"]) {
		const run = rubble("bake", "take", "--format", format, "--frames", "1-12", "--out", `files/take.${format}`);
		expect([format, run.status, run.stderr]).toEqual([format, 0, ""]);
		expect(readFileSync(join(folder, `files/take.${format}`)).length).toBeGreaterThan(1000);
	}
	for (const format of ["obj-sequence", "ply-sequence", "cache"]) {
		const run = rubble("bake", "take", "--format", format, "--frames", "9-11", "--out", `files/${format}`);
		expect([format, run.status, run.stderr]).toEqual([format, 0, ""]);
		const names = readdirSync(join(folder, "files", format));
		expect(names.filter((name) => /_00(09|10|11)\.(obj|ply|mrf)$/.test(name))).toHaveLength(3);
	}
	const mesh = ["bake", "take", "--frames", "9-9", "--format", "obj-sequence", "--out"];
	expect(rubble(...mesh, "files/one", "--only", "buoy", "--up", "z", "--unit", "cm", "--objects", "one").status).toBe(0);
	const written = readFileSync(join(folder, "files/one/breakwater-strike_0009.obj"), "utf8");
	expect([written.split("\n")[0], written.match(/^o .*/gm)]).toEqual([
		"# Breakwater strike, frame 9; centimetres, z up",
		["o breakwater-strike"],
	]);
	expect(rubble(...mesh, "x", "--only", "nobody").stderr).toMatch(/means nothing of the take/);
	expect(rubble("bake", "take", "--up", "z", "--out", "x.glb").stderr).toMatch(/GLB has no option “up”/);
	const film = ["bake", "take", "--frames", "9-11", "--size", "160x90", "--out"];
	expect(rubble(...film, "files/png", "--format", "png").status).toBe(0);
	expect(readdirSync(join(folder, "files/png"))).toEqual(
		[9, 10, 11].map((frame) => `breakwater-strike_${String(frame).padStart(4, "0")}.png`),
	);
	expect(rubble(...film, "files/take.mp4", "--format", "video").status).toBe(0);
	expect(readFileSync(join(folder, "files/take.mp4")).subarray(4, 8).toString()).toBe("ftyp");
	expect(rubble(...film, "x.mp4", "--format", "video", "--camera", "Crane").stderr).toMatch(/no camera “Crane”/);
	expect(rubble("bake", "take", "--size", "161x90", "--out", "x.mp4").status).toBe(2);
	expect(rubble("bake", "take", "--format", "cache", "--out", "files/cache.zip").status).toBe(0);
	expect(readFileSync(join(folder, "files/cache.zip")).subarray(0, 2).toString()).toBe("PK");
	expect(rubble("bake", "take", "--frames", "20-99", "--out", "x.glb").stderr).toMatch(/holds frames 1–30/);
});

test("a sweep lists its numbers, makes a take for each value, and says what it does not know", () => {
	rubble("sample", "spring-scale", "--out", "scale/shot.json");
	const shot = json("scale/shot.json");
	shot.settings.lastFrame = 12;
	writeFileSync(join(folder, "scale/shot.json"), JSON.stringify(shot));
	expect(rubble("sweep", "scale", "--list").stdout).toMatch(/connector\/Spring\/stiffness +260 N\/m/);
	const run = rubble(
		"sweep",
		"scale",
		"--set",
		"connector/Spring/stiffness=200,400",
		"--set",
		"settings/solverIterations=2..3",
		"--out",
		"swept",
	);
	expect([run.status, run.stderr]).toEqual([0, ""]);
	const table = json("swept/sweep.json") as { take: string; hash: string }[];
	expect(table).toHaveLength(4);
	expect(new Set(table.map(({ hash }) => hash)).size).toBe(4);
	for (const { take } of table) expect(json(`${take}/take.json`).chunks).toHaveLength(1);
	const wrong = rubble("sweep", "scale", "--set", "connector/Sprung/stiffness=1", "--out", "swept");
	expect([wrong.status, wrong.stderr]).toEqual([1, expect.stringMatching(/Did you mean “connector\/Spring\/stiffness”/)]);
	expect(rubble("sweep", "scale", "--set", "nonsense", "--out", "swept").status).toBe(2);
});

test("settling keeps places and takes physics away; what is kept can be checked and run", () => {
	rubble("sample", "slipway-stack", "--out", "slip/shot.json");
	const run = rubble("settle", "slip/shot.json", "--out", "dressed/shot.json");
	expect([run.status, run.stderr]).toEqual([0, ""]);
	expect(run.stdout).toMatch(/65 kept at rest, no overlap over 1 mm/);
	const shot = json("dressed/shot.json");
	expect([shot.bodies.stack?.kind, shot.bodies.barrel?.kind]).toEqual(["none", "none"]);
	expect(existsSync(join(folder, "dressed/assets", shot.keptPlaces.slice(6)))).toBe(true);
	// A still is what was wanted: nothing is found wrong with it.
	expect(JSON.parse(rubble("check", "dressed/shot.json", "--json").stdout)).toEqual([]);
	expect(rubble("check", "slip").stdout).toMatch(/Nothing wrong found/);
	expect(rubble("settle", "slip/shot.json", "--pick", "Nobody", "--out", "x.json").stderr).toMatch(/no object “Nobody”/);
});

test("damaged frames are noticed by their hash", () => {
	const file = join(folder, "take/frames/1.bin");
	expect(existsSync(file)).toBe(true);
	const bytes = readFileSync(file);
	bytes[500]! ^= 1;
	writeFileSync(file, bytes);
	expect(rubble("bake", "take", "--out", "x.glb").stderr).toMatch(/damaged/);
});

test("failures are one line on stderr and exit code 1; wrong use is 2; help is 0", () => {
	for (const words of [
		["inspect", "nowhere.obj"],
		["run", "nowhere.json", "--out", "t"],
		["bake", "nowhere", "--out", "x.glb"],
		["break", "scan.obj", "--pieces", "10"],
		["sample", "unknown"],
	]) {
		const { status, stderr } = rubble(...words);
		expect([words[0], status, stderr.trim().split("\n").length]).toEqual([words[0], 1, 1]);
	}
	for (const words of [
		["brek"],
		["break", "scan.obj", "--pieces", "many"],
		["bake", "take"],
		["run", "x", "--frames", "9-1", "--out", "t"],
	])
		expect([words, rubble(...words).status]).toEqual([words, 2]);
	for (const words of [["--help"], ["break", "--help"]]) expect([words, rubble(...words).status]).toEqual([words, 0]);
	expect(execFileSync(process.execPath, [program, "--help"], { encoding: "utf8", env: { ...process.env, NODE_OPTIONS: "" } })).toMatch(
		/inspect[\s\S]*break[\s\S]*sample[\s\S]*run[\s\S]*bake/,
	);
});

const cubeObj = (across = 1, long = 1) =>
	[
		...[0, 1, 2, 3, 4, 5, 6, 7].map(
			(k) => `v ${(k & 1 ? 0.5 : -0.5) * across} ${(k & 2 ? 0.5 : -0.5) * long} ${(k & 4 ? 0.5 : -0.5) * across}`,
		),
		"f 5 6 8 7",
		"f 2 1 3 4",
		"f 6 2 4 8",
		"f 1 5 7 3",
		"f 7 8 4 3",
		"f 1 2 6 5",
	].join("\n");
