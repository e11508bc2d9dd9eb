import { readFileSync } from "node:fs";
import { decode, encode } from "fast-png";
import { encode as encodeJpeg } from "jpeg-js";
import { readPicture } from "../formats";
import { box } from "../shapes/box";
import { loadSolids, scoped, toSolid } from "../solid";
import { expectSound } from "../testing/fracture";
import { breakMesh, methodById, type Picture, type Pieces } from ".";

const bytesOf = (name: string) => new Uint8Array(readFileSync(`packages/core/pictures/${name}.png`));
function shipped(name: string): Picture {
	const picture = readPicture(bytesOf(name));
	if (!picture.ok) throw new Error(picture.problems[0]!.message);
	return picture.value;
}
const wall = (axis: "x" | "z" = "z") =>
	axis === "z" ? box.build({ width: 3, height: 2.25, depth: 0.2 }, {}) : box.build({ width: 0.2, height: 2.25, depth: 3 }, {});
async function lay(picture: Picture, options = {}, mesh = wall()): Promise<Pieces> {
	const result = await breakMesh(await loadSolids(), mesh, methodById("picture")!, options, { pictures: [picture] });
	if (!result.ok) throw new Error(result.problems[0]!.message);
	return result.value;
}
const count = ({ pieces }: Pieces, group: string) => pieces.filter((piece) => piece.name.startsWith(`${group}/`)).length;

test("the bricks of the regular picture are all found, named in rows, and fill the wall with their mortar", async () => {
	const broken = await lay(shipped("bricks"));
	expect(count(broken, "brick")).toBe(6 * 6 + 6 * 7);
	expect(count(broken, "mortar")).toBeGreaterThanOrEqual(78);
	expectSound(wall(), broken);
	// Bars of mortar are nearly convex: their hulls are little more than they are.
	const solids = await loadSolids();
	const excess = broken.pieces
		.filter((piece) => piece.name.startsWith("mortar/"))
		.map((piece) =>
			scoped((hold) => hold(hold(toSolid(solids, { ...piece.mesh, uv: new Float32Array(0) })).hull()).volume() / piece.volume),
		)
		.sort((a, b) => a - b);
	expect(excess[excess.length >> 1]!).toBeLessThan(1.8);
	const [first, second] = [broken.pieces[0]!, broken.pieces[1]!];
	expect([first.name, second.name]).toEqual(["brick/00001", "brick/00002"]);
	expect(first.pivot[0]).toBeLessThan(second.pivot[0]);
	expect(first.pivot[1]).toBeGreaterThan(1);
	// Mortar holds the bricks: each touches some.
	const touching = new Set(broken.contacts.flatMap(({ a, b }) => [a, b]));
	expect(touching.size).toBe(broken.pieces.length);
});

test("the stones of the rubble picture are all found, seen from the side too", async () => {
	const broken = await lay(shipped("rubble"), {}, wall("x"));
	expect(count(broken, "brick")).toBe(80);
	expectSound(wall("x"), broken);
	const gap = await lay(shipped("rubble"), { mortar: "gap" });
	expect(gap.pieces).toHaveLength(80);
	expect(gap.lacking / gap.sourceVolume).toBeGreaterThan(0.05);
});

test("a picture turned bright for dark gives the same stones with light joints", async () => {
	const picture = shipped("bricks");
	const negative = { ...picture, values: picture.values.map((v) => 1 - v) };
	expect(count(await lay(negative, { joints: "light", mortar: "gap" }), "brick")).toBe(78);
});

test("pictures without joints, damaged and foreign files are refused with a sentence", async () => {
	const plain = { width: 64, height: 64, values: new Float32Array(4096).fill(0.5) };
	await expect(lay(plain)).rejects.toThrow(/no joints were found/);
	const problem = (bytes: Uint8Array) => {
		const result = readPicture(bytes);
		return result.ok ? "" : result.problems[0]!.message;
	};
	expect(problem(new Uint8Array())).toMatch(/no picture/);
	expect(problem(new TextEncoder().encode("v 0 0 0"))).toMatch(/PNG or a JPEG/);
	expect(problem(bytesOf("bricks").slice(0, 4000))).toMatch(/cut short/);
	const huge = bytesOf("bricks").slice();
	new DataView(huge.buffer).setUint32(16, 1_000_000);
	expect(problem(huge)).toMatch(/the most (on a side )?is/);
	expect(problem(new Uint8Array([0xff, 0xd8, 0xff, 0]))).toMatch(/damaged/);
});

test("PNG of any depth and JPEG say the same brightness", () => {
	const { width, height, data } = decode(bytesOf("bricks"));
	const grey = Uint8Array.from({ length: width * height }, (_, i) => data[3 * i]!);
	const of = (bytes: Uint8Array) => {
		const result = readPicture(bytes);
		if (!result.ok) throw new Error(result.problems[0]!.message);
		return result.value;
	};
	const eight = of(encode({ width, height, data: grey, channels: 1, depth: 8 }));
	const sixteen = of(encode({ width, height, data: Uint16Array.from(grey, (v) => v * 257), channels: 1, depth: 16 }));
	expect([...sixteen.values.slice(0, 500)].every((v, i) => Math.abs(v - eight.values[i]!) < 1e-6)).toBe(true);
	const rgba = Uint8Array.from({ length: 4 * width * height }, (_, i) => (i % 4 === 3 ? 255 : grey[i >> 2]!));
	const jpeg = of(new Uint8Array(encodeJpeg({ width, height, data: rgba }, 98).data));
	const off = jpeg.values.reduce((sum, v, i) => sum + Math.abs(v - eight.values[i]!), 0) / jpeg.values.length;
	expect(off).toBeLessThan(0.02);
});
