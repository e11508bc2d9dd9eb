import { crc32 } from "node:zlib";
import { zlibSync } from "fflate";
import { encode as encodeJpeg } from "jpeg-js";
import { buildShape } from "../shapes";
import { box } from "../shapes/box";
import { decodeMesh, encodeMesh, readModel, readPicture, readPixels, readSvg } from ".";

// Small files that announce or unpack to much. Each is told from its announcement, before memory or time is taken.

const text = (content: string): Uint8Array => new TextEncoder().encode(content);
const messageOf = (outcome: { readonly ok: boolean; readonly problems?: readonly { readonly message: string }[] }): string =>
	outcome.ok ? "" : outcome.problems![0]!.message;

function png(width: number, height: number, data: Uint8Array, extra: readonly (readonly [string, Uint8Array])[] = []): Uint8Array {
	const head = new Uint8Array(13);
	const view = new DataView(head.buffer);
	view.setUint32(0, width);
	view.setUint32(4, height);
	head.set([8, 0, 0, 0, 0], 8);
	const parts = [["IHDR", head] as const, ...extra, ["IDAT", data] as const, ["IEND", new Uint8Array()] as const].map(([type, content]) => {
		const chunk = new Uint8Array(12 + content.length);
		const of = new DataView(chunk.buffer);
		of.setUint32(0, content.length);
		chunk.set(text(type), 4);
		chunk.set(content, 8);
		of.setUint32(8 + content.length, crc32(chunk.subarray(4, 8 + content.length)));
		return chunk;
	});
	return Uint8Array.from([[0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10], ...parts.map((part) => [...part])].flat());
}
const zeros = (size: number) => zlibSync(new Uint8Array(size), { level: 9 });

test("a picture that unpacks to far more than its pixels is refused", () => {
	expect(messageOf(readPicture(png(10, 10, zeros(60_000_000))))).toMatch(/more data than it has pixels/);
});

test("a profile that unpacks to a gigabyte is never unpacked", () => {
	// 60 MB in a profile; the picture itself is fine.
	const profile = Uint8Array.from([...text("icc"), 0, 0, ...zeros(60_000_000)]);
	const before = process.memoryUsage().arrayBuffers;
	expect(messageOf(readPicture(png(4, 4, zlibSync(new Uint8Array(20)), [["iCCP", profile]])))).toBe("");
	expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(20e6);
});

test("pictures of one line are refused, long ones that fit are averaged", () => {
	expect(messageOf(readPicture(png(32_000_000, 1, zeros(100))))).toMatch(/most on a side/);
	expect(messageOf(readPicture(png(1, 31_000_000, zeros(100))))).toMatch(/most on a side/);
	expect(messageOf(readPicture(png(30_000, 30_000, zeros(100))))).toMatch(/which take 859 MB/);
	expect(messageOf(readPicture(png(0, 5, zeros(100))))).toMatch(/no pixels/);
	const narrow = readPicture(png(60_000, 1, zlibSync(new Uint8Array(60_001).fill(255, 1))));
	expect(narrow).toMatchObject({ ok: true, value: { width: 1200, height: 1 } });
	// Nothing from beside the picture is averaged in.
	if (narrow.ok) expect([...new Set(narrow.value.values)].map((value) => Math.round(1000 * value))).toEqual([1000]);
});

test("a JPEG of many passes or of too many pixels is refused", () => {
	const whole = new Uint8Array(encodeJpeg({ width: 16, height: 16, data: new Uint8Array(1024) }, 80).data);
	expect(messageOf(readPixels(whole))).toBe("");
	const frame = whole.findIndex((byte, i) => byte === 0xff && whole[i + 1] === 0xc0);
	const large = whole.slice();
	new DataView(large.buffer).setUint16(frame + 5, 9000);
	new DataView(large.buffer).setUint16(frame + 7, 3000);
	expect(messageOf(readPixels(large))).toMatch(/27,000,000 pixels; a JPEG may have/);
	const scan = whole.findIndex((byte, i) => byte === 0xff && whole[i + 1] === 0xda);
	const passes = Uint8Array.from([...whole.subarray(0, scan), ...Array.from({ length: 700_000 }, () => [0xff, 0xda, 0, 2]).flat()]);
	expect(messageOf(readPixels(passes))).toMatch(/goes over its pixels 700,000 times/);
	const broken = whole.slice();
	broken.fill(0xff, scan + 14, scan + 60);
	expect(messageOf(readPixels(broken))).toMatch(/damaged/);
});

