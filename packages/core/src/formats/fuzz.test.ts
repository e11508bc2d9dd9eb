import { jest } from "@jest/globals";
import { encode as encodePng } from "fast-png";
import { zipSync } from "fflate";
import { encode as encodeJpeg } from "jpeg-js";
import { buildPieces, decodePlaces, encodePlaces } from "../bodies";
import { decodeChunk, encodeChunk } from "../cache";
import type { Outcome } from "../common";
import { decodePieces, encodePieces } from "../fracture";
import { sampleShot } from "../samples";
import { buildShape } from "../shapes";
import { box } from "../shapes/box";
import { parsePreset, parseShot, setFracture } from "../shot";
import { decodeCheckpoint, encodeCheckpoint, makeTake, parseTake } from "../simulation";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { fuzzSeed, lots, mutateBytes, mutateValue, RAW } from "../testing/mutate";
import { decodeMesh, encodeMesh, glb, readModel, readPicture, readPixels, readSvg, stillScene } from ".";
import { writeObj } from "./obj";
import { readShotFile } from "./shotFile";
import { archiveOf } from "./unzip";

/** Of each kind. */
const FILES = 2000;

const text = (content: string): Uint8Array => new TextEncoder().encode(content);
const mesh = buildShape(box);
const item = { path: "Box", mesh, translation: [0, 0, 0] } as never;

function stl(binary: boolean): Uint8Array {
	const corner = (c: number) => [...mesh.positions.subarray(3 * mesh.triangles[c]!, 3 * mesh.triangles[c]! + 3)];
	const count = mesh.triangles.length / 3;
	if (!binary)
		return text(
			`solid box\n${Array.from({ length: count }, (_, f) => `facet normal 0 0 0\nouter loop\n${[0, 1, 2].map((k) => `vertex ${corner(3 * f + k).join(" ")}`).join("\n")}\nendloop\nendfacet\n`).join("")}endsolid\n`,
		);
	const bytes = new Uint8Array(84 + 50 * count);
	const view = new DataView(bytes.buffer);
	view.setUint32(80, count, true);
	for (let f = 0; f < count; f++)
		for (let k = 0; k < 3; k++) corner(3 * f + k).forEach((value, a) => void view.setFloat32(96 + 50 * f + 12 * k + 4 * a, value, true));
	return bytes;
}

function ply(binary: boolean): Uint8Array {
	const count = mesh.triangles.length / 3;
	const head = `ply\nformat ${binary ? "binary_little_endian" : "ascii"} 1.0\nelement vertex ${mesh.positions.length / 3}\nproperty float x\nproperty float y\nproperty float z\nelement face ${count}\nproperty list uchar int vertex_indices\nend_header\n`;
	if (!binary) {
		const triples = (list: ArrayLike<number>) =>
			Array.from({ length: list.length / 3 }, (_, i) => [list[3 * i], list[3 * i + 1], list[3 * i + 2]].join(" "));
		return text(`${head}${[...triples(mesh.positions), ...triples(mesh.triangles).map((line) => `3 ${line}`)].join("\n")}\n`);
	}
	const bytes = new Uint8Array(head.length + 4 * mesh.positions.length + 13 * count);
	bytes.set(text(head));
	const view = new DataView(bytes.buffer);
	let at = head.length;
	for (const value of mesh.positions) {
		view.setFloat32(at, value, true);
		at += 4;
	}
	for (let f = 0; f < count; f++) {
		view.setUint8(at++, 3);
		for (let k = 0; k < 3; k++, at += 4) view.setInt32(at, mesh.triangles[3 * f + k]!, true);
	}
	return bytes;
}

const picture = { width: 24, height: 16, data: Uint8Array.from({ length: 24 * 16 * 4 }, (_, i) => (i * 37) & 255) };
const svg = text(
	'<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 80"><g transform="translate(2 3)"><path d="M0 0L10 10C20 20 30 5 40 40Z"/><circle cx="4" cy="9" r="2"/><polyline points="0,0 5,5 9,1"/></g></svg>',
);

type Reader = (bytes: Uint8Array) => Outcome<unknown> | Promise<Outcome<unknown>>;
const model =
	(name: string): Reader =>
	(bytes) =>
		readModel(name, bytes);
const json =
	(parse: (value: unknown) => ReturnType<Reader>): Reader =>
	(bytes) => {
		try {
			return parse(JSON.parse(new TextDecoder().decode(bytes)));
		} catch (error) {
			if (error instanceof SyntaxError) return { ok: false, problems: [{ message: "It is no JSON." }] };
			throw error;
		}
	};

