import { bounds, boundsSize, type Mesh, topology, triangleCount, volume } from "../mesh";
import { ball } from "../shapes/ball";
import { box } from "../shapes/box";
import { MATERIALS } from "../shot";
import { type ExportItem, glb, stillScene } from ".";
import { decodeMesh, encodeMesh, joinParts, placeModel, readModel } from "./import";
import { writeObj } from "./obj";

const cube = box.build({ width: 2, height: 1, depth: 0.5 }, {});
const text = (content: string) => new TextEncoder().encode(content);
const item = (mesh: Mesh, path = "Cube"): ExportItem => ({
	path,
	group: path,
	mesh,
	outside: MATERIALS.concrete!,
	inside: MATERIALS.concrete!,
	translation: [0, 0, 0],
	rotation: [0, 0, 0, 1],
	scale: 1,
	track: -1,
});

const corners = (mesh: Mesh) => [...mesh.triangles].map((v) => [...mesh.positions.subarray(3 * v, 3 * v + 3)]);

function asciiStl(mesh: Mesh): Uint8Array {
	const c = corners(mesh);
	let out = "solid cube\n";
	for (let f = 0; f < c.length; f += 3)
		out += `facet normal 0 0 0\nouter loop\n${[0, 1, 2].map((k) => `vertex ${c[f + k]!.join(" ")}`).join("\n")}\nendloop\nendfacet\n`;
	return text(`${out}endsolid cube\n`);
}

function binaryStl(mesh: Mesh): Uint8Array {
	const c = corners(mesh);
	const bytes = new Uint8Array(84 + 50 * (c.length / 3));
	const view = new DataView(bytes.buffer);
	view.setUint32(80, c.length / 3, true);
	for (let f = 0; f < c.length; f += 3)
		for (let k = 0; k < 3; k++) for (let a = 0; a < 3; a++) view.setFloat32(84 + 50 * (f / 3) + 12 + 12 * k + 4 * a, c[f + k]![a]!, true);
	return bytes;
}

const plyHead = (format: string, mesh: Mesh) =>
	`ply\nformat ${format} 1.0\nelement vertex ${mesh.positions.length / 3}\nproperty float x\nproperty float y\nproperty float z\nelement face ${triangleCount(mesh)}\nproperty list uchar int vertex_indices\nend_header\n`;

function asciiPly(mesh: Mesh): Uint8Array {
	const lines = [];
	for (let v = 0; v < mesh.positions.length; v += 3) lines.push(mesh.positions.subarray(v, v + 3).join(" "));
	for (let f = 0; f < mesh.triangles.length; f += 3) lines.push(`3 ${mesh.triangles.subarray(f, f + 3).join(" ")}`);
	return text(`${plyHead("ascii", mesh)}${lines.join("\n")}\n`);
}

function binaryPly(mesh: Mesh): Uint8Array {
	const head = text(plyHead("binary_little_endian", mesh));
	const bytes = new Uint8Array(head.length + 4 * mesh.positions.length + 13 * triangleCount(mesh));
	bytes.set(head);
	const view = new DataView(bytes.buffer);
	let at = head.length;
	for (const value of mesh.positions) {
		view.setFloat32(at, value, true);
		at += 4;
	}
	for (let f = 0; f < mesh.triangles.length; f += 3) {
		view.setUint8(at++, 3);
		for (let k = 0; k < 3; k++, at += 4) view.setInt32(at, mesh.triangles[f + k]!, true);
	}
	return bytes;
}

const files: [string, () => Uint8Array | Promise<Uint8Array>][] = [
	["cube.obj", () => writeObj([item(cube)])],
	["text.stl", () => asciiStl(cube)],
	["binary.stl", () => binaryStl(cube)],
	["text.ply", () => asciiPly(cube)],
	["binary.ply", () => binaryPly(cube)],
	["cube.glb", () => glb.write(stillScene("Cube", [item(cube)]), {})],
];

test.each(files)("%s comes in closed, with its size and volume", async (name, make) => {
	const model = await readModel(name, await make());
	if (!model.ok) throw new Error(model.problems[0]!.message);
	const mesh = joinParts(model.value.parts);
	expect(topology(mesh)).toMatchObject({ closed: true, shells: 1 });
	expect(volume(mesh)).toBeCloseTo(1, 6);
	expect(boundsSize(bounds(mesh)).map((v) => Number(v.toFixed(6)))).toEqual([2, 1, 0.5]);
});

