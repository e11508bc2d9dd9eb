import { spawnSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { WebIO } from "@gltf-transform/core";
import { ALL_EXTENSIONS } from "@gltf-transform/extensions";
import { decode, encode } from "fast-png";
import { unzipSync } from "fflate";
import validator from "gltf-validator";
import { ALL_FORMATS, BufferSource, Input } from "mediabunny";
import { MeshoptDecoder } from "meshoptimizer";
import { Mesh as ThreeMesh } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { buildBodies, picturesOf } from "../bodies";
import { posesAt } from "../cache";
import { hashBytes } from "../common";
import { rotate } from "../maths";
import { bounds } from "../mesh";
import {
	type AssetRef,
	addArray,
	addObject,
	type Colouring,
	edit,
	type Shot,
	setBody,
	setColouring,
	setFlags,
	setFracture,
	setLink,
} from "../shot";
import { makeTestWorkshop, runShot, shape, shotOf, type TestRun } from "../testing";
import {
	type ExportRange,
	type ExportWish,
	exportTake,
	forecastSize,
	isSequence,
	readModel,
	splitRange,
	TAKE_FORMATS,
	zipSequence,
} from ".";
import type { OneFileFormat } from "./types";

const shot: Shot = shotOf(
	shape("ground", "ground", {}),
	setBody(["ground"], { kind: "passive" }),
	shape("block", "box", { width: 1, height: 1, depth: 1 }, [0, 1.2, 0]),
	setBody(["block"], { kind: "active", spin: [1, 2, 0] }),
	setFracture("f", { object: "block", method: "voronoi", options: { count: 6 } }),
	shape("7 äste", "box", { width: 0.2, height: 0.2, depth: 0.2 }, [3, 0.1, 0]),
	shape("coil", "coil", { radius: 0.15, wire: 0.01, pitch: 0.08, turns: 6, sides: 8, steps: 16 }, [-3, 0, 0]),
	setLink("l", { object: "coil", property: "pitch", source: "block", formula: "(height - height0) / 20", keeps: "bottom", hidden: false }),
);
const LAST = 20;
let folder: string;
let run: TestRun;
let bodies: Awaited<ReturnType<typeof buildBodies>>["bodies"];
beforeAll(async () => {
	folder = mkdtempSync(join(tmpdir(), "rubble-files-"));
	run = await runShot(shot, LAST);
	bodies = (await buildBodies(await makeTestWorkshop(), shot)).bodies;
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const scene = (
	from = shot,
	range: ExportRange | number = LAST,
	pictures: Map<AssetRef, Uint8Array> = new Map(),
	more: Partial<ExportWish> = {},
) =>
	exportTake(
		{ shot: from, bodies, takeBodies: run.scene.ids.map((id, i) => ({ id, path: run.scene.paths[i]! })), store: run.store, pictures },
		{
			range: typeof range === "number" ? { firstFrame: 1, lastFrame: range } : range,
			keys: { way: "every", frames: 1 },
			size: { width: 160, height: 90 },
			...more,
		},
	);
const write = async (id: string, lastFrame = LAST): Promise<Uint8Array> => {
	const format = TAKE_FORMATS.find((one) => one.id === id)!;
	const made = scene(shot, lastFrame);
	return isSequence(format) ? zipSequence(format, made) : format.write(made, {});
};
/** As a program that is not ours understands it. */
function readUsd(name: string, bytes: Uint8Array, only?: "layer") {
	const file = join(folder, name);
	writeFileSync(file, bytes);
	const { stdout, stderr } = spawnSync(process.execPath, ["packages/core/src/testing/readUsd.mjs", file, ...(only ? [only] : [])], {
		encoding: "utf8",
		env: { ...process.env, NODE_OPTIONS: "" },
		maxBuffer: 1e8,
	});
	expect(stderr).toBe("");
	return JSON.parse(stdout) as {
		asLayer: boolean;
		loaded: boolean;
		error: string;
		text: string;
		meshes: { name: string; points: number }[];
	};
}
/** The block of text of a prim. */
function primText(text: string, name: string): string {
	const begin = text.indexOf(`"${name}"`);
	const indent = /(?<=\n) *(?=def Xform "[^"]*"$)/.exec(text.slice(0, begin + name.length + 2))?.[0] ?? "";
	return text.slice(begin, text.indexOf(`\n${indent}}`, begin));
}
const samples = (text: string, property: string): Map<number, number[]> =>
	new Map(
		[
			...text
				.slice(text.indexOf(`${property}.timeSamples`))
				.split("}")[0]!
				.matchAll(/(\d+): \(([^)]*)\)/g),
		].map((match) => [Number(match[1]), match[2]!.split(",").map(Number)]),
	);

describe.each(["usda", "usdz"])("%s, read by another program", (format) => {
	test("every piece is at every frame where the cache has it, under names that are legal", async () => {
		const { asLayer, loaded, error, text, meshes } = readUsd(`take.${format}`, await write(format));
		expect([asLayer, loaded, error]).toEqual([true, true, ""]);
		for (const line of ["metersPerUnit = 1", 'upAxis = "Y"', "timeCodesPerSecond = 24", "startTimeCode = 1", `endTimeCode = ${LAST}`])
			expect(text).toContain(line);
		expect(meshes.map(({ name }) => name)).toEqual(
			expect.arrayContaining(["/Test/block/p_00001/mesh", "/Test/block/p_00006/mesh", "/Test/p_7_aste/mesh", "/Test/coil/mesh"]),
		);
		let compared = 0;
		run.scene.paths.forEach((path, i) => {
			if (!path.startsWith("block/")) return;
			const prim = primText(text, `p_${path.split("/")[1]}`);
			const places = samples(prim, "xformOp:translate");
			const turns = samples(prim, "xformOp:orient");
			for (let frame = 1; frame <= LAST; frame++) {
				const pose = [...posesAt(run.store, frame)!.subarray(7 * i, 7 * i + 7)];
				places.get(frame)!.forEach((v, k) => {
					expect(v).toBeCloseTo(pose[k]!, 5); // 0.01 mm
				});
				const [w, x, y, z] = turns.get(frame)! as [number, number, number, number];
				const side = x * pose[3]! + y * pose[4]! + z * pose[5]! + w * pose[6]! < 0 ? -1 : 1;
				[x, y, z, w].forEach((v, k) => {
					expect(side * v).toBeCloseTo(pose[3 + k]!, 5); // 0.001°
				});
				compared++;
			}
		});
		expect(compared).toBe(6 * LAST);
		expect(primText(text, "p_00001")).toContain("/Materials/Concrete>");
		expect(primText(text, "p_00001")).toContain("/Materials/Raw_concrete>");
	});
});

test("USDZ stores its files uncompressed at multiples of 64 bytes", async () => {
	const bytes = await write("usdz");
	const view = new DataView(bytes.buffer, bytes.byteOffset);
	let at = 0;
	let files = 0;
	while (view.getUint32(at, true) === 0x04034b50) {
		expect([view.getUint16(at + 6, true) & 8, view.getUint16(at + 8, true)]).toEqual([0, 0]);
		const begin = at + 30 + view.getUint16(at + 26, true) + view.getUint16(at + 28, true);
		expect(begin % 64).toBe(0);
		at = begin + view.getUint32(at + 18, true);
		files++;
	}
	expect(files).toBe(1);
});

test("a shape that a link changes is written at key frames, in USD as points, in GLB as shapes", async () => {
	const { text } = readUsd("coil.usda", await write("usda"));
	const coil = primText(text, "coil");
	const shapes = [...coil.slice(coil.indexOf("points.timeSamples")).matchAll(/\n\s+(\d+): \[([^\]]*)\]/g)];
	const heights = shapes.map((match) => {
		const ys = [...match[2]!.matchAll(/\(([^)]*)\)/g)].map((point) => Number(point[1]!.split(",")[1]));
		return Math.max(...ys) - Math.min(...ys);
	});
	const item = scene().items.find(({ path }) => path === "coil")!;
	expect(shapes.map((match) => Number(match[1]))).toEqual([...item.changing!.frames]);
	expect(heights[0]! - heights.at(-1)!).toBeGreaterThan(0.05);
	const { min, max } = bounds(item.changing!.meshAt(LAST));
	expect(heights.at(-1)).toBeCloseTo(max[1] - min[1], 5);
});