async function examples(): Promise<Record<string, { readonly bytes: Uint8Array; readonly read: Reader }>> {
	const scene = stillScene("Box", [
		{
			path: "Box",
			group: "Box",
			mesh,
			outside: sampleShot("spring-scale")!.materials.concrete!,
			inside: sampleShot("spring-scale")!.materials.concrete!,
			translation: [0, 0, 0],
			rotation: [0, 0, 0, 1],
			scale: 1,
			track: -1,
		},
	]);
	const binary = await glb.write(scene, {});
	const shot = sampleShot("spring-scale")!;
	const short = { ...shot, settings: { ...shot.settings, lastFrame: 3 } };
	let state: Uint8Array | undefined;
	const run = await runShot(short, 3, undefined, (checkpoint) => {
		state = encodeCheckpoint(checkpoint);
	});
	const block = shotOf(
		shape("block", "box", { width: 1, height: 1, depth: 1 }),
		setFracture("f", { object: "block", method: "voronoi", options: { count: 4 } }),
	);
	const pieces = await buildPieces(await makeTestWorkshop(), block, "block");
	if (!pieces?.ok) throw new Error("not broken");
	const chunk = encodeChunk(run.store.chunks[0]!);
	const shotFile = zipSync({ "shot.json": text(JSON.stringify(shot)) });
	return {
		OBJ: { bytes: writeObj([item]), read: model("a.obj") },
		"STL, text": { bytes: stl(false), read: model("a.stl") },
		"STL, binary": { bytes: stl(true), read: model("a.stl") },
		"PLY, text": { bytes: ply(false), read: model("a.ply") },
		"PLY, binary": { bytes: ply(true), read: model("a.ply") },
		GLB: { bytes: binary, read: model("a.glb") },
		PNG: { bytes: encodePng({ ...picture, channels: 4, depth: 8 }), read: readPicture },
		JPEG: { bytes: new Uint8Array(encodeJpeg(picture, 80).data), read: readPixels },
		SVG: { bytes: svg, read: readSvg },
		"a shot": { bytes: text(JSON.stringify(shot)), read: json(parseShot) },
		"a take": { bytes: text(JSON.stringify(makeTake("Take", short, run.scene))), read: json(parseTake) },
		"a preset": {
			bytes: text(JSON.stringify({ name: "Rubble", method: "voronoi", options: { count: 9 }, again: [] })),
			read: json(parsePreset),
		},
		"a shot file": {
			bytes: shotFile,
			read: async (bytes) => {
				const archive = archiveOf(bytes);
				return archive.ok ? readShotFile(archive.value, () => undefined) : archive;
			},
		},
		"a stored mesh": { bytes: encodeMesh(mesh), read: decodeMesh },
		"stored pieces": { bytes: encodePieces(pieces.value), read: decodePieces },
		"kept places": {
			bytes: encodePlaces({ format: "mighty-rubble-places", version: 1, bodies: { a: ["m", 0, 0, 0, 0, 0, 0, 1] } }),
			read: decodePlaces,
		},
		// These are our own, under their hashes: they may throw, but only to say that they are damaged.
		"a chunk": { bytes: chunk, read: throwing(decodeChunk) },
		"a checkpoint": { bytes: state!, read: throwing(decodeCheckpoint) },
	};
}

const throwing =
	(decode: (bytes: Uint8Array) => unknown): Reader =>
	(bytes) => {
		try {
			decode(bytes);
			return { ok: true, value: undefined };
		} catch (error) {
			if (/^decode\w+: /.test((error as Error).message)) return { ok: false, problems: [{ message: (error as Error).message }] };
			throw error;
		}
	};

// The loaders tell the console what they pass over.
beforeAll(() => {
	for (const kind of ["log", "warn", "error"] as const) jest.spyOn(console, kind).mockImplementation(() => undefined);
});

test("files of every kind, damaged at random, are read or explained in a sentence; the next one works", async () => {
	const seed = fuzzSeed("files");
	const faults: string[] = [];
	for (const [kind, { bytes, read }] of Object.entries(await examples())) {
		const whole = await read(bytes);
		expect([kind, whole.ok || whole.problems[0]!.message]).toEqual([kind, true]);
		for (let n = 0; n < FILES && faults.length < 20; n++) {
			const lot = lots(seed + n);
			const damaged = mutateBytes(bytes, lot);
			try {
				const outcome = await read(damaged);
				const message = outcome.ok ? "Fine." : outcome.problems[0]!.message;
				// What it quotes is the file's.
				if (RAW.test(message.replace(/“[^”]*”/g, "")) || !/[.!]$|^decode/.test(message)) faults.push(`${kind} ${n}: ${message}`);
			} catch (error) {
				faults.push(`${kind} ${n}: thrown ${error}`);
			}
		}
		expect((await read(bytes)).ok).toBe(true);
	}
	expect(faults).toEqual([]);
}, 600_000);

test("documents with wrong values are valid or explained, never thrown at", () => {
	const seed = fuzzSeed("documents");
	const faults: string[] = [];
	for (const sample of ["breakwater-strike", "slipway-stack", "sign-letters"]) {
		const shot = sampleShot(sample)!;
		for (let n = 0; n < FILES / 2 && faults.length < 20; n++)
			try {
				const outcome = parseShot(mutateValue(shot, lots(seed + n)));
				if (!outcome.ok && outcome.problems.some(({ message }) => /is not a function|Cannot read|Maximum call/.test(message)))
					faults.push(`${sample} ${n}: ${outcome.problems[0]!.message}`);
			} catch (error) {
				faults.push(`${sample} ${n}: thrown ${error}`);
			}
	}
	expect(faults).toEqual([]);
}, 600_000);
