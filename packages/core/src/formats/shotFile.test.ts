import { unzipSync, zipSync } from "fflate";
import { encodeChunk } from "../cache";
import { hashBytes, hashValue } from "../common";
import { sampleShot } from "../samples";
import { buildShape } from "../shapes";
import { box } from "../shapes/box";
import { addObject, assetRef, edit, type Shot } from "../shot";
import { makeTake, takeHash, withChunk } from "../simulation";
import { runShot } from "../testing";
import { encodeMesh } from ".";
import { packShot, type ShotFile, unpackShot } from "./shotFile";

const mesh = encodeMesh(buildShape(box));
const hash = hashBytes(mesh);
let file: ShotFile;
let packed: Uint8Array;
beforeAll(async () => {
	const scale = sampleShot("spring-scale")!;
	const shot: Shot = edit(
		scale,
		addObject({ id: "brought", name: "Brought", source: { kind: "mesh", asset: assetRef(hash), file: "box.obj", repairs: [] } }),
	).shot;
	const run = await runShot(scale, 24);
	const chunk = encodeChunk(run.store.chunks[0]!);
	const take = withChunk(makeTake("Take 1", scale, run.scene), run.store.chunks[0]!, hashBytes(chunk), null);
	file = {
		shot,
		assets: new Map([[hash, mesh]]),
		takes: [{ name: "Good one", note: "soft", take, bytes: new Map([[hashBytes(chunk), chunk]]) }],
	};
	packed = await packShot(file);
});

test("a shot with assets and takes goes into a file and comes out the same, hash for hash", async () => {
	const read = unpackShot(packed);
	if (!read.ok) throw new Error(read.problems[0]!.message);
	expect(hashValue(JSON.parse(JSON.stringify(read.value.shot)))).toBe(hashValue(JSON.parse(JSON.stringify(file.shot))));
	expect([...read.value.assets.keys()]).toEqual([hash]);
	expect(Buffer.from(read.value.assets.get(hash)!).equals(Buffer.from(mesh))).toBe(true);
	expect(read.value.takes.map(({ name, note, take }) => [name, note, takeHash(take)])).toEqual([
		["Good one", "soft", takeHash(file.takes[0]!.take)],
	]);
	expect(hashBytes(await packShot(read.value))).toBe(hashBytes(packed));
});

test("a folder that was zipped as a whole opens too", () => {
	const inside = Object.fromEntries(Object.entries(unzipSync(packed)).map(([name, bytes]) => [`my shot (1)/${name}`, bytes]));
	expect(unpackShot(zipSync(inside)).ok).toBe(true);
});

test.each<[string, RegExp, (files: Record<string, Uint8Array>) => void]>([
	["no shot in it", /holds no shot\.json/, (files) => delete files["shot.json"]],
	["a damaged asset", /assets\/.* is damaged: its hash differs/, (files) => void (files[`assets/${hash}`]![40]! ^= 1)],
	["a missing asset", /lacks an asset/, (files) => delete files[`assets/${hash}`]],
	[
		"missing frames",
		/Frames of Good one are missing/,
		(files) => delete files[Object.keys(files).find((name) => name.includes("/blobs/"))!],
	],
	[
		"damaged frames",
		/Frames of Good one in the zip are damaged/,
		(files) => void (files[Object.keys(files).find((name) => name.includes("/blobs/"))!]![99]! ^= 1),
	],
	["text that is no JSON", /shot\.json.*no JSON/, (files) => void (files["shot.json"] = new TextEncoder().encode("{"))],
	["a shot that does not fit", /format/, (files) => void (files["shot.json"] = new TextEncoder().encode("{}"))],
])("a file with %s is explained", (_, message, damage) => {
	const files = unzipSync(packed);
	damage(files);
	const read = unpackShot(zipSync(files));
	expect(read.ok ? "" : read.problems[0]!.message).toMatch(message);
});

test("a file that is cut short at any place is explained, never thrown", () => {
	for (let n = 0; n < packed.length; n += Math.ceil(packed.length / 60)) expect(unpackShot(packed.slice(0, n)).ok).toBe(false);
	expect(unpackShot(new TextEncoder().encode("hello")).ok).toBe(false);
});
