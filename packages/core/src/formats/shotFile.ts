import { unzipSync } from "fflate";
import { bad, good, hashBytes, type Outcome, type Progress } from "../common";
import { type AssetRef, assetHash, parseShot, type Shot } from "../shot";
import type { Take } from "../simulation";
import { bytesOf, textOf } from "./text";
import type { NamedFile } from "./types";
import { zipFiles } from "./zip";

/** A take with the bytes that it needs: frame chunks and checkpoints, by their hashes. */
export interface PackedTake {
	readonly name: string;
	readonly note: string;
	readonly take: Take;
	readonly bytes: ReadonlyMap<string, Uint8Array>;
}

export interface ShotFile {
	readonly shot: Shot;
	/** Meshes, pictures and places that the shot and its takes refer to, by hash. */
	readonly assets: ReadonlyMap<string, Uint8Array>;
	readonly takes: readonly PackedTake[];
}

/** Every asset that a shot refers to, each once. */
export const assetsOf = (shot: Shot): AssetRef[] => [...new Set(JSON.stringify(shot).match(/asset:[0-9a-f]{64}/g))] as AssetRef[];

/** Hashes of everything that a take keeps beside its snapshot. */
export const blobsOf = ({ chunks }: Take): string[] =>
	chunks.flatMap(({ hash, checkpoint }) => (checkpoint === null ? [hash] : [hash, checkpoint]));

/** A shot with all that belongs to it as one zip, laid out like the folder that the command line reads. */
export function packShot({ shot, assets, takes }: ShotFile, progress: Progress = {}): Promise<Uint8Array> {
	const files: NamedFile[] = [{ name: "shot.json", bytes: bytesOf(`${JSON.stringify(shot, undefined, 1)}\n`) }];
	for (const [hash, bytes] of [...assets].sort(([a], [b]) => (a < b ? -1 : 1))) files.push({ name: `assets/${hash}`, bytes });
	takes.forEach(({ name, note, take, bytes }, n) => {
		const folder = `takes/${String(n + 1).padStart(3, "0")}`;
		files.push({ name: `${folder}/take.json`, bytes: bytesOf(`${JSON.stringify({ ...take, name, note }, undefined, 1)}\n`) });
		for (const [hash, own] of [...bytes].sort(([a], [b]) => (a < b ? -1 : 1))) files.push({ name: `${folder}/blobs/${hash}`, bytes: own });
	});
	return zipFiles(files, files.length, progress);
}

/** Reads such a zip; every part is checked against its hash, and what is wrong is said with its name. */
export function unpackShot(bytes: Uint8Array): Outcome<ShotFile> {
	let files: Record<string, Uint8Array>;
	try {
		files = unzipSync(bytes);
	} catch {
		return bad("The file is no zip, or it is cut short. Copy it again.");
	}
	// Somebody may have zipped the folder instead of what is in it.
	const root = Object.keys(files).find((name) => /^([^/]+\/)?shot\.json$/.test(name));
	if (root === undefined) return bad("The zip holds no shot.json, so it is no shot file.");
	const base = root.slice(0, -"shot.json".length);
	const json = (name: string): Outcome<unknown> => {
		const text = textOf(files[name]!);
		try {
			return good(JSON.parse(text ?? ""));
		} catch {
			return bad(`“${name}” in the zip is damaged: it is no JSON.`);
		}
	};
	const document = json(root);
	if (!document.ok) return document;
	const shot = parseShot(document.value);
	if (!shot.ok) return shot;
	const assets = new Map<string, Uint8Array>();
	const takes: PackedTake[] = [];
	for (const [name, own] of Object.entries(files)) {
		const asset = name.startsWith(`${base}assets/`) ? name.slice(base.length + 7) : "";
		if (asset === "") continue;
		if (hashBytes(own) !== asset) return bad(`“${name}” in the zip is damaged: its hash differs. Copy the file again.`);
		assets.set(asset, own);
	}
	for (const name of Object.keys(files).sort()) {
		const folder = new RegExp(`^${literal(base)}takes/[^/]+/(?=take\\.json$)`).exec(name)?.[0];
		if (folder === undefined) continue;
		const read = json(name);
		if (!read.ok) return read;
		const take = read.value as Take & { note?: string };
		if (take.format !== "mighty-rubble-take" || take.version !== 1) return bad(`“${name}” in the zip is no take that this version knows.`);
		const blobs = new Map<string, Uint8Array>();
		for (const hash of blobsOf(take)) {
			const own = files[`${folder}blobs/${hash}`];
			if (!own) return bad(`Frames of ${take.name} are missing in the zip. Save the shot again, or without its takes.`);
			if (hashBytes(own) !== hash) return bad(`Frames of ${take.name} in the zip are damaged: their hash differs. Copy the file again.`);
			blobs.set(hash, own);
		}
		takes.push({ name: take.name, note: take.note ?? "", take, bytes: blobs });
	}
	const missing = [shot.value, ...takes.map(({ take }) => take.snapshot)].flatMap(assetsOf).find((asset) => !assets.has(assetHash(asset)));
	if (missing) return bad(`The zip lacks an asset that the shot needs (${assetHash(missing).slice(0, 12)}…). Save the shot again.`);
	return good({ shot: shot.value, assets, takes });
}

/** Of a regular expression. */
const literal = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, "\\$&");