test("an OBJ of a million objects, and one of too many vertices", async () => {
	const many = text(`v 0 0 0\nv 1 0 0\nv 0 1 0\n${"o a\nf 1 2 3\n".repeat(1_000_000)}`);
	expect(messageOf(await readModel("a.obj", many))).toMatch(/more than 20,000 objects/);
});

test("a GLB that announces what it does not hold, shows one mesh too often, or holds itself", async () => {
	const glb = (json: object): Uint8Array => {
		const body = text(JSON.stringify({ asset: { version: "2.0" }, scene: 0, scenes: [{ nodes: [0] }], ...json }).padEnd(4 * 400_000, " "));
		const bytes = new Uint8Array(20 + body.length);
		const view = new DataView(bytes.buffer);
		[0x46546c67, 2, bytes.length, body.length, 0x4e4f534a].forEach((word, i) => void view.setUint32(4 * i, word, true));
		bytes.set(body, 20);
		return bytes;
	};
	const one = (accessor: object) => ({
		nodes: [{ mesh: 0 }],
		meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
		accessors: [{ componentType: 5126, type: "VEC3", ...accessor }],
	});
	const say = async (json: object) => messageOf(await readModel("a.glb", glb(json)));
	expect(await say(one({ count: 300_000_000 }))).toMatch(/announce 300,000,000 values/);
	expect(await say(one({ count: 2_000_000 }))).toMatch(/that are not in the file/);
	expect(
		await say({ ...one({ count: 9000, bufferView: 0 }), bufferViews: [{ buffer: 0, byteLength: 36 }], buffers: [{ byteLength: 36 }] }),
	).toMatch(/too short for/);
	expect(await say(one({ count: -3 }))).toMatch(/neither how many/);
	const often = one({ count: 999_999 });
	expect(await say({ ...often, nodes: Array.from({ length: 20_000 }, () => ({ mesh: 0 })) })).toMatch(/placed several times/);
	const nodes = Array.from({ length: 20_000 }, (_, n) => ({ children: n < 19_999 ? [n + 1] : [] }));
	expect(await say({ ...one({ count: 3 }), nodes })).toMatch(/256 deep/);
	expect(await say({ ...one({ count: 3 }), nodes: [{ children: [1] }, { children: [0] }] })).toMatch(/circle/);
	expect(await say({ ...one({ count: 3 }), nodes: [{ children: [0] }] })).toMatch(/in itself/);
});

test("an STL of facets that never end, a PLY of four thousand million faces", async () => {
	expect(messageOf(await readModel("a.stl", text(`solid\n${"facet\n".repeat(240_000)}endsolid`)))).toMatch(/without an end/);
	const head = (faces: string) =>
		text(
			`ply\nformat binary_little_endian 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face ${faces}\nproperty list uchar int vertex_indices\nend_header\n`,
		);
	expect(messageOf(await readModel("a.ply", head("4000000000")))).toMatch(/4,000,000,000 faces/);
	expect(messageOf(await readModel("a.ply", head("4000000")))).toMatch(/cut short/);
});

test("a drawing of five million segments, of too many groups, and of entities that grow", () => {
	const svg = (inside: string, before = "") => text(`${before}<svg viewBox="0 0 9 9">${inside}</svg>`);
	expect(messageOf(readSvg(svg(`<path d="M0 0${"L1 1".repeat(5_000_000)}"/>`)))).toMatch(/up to 8 MB/);
	expect(messageOf(readSvg(svg(`<path d="M0 0${"L1 1".repeat(600_000)}"/>`)))).toMatch(/longer paths/);
	expect(messageOf(readSvg(svg(`${"<g>".repeat(5000)}<path d="M0 0L1 1"/>${"</g>".repeat(5000)}`)))).toMatch(/deep in each other|damaged/);
	const growing = `<!DOCTYPE svg [<!ENTITY a "M0 0L1 1"><!ENTITY b "${"&a;".repeat(50)}"><!ENTITY c "${"&b;".repeat(50)}">]>`;
	expect(messageOf(readSvg(svg('<path d="&c;"/>', growing)))).not.toBe("");
});

test("stored bytes that announce more than they are", () => {
	const mesh = encodeMesh(buildShape(box));
	const view = new DataView(mesh.buffer);
	view.setUint32(4, 4_000_000_000, true);
	expect(messageOf(decodeMesh(mesh))).toMatch(/cut short/);
});
