import { decodeChunk } from "../cache";
import { bad, good, type Hash, hashBytes, type Outcome } from "../common";
import { type AssetRef, assetHash, isStorable, parseShotGently, type Shot } from "../shot";
import { parseTake, type Take } from "../simulation";
import { bytesOf, textOf } from "./text";

/** A take with what is said of it. */
export interface PackedTake {
	readonly name: string;
	readonly note: string;
	readonly take: Take;
}

/** What is in a shot file; bytes of assets and frames lie beside it, under their hashes. */
export interface ShotFile {
	readonly shot: Shot;
	readonly takes: readonly PackedTake[];
}

/** Every asset that a shot refers to, each once. */
export const assetsOf = (shot: Shot): AssetRef[] => [...new Set(JSON.stringify(shot).match(/asset:[0-9a-f]{64}/g))] as AssetRef[];

/** Hashes of everything that a take keeps beside its snapshot, each once. */
export const blobsOf = ({ chunks }: Take): string[] => [
	...new Set(chunks.flatMap(({ hash, checkpoint }) => (checkpoint === null ? [hash] : [hash, checkpoint]))),
];

/** A file in a shot file: its bytes, or the hash of the stored bytes that it holds. */
export type ShotFilePart = { readonly name: string } & ({ readonly bytes: Uint8Array } | { readonly hash: string });

/** The files of a shot with all that belongs to it, laid out like the folder that the command line reads; always in the same order. */
export function* shotFileParts({ shot, takes }: ShotFile): Generator<ShotFilePart> {
	const json = (value: unknown) => bytesOf(`${JSON.stringify(value, undefined, 1)}\n`);
	yield { name: "shot.json", bytes: json(shot) };
	const assets = new Set([shot, ...takes.map(({ take }) => take.snapshot)].flatMap(assetsOf).map(assetHash));
	for (const hash of [...assets].sort()) yield { name: `assets/${hash}`, hash };
	for (const [n, { name, note, take }] of takes.entries()) {
		const folder = `takes/${String(n + 1).padStart(3, "0")}`;
		yield { name: `${folder}/take.json`, bytes: json({ ...take, name, note }) };
		for (const hash of blobsOf(take).sort()) yield { name: `${folder}/blobs/${hash}`, hash };
	}
}

/** The names of the files in an archive, and their bytes one by one. `read` may say what is wrong with the archive there. */
export interface Archive {
	readonly names: readonly string[];
	/** SHA-256 in hexadecimal, where there is a faster one than the core's own. */
	readonly hash?: ((bytes: Uint8Array) => Hash) | undefined;
	readonly read: (name: string) => Outcome<Uint8Array> | Promise<Outcome<Uint8Array>>;
	/** Lets a thread answer others while a long document is looked at. */
	readonly pause?: (() => Promise<void>) | undefined;
}

/**
 * Reads a shot file; every part is checked against its hash, and what is wrong is said with its name. Bytes of assets and frames
 * go to `keep` as they come, so that the whole never lies in memory; what the shot needs is kept once it is known to be whole.
 */
export async function readShotFile(
	{ names, read, hash: hashOf = hashBytes, pause = async () => undefined }: Archive,
	keep: (hash: string, bytes: Uint8Array) => void | Promise<void>,
): Promise<Outcome<ShotFile>> {
	// Somebody may have zipped the folder instead of what is in it.
	const root = names.find((name) => /^([^/]+\/)?shot\.json$/.test(name));
	if (root === undefined) return bad("The zip holds no shot.json, so it is no shot file.");
	const base = root.slice(0, -"shot.json".length);
	const known = new Set(names);
	const json = async (name: string): Promise<Outcome<unknown>> => {
		const bytes = await read(name);
		if (!bytes.ok) return bytes;
		try {
			return good(JSON.parse(textOf(bytes.value) ?? ""));
		} catch {
			return bad(`“${name}” in the zip is damaged: it is no JSON.`);
		}
	};
	const document = await json(root);
	if (!document.ok) return document;
	const parse = (value: unknown) => parseShotGently(value, pause);
	const shot = await parse(document.value);
	if (!shot.ok) return shot;
	const takes: PackedTake[] = [];
	for (const name of [...names].sort()) {
		const folder = name.startsWith(base) ? /^takes\/[^/]+\/(?=take\.json$)/.exec(name.slice(base.length))?.[0] : undefined;
		if (folder === undefined) continue;
		const value = await json(name);
		if (!value.ok) return value;
		const take = await parseTake(value.value, parse);
		if (!take.ok) return bad(`“${name}” in the zip cannot be read. ${take.problems[0]!.message}`);
		const note = (value.value as { note?: unknown }).note ?? "";
		if (typeof note !== "string" || note.length > 2000 || !isStorable(note)) return bad(`“${name}” in the zip has a note that is none.`);
		const chunks = new Map(take.value.chunks.map((chunk) => [chunk.hash, chunk]));
		for (const hash of blobsOf(take.value)) {
			const path = `${base}${folder}blobs/${hash}`;
			if (!known.has(path)) return bad(`Frames of ${take.value.name} are missing in the zip. Save the shot again, or without its takes.`);
			const bytes = await read(path);
			if (!bytes.ok) return bytes;
			if (hashOf(bytes.value) !== hash)
				return bad(`Frames of ${take.value.name} in the zip are damaged: their hash differs. Copy the file again.`);
			const facts = chunks.get(hash);
			if (facts && !holdsFrames(bytes.value, facts, take.value))
				return bad(`Frames of ${take.value.name} in the zip are not those of this take.`);
			await keep(hash, bytes.value);
		}
		takes.push({ name: take.value.name, note, take: take.value });
	}
	for (const hash of new Set([shot.value, ...takes.map(({ take }) => take.snapshot)].flatMap(assetsOf).map(assetHash))) {
		const path = `${base}assets/${hash}`;
		if (!known.has(path)) return bad(`The zip lacks an asset that the shot needs (${hash.slice(0, 12)}…). Save the shot again.`);
		const bytes = await read(path);
		if (!bytes.ok) return bytes;
		if (hashOf(bytes.value) !== hash) return bad(`“${path}” in the zip is damaged: its hash differs. Copy the file again.`);
		await keep(hash, bytes.value);
	}
	return good({ shot: shot.value, takes });
}

function holdsFrames(bytes: Uint8Array, facts: { readonly firstFrame: number; readonly frames: number }, take: Take): boolean {
	try {
		const chunk = decodeChunk(bytes);
		return chunk.firstFrame === facts.firstFrame && chunk.frames === facts.frames && chunk.bodies === take.bodies.length;
	} catch {
		return false;
	}
}