/** Vertices that are in no item's place by more than 0.01 mm. */
function misplaced(frame: number, parts: readonly { name: string; positions: Float32Array }[]): number {
	let wrong = 0;
	for (const { name, positions } of parts) {
		const i = run.scene.paths.indexOf(name);
		const { mesh } = bodies.find((body) => body.path === name)!;
		const [x, y, z, ...turn] = posesAt(run.store, frame)!.subarray(7 * i, 7 * i + 7);
		const found = new Set<string>();
		const key = (p: readonly number[]) => p.map((v) => Math.round(v * 5e3)).join();
		for (let v = 0; v < positions.length; v += 3)
			for (const dx of [-1e-5, 1e-5])
				for (const dy of [-1e-5, 1e-5])
					for (const dz of [-1e-5, 1e-5]) found.add(key([positions[v]! + dx, positions[v + 1]! + dy, positions[v + 2]! + dz]));
		for (let v = 0; v < mesh.positions.length; v += 3) {
			const p = rotate(
				turn as unknown as [number, number, number, number],
				[...mesh.positions.subarray(v, v + 3)] as [number, number, number],
			);
			if (!found.has(key([p[0] + x!, p[1] + y!, p[2] + z!]))) wrong++;
		}
	}
	return wrong;
}

test("copies as points: another program reads places, turns and sizes of all at every frame, exact to float32", async () => {
	const pile = shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("stone", "box", { width: 0.2, height: 0.2, depth: 0.2 }),
		setFlags(["stone"], { hidden: true }),
		addArray({
			id: "row",
			name: "Row",
			source: { kind: "array", sources: ["stone"], layout: "line", options: { count: 5, stepX: 0.5, smallest: 0.5, largest: 2, seed: 4 } },
			translation: [0, 1, 0],
		}),
		setBody(["row"], { kind: "active", spin: [1, 2, 3] }),
	);
	const tumbled = await runShot(pile, 12);
	const built = (await buildBodies(await makeTestWorkshop(), pile)).bodies;
	const takeBodies = tumbled.scene.ids.map((id, i) => ({ id, path: tumbled.scene.paths[i]! }));
	const made = exportTake(
		{ shot: pile, bodies: built, takeBodies, store: tumbled.store },
		{ range: { firstFrame: 1, lastFrame: 12 }, keys: { way: "every", frames: 1 } },
	);
	const bytes = await (TAKE_FORMATS.find(({ id }) => id === "usda-points") as OneFileFormat).write(made, {});
	const { asLayer, error, text } = readUsd("points.usda", bytes);
	expect([asLayer, error]).toEqual([true, ""]);
	const rows = built.filter(({ origin }) => origin === "copy");
	const attribute = (name: string, frame: number) => {
		const from = text.indexOf(`${frame}: [`, text.indexOf(`${name}.timeSamples`));
		return [...text.slice(from, text.indexOf("]", from)).matchAll(/\(([^)]*)\)/g)].map((match) => match[1]!.split(",").map(Number));
	};
	expect(text).toMatch(/def PointInstancer "copies"/);
	expect(text).toMatch(
		/rel prototypes = <\/Test\/Row\/copies\/Prototypes\/mesh>|rel prototypes = \[<\/Test\/Row\/copies\/Prototypes\/mesh>\]/,
	);
	for (const frame of [1, 7, 12]) {
		const [places, turns] = [attribute("positions", frame), attribute("orientationsf", frame)];
		expect([places.length, turns.length]).toEqual([5, 5]);
		rows.forEach(({ id }, n) => {
			const at = 7 * tumbled.scene.ids.indexOf(id);
			const pose = [...posesAt(tumbled.store, frame)!.subarray(at, at + 7)];
			places[n]!.forEach((value, k) => {
				expect(Math.abs(value - pose[k]!)).toBeLessThan(1e-5);
			});
			const [w, x, y, z] = turns[n]!;
			const dot = x! * pose[3]! + y! * pose[4]! + z! * pose[5]! + w! * pose[6]!;
			expect(2 * Math.acos(Math.min(1, Math.abs(dot)))).toBeLessThan(0.01 * (Math.PI / 180));
		});
	}
	const scales = /float3\[\] scales = \[([^\]]*)\]/
		.exec(text)![1]!
		.match(/\(([^,]*)/g)!
		.map((part) => Number(part.slice(1)));
	rows.forEach(({ scale }, n) => {
		expect(scales[n]).toBeCloseTo(scale, 5);
	});
	// The mesh stands there once.
	expect(text.match(/def Mesh/g)).toHaveLength(1);
});

