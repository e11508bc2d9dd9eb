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
import { readShotFile, type ShotFile, shotFileParts } from "./shotFile";
import { archiveOf } from "./unzip";

/** The file as a zip. */
const pack = (file: ShotFile, blobs: ReadonlyMap<string, Uint8Array>): Uint8Array =>
	zipSync(Object.fromEntries([...shotFileParts(file)].map((part) => [part.name, "bytes" in part ? part.bytes : blobs.get(part.hash)!])), {
		mtime: "1980-01-01T00:00:00",
	});

async function unpack(bytes: Uint8Array) {
	const archive = archiveOf(bytes);
	if (!archive.ok) return archive;
	const blobs = new Map<string, Uint8Array>();
	const file = await readShotFile(archive.value, (hash, own) => void blobs.set(hash, own));
	return file.ok ? { ok: true as const, value: { ...file.value, blobs } } : file;
}

const mesh = encodeMesh(buildShape(box));
const hash = hashBytes(mesh);
let file: ShotFile;
let blobs: Map<string, Uint8Array>;
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
	file = { shot, takes: [{ name: "Good one", note: "soft", take }] };
	blobs = new Map([
		[hash, mesh],
		[hashBytes(chunk), chunk],
	]);
	packed = pack(file, blobs);
});

test("a shot with assets and takes goes into a file and comes out the same, hash for hash", async () => {
	const read = await unpack(packed);
	if (!read.ok) throw new Error(read.problems[0]!.message);
	expect(hashValue(JSON.parse(JSON.stringify(read.value.shot)))).toBe(hashValue(JSON.parse(JSON.stringify(file.shot))));
	expect([...read.value.blobs.keys()].sort()).toEqual([...blobs.keys()].sort());
	expect(Buffer.from(read.value.blobs.get(hash)!).equals(Buffer.from(mesh))).toBe(true);
	expect(read.value.takes.map(({ name, note, take }) => [name, note, takeHash(take)])).toEqual([
		["Good one", "soft", takeHash(file.takes[0]!.take)],
	]);
	expect(hashBytes(pack(read.value, read.value.blobs))).toBe(hashBytes(packed));
});

test("a folder that was zipped as a whole opens too", async () => {
	const inside = Object.fromEntries(Object.entries(unzipSync(packed)).map(([name, bytes]) => [`my shot (1)/${name}`, bytes]));
	expect((await unpack(zipSync(inside))).ok).toBe(true);
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
	["frames of another take", /not those of this take/, (files) => changeTake(files, (take) => take.bodies.pop())],
	["hashes that are no list", /frameHashes/, (files) => changeTake(files, (take) => (take.frameHashes = "abc"))],
	["a take whose shot is damaged", /cannot be read/, (files) => changeTake(files, (take) => delete take.snapshot.settings)],
	[
		"chunks that leave out frames",
		/frames from 1 on are expected/,
		(files) => changeTake(files, (take) => (take.chunks[0].firstFrame = 9)),
	],
	["a name that cannot be stored", /cannot be stored/, (files) => changeTake(files, (take) => (take.name = "a\0b"))],
])("a file with %s is explained", async (_, message, damage) => {
	const files = unzipSync(packed);
	damage(files);
	const read = await unpack(zipSync(files));
	expect(read.ok ? "" : read.problems[0]!.message).toMatch(message);
});

test("a file that is cut short at any place is explained, never thrown", async () => {
	for (let n = 0; n < packed.length; n += Math.ceil(packed.length / 60)) expect((await unpack(packed.slice(0, n))).ok).toBe(false);
	expect((await unpack(new TextEncoder().encode("hello"))).ok).toBe(false);
});

test("a zip that unpacks to more than it may, or whose files lie in each other, is refused by its list", () => {
	const limits = { bytes: 1000, entry: 600, entries: 3 };
	const message = (files: Record<string, Uint8Array>, damage: (bytes: Uint8Array) => void = () => undefined) => {
		const bytes = zipSync(files, { level: 9 });
		damage(bytes);
		const archive = archiveOf(bytes, limits);
		return archive.ok ? "" : archive.problems[0]!.message;
	};
	const zeros = (size: number) => new Uint8Array(size);
	expect(message({ a: zeros(500), b: zeros(400) })).toBe("");
	expect(message({ a: zeros(500), b: zeros(501) })).toMatch(/unpacks to more/);
	expect(message({ a: zeros(601) })).toMatch(/“a” in the zip is larger/);
	expect(message({ a: zeros(1), b: zeros(1), c: zeros(1), d: zeros(1) })).toMatch(/holds 4 files; the most is 3/);
	// Two entries that both claim nearly the whole file as their packed bytes.
	const claim = (bytes: Uint8Array) => {
		const view = new DataView(bytes.buffer);
		for (let at = 0; at < bytes.length - 4; at++)
			if (view.getUint32(at, true) === 0x02014b50) view.setUint32(at + 20, bytes.length - 60, true);
	};
	expect(message({ a: zeros(300), b: zeros(300) }, claim)).toMatch(/lie in each other/);
});

function changeTake(files: Record<string, Uint8Array>, change: (take: any) => void): void {
	const name = Object.keys(files).find((one) => one.endsWith("take.json"))!;
	const take = JSON.parse(new TextDecoder().decode(files[name]));
	change(take);
	files[name] = new TextEncoder().encode(JSON.stringify(take));
}