test("glTF text with embedded data is read, and data kept elsewhere is named", async () => {
	const bytes = new Uint8Array(36 + 6);
	const view = new DataView(bytes.buffer);
	for (const [i, value] of [0, 0, 0, 1, 0, 0, 0, 1, 0].entries()) view.setFloat32(4 * i, value, true);
	for (const i of [0, 1, 2]) view.setUint16(36 + 2 * i, i, true);
	const uri = `data:application/octet-stream;base64,${Buffer.from(bytes).toString("base64")}`;
	const document = (buffer: string) =>
		text(
			JSON.stringify({
				asset: { version: "2.0" },
				scene: 0,
				scenes: [{ nodes: [0] }],
				nodes: [{ mesh: 0, name: "Flag", translation: [0, 2, 0] }],
				meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1, material: 0 }] }],
				materials: [{ pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
				textures: [{ source: 0 }],
				images: [{ uri: "wood.png" }],
				buffers: [{ byteLength: 42, uri: buffer }],
				bufferViews: [
					{ buffer: 0, byteOffset: 0, byteLength: 36 },
					{ buffer: 0, byteOffset: 36, byteLength: 6 },
				],
				accessors: [
					{ bufferView: 0, componentType: 5126, count: 3, type: "VEC3", min: [0, 0, 0], max: [1, 1, 0] },
					{ bufferView: 1, componentType: 5123, count: 3, type: "SCALAR" },
				],
			}),
		);
	const model = await readModel("flag.gltf", document(uri));
	if (!model.ok) throw new Error(model.problems[0]!.message);
	expect(model.value.parts[0]!.name).toBe("Flag");
	expect(bounds(model.value.parts[0]!.mesh)).toEqual({ min: [0, 2, 0], max: [1, 3, 0] });
	const apart = await readModel("flag.gltf", document("flag.bin"));
	expect(apart).toMatchObject({ ok: false, problems: [{ message: expect.stringContaining("flag.bin") }] });
});

test("several objects of a file stay apart, with their names", async () => {
	const model = await readModel("two.obj", writeObj([item(cube, "Crate"), item(ball.build({ radius: 1, detail: 1 }, {}), "Float")]));
	expect(model.ok && model.value.parts.map((part) => part.name)).toEqual(["Crate", "Float"]);
});

test("centimetres and an upright z axis are settled on the way in", () => {
	const placed = placeModel(cube, { unit: "cm", up: "z" });
	expect(boundsSize(bounds(placed)).map((v) => Number(v.toFixed(6)))).toEqual([0.02, 0.005, 0.01]);
	expect(volume(placed)).toBeCloseTo(1e-6, 12);
});

/** Every kind of damage to every kind of file: never a throw, always a sentence. */
test.each(files)("%s, damaged in any way, gets a sentence and never a throw", async (name, make) => {
	const good = await make();
	const damaged: Uint8Array[] = [
		new Uint8Array(0),
		text("hello"),
		new Uint8Array(300).fill(255),
		good.slice(0, 10),
		good.slice(0, Math.floor(good.length / 2)),
		good.slice(0, good.length - 5),
	];
	for (let k = 0; k < 40; k++) {
		const hit = good.slice();
		for (let n = 0; n < 8; n++) hit[(k * 7919 + n * 104_729) % hit.length] = (k * 31 + n * 17) % 256;
		damaged.push(hit);
	}
	let refused = 0;
	for (const bytes of damaged) {
		const model = await readModel(name, bytes);
		if (!model.ok) {
			refused++;
			expect(model.problems[0]!.message.length).toBeGreaterThan(15);
		} else for (const { mesh } of model.value.parts) expect(mesh.positions.every(Number.isFinite)).toBe(true);
	}
	expect(refused).toBeGreaterThanOrEqual(4);
});

test.each([
	["empty.obj", "", /is empty/],
	["cloud.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\n", /holds no faces|no triangles/],
	["bad.obj", "v 0 0 zero\nf 1 1 1\n", /Line 1/],
	["cut.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\nf 1 2 9\n", /Line 5.*vertex 9, but only 3/],
	[
		"cloud.ply",
		"ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n0 0 0\n",
		/points but no faces/,
	],
	["cut.stl", "solid x\nfacet normal 0 0 1\nouter loop\n", /cut short/],
	["mesh.fbx", "x", /no kind that can be opened/],
	["noext", "x", /no kind that can be opened/],
])("%s is refused with what, where and what to do", async (name, content, message) => {
	const model = await readModel(name, text(content));
	expect(model.ok ? "" : model.problems[0]!.message).toMatch(message);
});

test("a stored mesh comes back from its bytes, and damaged bytes are refused", () => {
	const bytes = encodeMesh(cube);
	expect(decodeMesh(bytes)).toEqual({ ok: true, value: cube });
	expect(decodeMesh(bytes.slice(0, 50)).ok).toBe(false);
	expect(decodeMesh(new Uint8Array(20)).ok).toBe(false);
	const broken = bytes.slice();
	new DataView(broken.buffer).setUint32(16 + cube.positions.byteLength, 99, true);
	expect(decodeMesh(broken).ok).toBe(false);
});