test("an OBJ sequence has a safely named file a frame; another reader finds each piece where the cache has it", async () => {
	const files = unzipSync(await write("obj-sequence"));
	expect(Object.keys(files).slice(0, 3)).toEqual(["test.mtl", "test_0001.obj", "test_0002.obj"]);
	expect(Object.keys(files)).toHaveLength(LAST + 1);
	for (const frame of [1, 11, LAST]) {
		const model = await readModel("frame.obj", files[`test_${String(frame).padStart(4, "0")}.obj`]!);
		if (!model.ok) throw new Error(model.problems[0]!.message);
		const pieces = model.value.parts.filter(({ name }) => name.startsWith("block/"));
		expect(pieces).toHaveLength(6);
		expect(
			misplaced(
				frame,
				pieces.map(({ name, mesh }) => ({ name, positions: mesh.positions })),
			),
		).toBe(0);
	}
	expect(new TextDecoder().decode(files["test.mtl"])).toMatch(/newmtl Concrete\nKd [\d.]+ [\d.]+ [\d.]+/);
});

test("a PLY sequence is read whole, and its pieces are named in the head", async () => {
	const files = unzipSync(await write("ply-sequence", 3));
	expect(Object.keys(files)).toEqual(["test_0001.ply", "test_0002.ply", "test_0003.ply"]);
	const model = await readModel("frame.ply", files["test_0003.ply"]!);
	if (!model.ok) throw new Error(model.problems[0]!.message);
	const triangles = scene().items.reduce((sum, { mesh }) => sum + mesh.triangles.length, 0);
	expect(model.value.parts[0]!.mesh.triangles).toHaveLength(triangles);
	const low = bounds(model.value.parts[0]!.mesh).min[1];
	expect(low).toBeLessThan(0.1);
	expect(new TextDecoder().decode(files["test_0001.ply"]!.subarray(0, 600))).toMatch(/comment piece 0 block\/00001/);
});

test("JSON Lines hold every frame in order and the events among them", async () => {
	const lines = new TextDecoder()
		.decode(await write("jsonl"))
		.trim()
		.split("\n")
		.map((line) => JSON.parse(line) as Record<string, unknown>);
	expect(lines[0]).toMatchObject({ format: "mighty-rubble-lines", fps: 24, frames: [1, LAST] });
	const frames = lines.filter((line) => "translations" in line);
	expect(frames.map(({ frame }) => frame)).toEqual(Array.from({ length: LAST }, (_, i) => i + 1));
	const n = (lines[0]!.bodies as string[]).indexOf("block/00002");
	const i = run.scene.paths.indexOf("block/00002");
	const read = (frames[9]!.translations as number[][])[n]!;
	read.forEach((v, k) => {
		expect(Math.fround(v)).toBe(posesAt(run.store, 10)![7 * i + k]);
	});
	const events = lines.filter((line) => "event" in line);
	expect(events.length).toBeGreaterThan(0);
	expect(events[0]).toMatchObject({ event: "contact", unit: "N s", a: "ground", b: expect.stringMatching(/^block\//) });
	// Where blows happened: with the ground where the piece is, between two pieces in their middle.
	const placeIn = (frame: number, path: string) =>
		(frames.find((line) => line.frame === frame)!.translations as number[][])[(lines[0]!.bodies as string[]).indexOf(path)]!;
	for (const event of events as { frame: number; a: string; b: string; at: number[] }[]) {
		const places = [event.a, event.b].filter((path) => path.startsWith("block/")).map((path) => placeIn(event.frame, path));
		event.at.forEach((x, k) => {
			expect(x).toBeCloseTo(places.reduce((sum, place) => sum + place[k]!, 0) / places.length, 5);
		});
	}
});

test("the frame cache is read by the example program", async () => {
	const files = unzipSync(await write("cache"));
	for (const [name, bytes] of Object.entries(files)) writeFileSync(join(folder, name), bytes);
	const python = spawnSync("python3", ["docs/examples/read_frames.py", folder, "12", "block/00003"], { encoding: "utf8" });
	if (python.error) return; // no Python on this machine
	const i = run.scene.paths.indexOf("block/00003");
	expect(python.stderr).toBe("");
	const [name, ...values] = python.stdout.trim().split(" ");
	expect(name).toBe("block/00003");
	expect(values.map((v) => Math.fround(Number(v)))).toEqual([...posesAt(run.store, 12)!.subarray(7 * i, 7 * i + 7)]);
	expect(spawnSync("python3", ["docs/examples/read_frames.py", folder], { encoding: "utf8" }).stdout).toMatch(
		/bodies, 20 frames at 24 fps/,
	);
});

test.each(TAKE_FORMATS.map(({ id }) => id))(
	"%s: writing the same take again gives the same bytes, in a longer range others",
	async (id) => {
		const once = hashBytes(await write(id, 4));
		expect(hashBytes(await write(id, 4))).toBe(once);
		expect(hashBytes(await write(id, 5))).not.toBe(once);
	},
);

test.each(TAKE_FORMATS.filter(({ workersOnly }) => !workersOnly).map((format) => [format.id, format] as const))(
	"%s: its size is told beforehand within a tenth",
	async (id, format) => {
		const size = (await write(id)).length;
		const told = (await forecastSize(scene(), format))!;
		expect([id, told / size]).toEqual([id, expect.closeTo(1, 0.5)]);
		expect(told / size).toBeGreaterThan(0.67);
		expect(told / size).toBeLessThan(1.5);
	},
);

test("hidden things and things without end reach no file", () => {
	const hidden = edit(shot, setFlags(["7 äste"], { hidden: true })).shot;
	expect(scene(hidden).items.map(({ path }) => path)).not.toContain("7 äste");
	expect(scene().items.map(({ path }) => path)).not.toContain("ground");
});

test("a gradient colours bodies in PLY, GLB and USD, over time where it moves", async () => {
	const colouring: Colouring = {
		by: "height",
		from: 0,
		to: 1.5,
		size: 1,
		seed: 1,
		moving: true,
		formula: "",
		stops: [
			[0, "#000000"],
			[1, "#ffffff"],
		],
	};
	const made = scene(edit(shot, setColouring(colouring)).shot);
	const index = made.items.findIndex(({ path }) => path === "block/00001");
	const [first, last] = [made.items[index]!.colourAt!(1), made.items[index]!.colourAt!(LAST)];
	expect(first[0]).toBeGreaterThan(last[0] + 0.1);
	const ply = TAKE_FORMATS.find(({ id }) => id === "ply-sequence")!;
	if (!isSequence(ply)) throw new Error("no sequence");
	const grey = (frame: number) => {
		const { bytes } = ply.frame(made, frame);
		const head = new TextDecoder("latin1").decode(bytes.subarray(0, 3000)).indexOf("end_header\n") + 11;
		const before = made.items.slice(0, index).reduce((sum, { mesh }) => sum + mesh.positions.length / 3, 0);
		return bytes[head + 19 * before + 12]!;
	};
	const place = posesAt(run.store, LAST)![7 * run.scene.paths.indexOf("block/00001") + 1]!;
	expect(Math.abs(grey(LAST) - (255 * place) / 1.5)).toBeLessThan(1.5);
	expect(grey(1)).toBeGreaterThan(grey(LAST));
	const text = new TextDecoder().decode(await (TAKE_FORMATS.find(({ id }) => id === "usda") as OneFileFormat).write(made, {}));
	expect(samples(primText(text, "p_00001"), "primvars:displayColor").size).toBe(0);
	expect(primText(text, "p_00001")).toMatch(/primvars:displayColor\.timeSamples = \{\n\s+1: \[\(/);
	const glb = await (TAKE_FORMATS.find(({ id }) => id === "glb") as OneFileFormat).write(made, {});
	const root = (await new WebIO().readBinary(glb as Uint8Array<ArrayBuffer>)).getRoot();
	const node = root.listNodes().find((one) => one.getName() === "block/00001")!;
	const colour = node.getMesh()!.listPrimitives()[0]!.getAttribute("COLOR_0")!.getElement(0, []);
	expect(colour[0]).toBeCloseTo(first[0], 5);
	// In USD the surface that is bound reads the colours from the mesh: from binding to shader to what it is connected with.
	const bound = /rel material:binding = <[^>]*\/Materials\/([^>]+)>/.exec(primText(text, "p_00001"))![1]!;
	const material = text.slice(text.indexOf(`def Material "${bound}"`));
	const surface = /color3f inputs:diffuseColor\.connect = <[^>]*\/([^/.]+)\.outputs:result>/.exec(material)![1]!;
	const shader = material.slice(material.indexOf(`def Shader "${surface}"`));
	expect(/info:id = "([^"]+)"/.exec(shader)![1]).toBe("UsdPrimvarReader_float3");
	expect(/inputs:varname = "([^"]+)"/.exec(shader)![1]).toBe("displayColor");
	const shown = [...primText(text, "p_00001").matchAll(/^\s+(\d+): \[\(([^)]+)\)\],$/gm)].map(([, frame, rgb]) => [
		Number(frame),
		rgb!.split(", ").map(Number),
	]);
	expect(shown).toHaveLength(LAST);
	for (const [frame, rgb] of shown as [number, number[]][])
		for (const [k, value] of made.items[index]!.colourAt!(frame).entries()) expect(rgb[k]).toBeCloseTo(value, 4);
	const layer = readUsd("coloured.usda", new TextEncoder().encode(text), "layer");
	expect(layer).toMatchObject({ asLayer: true, error: "" });
	expect(layer.text).toMatch(/inputs:diffuseColor\.connect = <\/Test\/Materials\/Concrete_coloured\/Colour\.outputs:result>/);
	// A foreign reader of glTF takes the vertices' colours, and its material tints nothing.
	for (const id of ["glb", "glb-skin"]) {
		const bytes = await (TAKE_FORMATS.find((one) => one.id === id) as OneFileFormat).write(made, {});
		const { scene: read } = await new GLTFLoader().parseAsync(bytes.slice().buffer as ArrayBuffer, "");
		const coloured: { readonly colour: readonly number[]; readonly tint: readonly number[] }[] = [];
		read.traverse((one) => {
			if (!(one instanceof ThreeMesh) || !one.geometry.hasAttribute("color")) return;
			expect(one.material.vertexColors).toBe(true);
			coloured.push({ colour: [...one.geometry.getAttribute("color").array], tint: one.material.color.toArray() });
		});
		expect(coloured.length).toBeGreaterThan(0);
		for (const { tint } of coloured) expect(tint).toEqual([1, 1, 1]);
		expect(coloured.some(({ colour }) => colour.some((red) => Math.abs(red - first[0]) < 1e-5))).toBe(true);
	}
	const report = await validator.validateBytes(glb);
	expect(report.issues.messages.filter(({ severity }) => severity < 2)).toEqual([]);
});

test("as one skin every piece is a bone: at any frame its vertices are where the cache has the piece", async () => {
	const file = await (TAKE_FORMATS.find(({ id }) => id === "glb-skin") as OneFileFormat).write(scene(), {});
	const report = await validator.validateBytes(file);
	expect(report.issues.messages.filter(({ severity }) => severity < 2)).toEqual([]);
	const root = (await new WebIO().readBinary(file as Uint8Array<ArrayBuffer>)).getRoot();
	expect([root.listMeshes().length, root.listSkins().length]).toEqual([1, 1]);
	const joints = root.listSkins()[0]!.listJoints();
	expect(joints.map((joint) => joint.getName()).slice(0, 6)).toEqual(
		scene()
			.items.slice(0, 6)
			.map(({ path }) => path),
	);
	const binds = root.listSkins()[0]!.getInverseBindMatrices()!;
	const bone = joints.findIndex((joint) => joint.getName() === "block/00002");
	const i = run.scene.paths.indexOf("block/00002");
	const { mesh } = bodies.find(({ path }) => path === "block/00002")!;
	// Bind pose back into the piece's frame: those are the vertices of its mesh.
	const own = new Set<string>();
	for (let v = 0; v < mesh.positions.length; v += 3) own.add([...mesh.positions.subarray(v, v + 3)].map((x) => x.toFixed(4)).join());
	let compared = 0;
	for (const primitive of root.listMeshes()[0]!.listPrimitives()) {
		const [place, joint] = [primitive.getAttribute("POSITION")!, primitive.getAttribute("JOINTS_0")!];
		const m = binds.getElement(bone, []);
		for (let v = 0; v < place.getCount(); v++) {
			if (joint.getElement(v, [])[0] !== bone) continue;
			const [x, y, z] = place.getElement(v, [0, 0, 0]);
			const local = [0, 1, 2].map((k) => m[k]! * x + m[4 + k]! * y + m[8 + k]! * z + m[12 + k]!);
			const near = [-1, 0, 1].some((d) => own.has(local.map((c) => (Math.round(c * 1e4 + 0.4 * d) / 1e4 + 0).toFixed(4)).join()));
			expect([v, near]).toEqual([v, true]);
			compared++;
		}
	}
	expect(compared).toBeGreaterThan(10);
	const channel = root
		.listAnimations()[0]!
		.listChannels()
		.find((one) => one.getTargetNode() === joints[bone] && one.getTargetPath() === "translation")!;
	const values = channel.getSampler()!.getOutput()!.getArray()!;
	for (let k = 0; k < 3; k++) expect(values[3 * 9 + k]).toBeCloseTo(posesAt(run.store, 10)![7 * i + k]!, 6);
});

test("packed GLB is much smaller, and a reader that knows the packing finds everything within a thousandth of its size", async () => {
	const [plain, packed] = [await write("glb"), await write("glb-small")];
	expect(packed.length).toBeLessThan(0.6 * plain.length);
	await MeshoptDecoder.ready;
	const io = new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({ "meshopt.decoder": MeshoptDecoder });
	const [one, other] = [await io.readBinary(plain), await io.readBinary(packed)];
	const used = other
		.getRoot()
		.listExtensionsUsed()
		.map(({ extensionName }) => extensionName);
	expect(used).toEqual(expect.arrayContaining(["KHR_mesh_quantization", "EXT_meshopt_compression"]));
	const nodes = (document: typeof one) =>
		new Map(
			document
				.getRoot()
				.listNodes()
				.map((node) => [node.getName(), node]),
		);
	const [before, after] = [nodes(one), nodes(other)];
	for (const [name, node] of before) {
		if (!node.getMesh()) continue;
		const twin = after.get(name)!;
		// Quantised meshes may hang under a node of their own that sizes them back.
		const carrier = twin.getMesh() ? twin : twin.listChildren().find((child) => child.getMesh())!;
		const box = (from: typeof node) => {
			const m = from.getWorldMatrix();
			const box = { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] };
			for (const primitive of from.getMesh()!.listPrimitives()) {
				const places = primitive.getAttribute("POSITION")!;
				for (let v = 0; v < places.getCount(); v++) {
					const p = places.getElement(v, []);
					for (let k = 0; k < 3; k++) {
						const x = m[k]! * p[0]! + m[4 + k]! * p[1]! + m[8 + k]! * p[2]! + m[12 + k]!;
						box.min[k] = Math.min(box.min[k]!, x);
						box.max[k] = Math.max(box.max[k]!, x);
					}
				}
			}
			return [...box.min, ...box.max];
		};
		box(carrier).forEach((value, k) => {
			expect(Math.abs(value - box(node)[k]!)).toBeLessThan(0.001);
		});
	}
	expect(other.getRoot().listAnimations()[0]!.listChannels().length).toBe(one.getRoot().listAnimations()[0]!.listChannels().length);
});

test("age colours by how long a body has moved; OBJ vertices carry the gradient", async () => {
	const colouring: Colouring = {
		by: "age",
		from: 0,
		to: 1,
		size: 1,
		seed: 1,
		moving: false,
		formula: "",
		stops: [
			[0, "#000000"],
			[1, "#ffffff"],
		],
	};
	const made = scene(edit(shot, setColouring(colouring)).shot);
	const obj = TAKE_FORMATS.find(({ id }) => id === "obj-sequence")!;
	const files = unzipSync(await zipSequence(obj as never, made));
	const first = (frame: string) => {
		const text = Buffer.from(Object.entries(files).find(([name]) => name.endsWith(`_${frame}.obj`))![1]).toString();
		return text.slice(text.indexOf("o block/")).split("\n")[1]!.split(" ").map(Number);
	};
	// x y z and then a grey that grows with the seconds since the start (linear light of a half is 0.214).
	expect(first("0001").slice(4)).toEqual([0, 0, 0]);
	expect(first("0013")[4]).toBeCloseTo(0.214, 2);
});

test("colours of a picture go into files, each piece that of its place", async () => {
	const left = Uint8Array.from([255, 0, 0, 0, 0, 255]);
	const picture: AssetRef = "asset:0000000000000000000000000000000000000000000000000000000000000001";
	const colouring: Colouring = {
		by: "picture",
		from: 0,
		to: 1,
		size: 1,
		seed: 1,
		moving: false,
		formula: "",
		stops: [[0, "#000000"]],
		picture: { picture, seen: "front", middle: [0, 1.2, 0], width: 1 },
	};
	const painted = edit(shot, setColouring(colouring)).shot;
	expect(picturesOf(painted, bodies)).toEqual([picture]);
	const pictures = new Map([[picture, encode({ width: 2, height: 1, data: left, channels: 3 })]]);
	const made = scene(painted, 2, pictures);
	const pieces = made.items.filter(({ path }) => path.startsWith("block/"));
	expect(pieces).toHaveLength(6);
	for (const { translation, colourAt } of pieces) expect(colourAt!(2)).toEqual(translation[0] < 0 ? [1, 0, 0] : [0, 0, 1]);
});

test("a video and pictures show each frame through the shot's camera; other programs read them", async () => {
	const filmed = edit(
		shot,
		addObject({
			id: "eye",
			name: "Eye",
			source: { kind: "camera", fieldOfView: 40, near: 0.1, far: 100, aim: "block" },
			translation: [3, 2, 4],
		}),
	).shot;
	const made = scene(filmed, 9);
	const png = TAKE_FORMATS.find(({ id }) => id === "png")!;
	if (!isSequence(png)) throw new Error("no sequence");
	const files = unzipSync(await zipSequence(png, made));
	expect(Object.keys(files)).toHaveLength(9);
	const first = decode(files["test_0001.png"]!);
	expect([first.width, first.height, first.channels]).toEqual([160, 90, 3]);
	expect(Buffer.compare(Buffer.from(files["test_0001.png"]!), Buffer.from(files["test_0009.png"]!))).not.toBe(0);
	// What the camera is aimed at is in the middle, darker than the ground around.
	const middle = 3 * (45 * 160 + 80);
	expect(first.data[middle]).not.toBe(first.data[3 * (85 * 160 + 5)]);
	const listening = () => ["uncaughtException", "unhandledRejection"].map((event) => process.listenerCount(event));
	const before = listening();
	const bytes = await (TAKE_FORMATS.find(({ id }) => id === "video") as OneFileFormat).write(made, {});
	// Its encoder would end the process with any promise that fails alone.
	expect(listening()).toEqual(before);
	const input = new Input({ source: new BufferSource(bytes as Uint8Array<ArrayBuffer>), formats: ALL_FORMATS });
	const track = (await input.getPrimaryVideoTrack())!;
	const { packetCount, averagePacketRate } = await track.computePacketStats();
	expect([track.codec, track.displayWidth, track.displayHeight, packetCount]).toEqual(["avc", 160, 90, 9]);
	expect(averagePacketRate).toBeCloseTo(24, 1);
	expect(await forecastSize(made, TAKE_FORMATS.find(({ id }) => id === "video")!)).toBeUndefined();
});

test("a range is split without a gap; the files of its parts are those of the whole", async () => {
	expect(splitRange({ firstFrame: 3, lastFrame: 12 }, 4)).toEqual([
		{ firstFrame: 3, lastFrame: 6 },
		{ firstFrame: 7, lastFrame: 10 },
		{ firstFrame: 11, lastFrame: 12 },
	]);
	expect(splitRange({ firstFrame: 3, lastFrame: 12 })).toEqual([{ firstFrame: 3, lastFrame: 12 }]);
	const obj = TAKE_FORMATS.find(({ id }) => id === "obj-sequence")!;
	if (!isSequence(obj)) throw new Error("no sequence");
	const whole = unzipSync(await write("obj-sequence", 9));
	const parts = splitRange({ firstFrame: 1, lastFrame: 9 }, 4).map(async (range) => unzipSync(await zipSequence(obj, scene(shot, range))));
	const joined = Object.assign({}, ...(await Promise.all(parts)));
	expect(Object.keys(joined).sort()).toEqual(Object.keys(whole).sort());
	for (const [name, bytes] of Object.entries(whole)) expect([name, hashBytes(joined[name])]).toEqual([name, hashBytes(bytes)]);
});
