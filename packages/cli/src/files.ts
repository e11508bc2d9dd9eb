import { cpSync, mkdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { basename, dirname, join, resolve } from "node:path";
import { decodePlaces, makeWorkshop, type Workshop } from "@rubble/core/bodies";
import {
	archiveOf,
	decodeMesh,
	type ImportChoices,
	joinParts,
	placeModel,
	readModel,
	readPicture,
	readShotFile,
} from "@rubble/core/formats";
import type { Mesh } from "@rubble/core/mesh";
import { assetHash, parseShot, type Shot } from "@rubble/core/shot";
import { loadSolids } from "@rubble/core/solid";
import { Failure, unwrap } from "./failure";

export function readBytes(path: string): Uint8Array {
	try {
		return new Uint8Array(readFileSync(path));
	} catch (error) {
		const code = (error as NodeJS.ErrnoException).code;
		throw new Failure(code === "ENOENT" ? `there is no file “${path}”` : `“${path}” cannot be read (${code})`);
	}
}

export function writeBytes(path: string, bytes: Uint8Array | string): void {
	try {
		mkdirSync(dirname(path), { recursive: true });
		writeFileSync(path, bytes);
	} catch (error) {
		throw new Failure(`“${path}” cannot be written (${(error as NodeJS.ErrnoException).code})`);
	}
}

export const writeJson = (path: string, value: unknown): void => writeBytes(path, `${JSON.stringify(value, undefined, 1)}\n`);

/** A mesh file in metres, y up, all its parts as one. */
export async function readMesh(path: string, choices: ImportChoices): Promise<Mesh> {
	const model = unwrap(await readModel(basename(path), readBytes(path)));
	return placeModel(joinParts(model.parts), choices);
}

/** Assets beside a shot or a take, by their hashes. */
export interface Assets {
	readonly read: (hash: string) => Uint8Array;
	/** Puts all of them into another folder. */
	readonly copyTo: (folder: string) => void;
}

export const assetsIn = (folder: string): Assets => ({
	read: (hash) => readBytes(join(folder, hash)),
	copyTo: (other) => {
		if (isFolder(folder) && resolve(folder) !== resolve(other)) cpSync(folder, other, { recursive: true });
	},
});

/** A shot: a `shot.json`, a folder that holds one with its assets beside it, or a shot file (zip). */
export async function openShot(path: string): Promise<{ shot: Shot; workshop: Workshop; assets: Assets }> {
	if (path.endsWith(".zip")) {
		const held = new Map<string, Uint8Array>();
		const { shot } = unwrap(await readShotFile(unwrap(archiveOf(readBytes(path))), (hash, bytes) => void held.set(hash, bytes)));
		const assets: Assets = {
			read: (hash) => held.get(hash)!,
			copyTo: (folder) => {
				for (const [hash, bytes] of held) writeBytes(join(folder, hash), bytes);
			},
		};
		return { shot, assets, workshop: await openWorkshop(assets) };
	}
	const folder = isFolder(path) ? path : dirname(path);
	const file = isFolder(path) ? join(path, "shot.json") : path;
	let value: unknown;
	try {
		value = JSON.parse(new TextDecoder().decode(readBytes(file)));
	} catch (error) {
		if (error instanceof Failure) throw error;
		throw new Failure(`“${file}” is no JSON: ${(error as Error).message}`);
	}
	const shot = unwrap(parseShot(value));
	const assets = assetsIn(join(folder, "assets"));
	return { shot, assets, workshop: await openWorkshop(assets) };
}

export const openWorkshop = async ({ read }: Assets): Promise<Workshop> =>
	makeWorkshop(await loadSolids(), {
		loadAsset: async (asset) => unwrap(decodeMesh(read(assetHash(asset)))),
		loadPicture: async (asset) => unwrap(readPicture(read(assetHash(asset)))),
		loadPlaces: async (asset) => unwrap(decodePlaces(read(assetHash(asset)))),
	});

export function isFolder(path: string): boolean {
	try {
		return statSync(path).isDirectory();
	} catch {
		return false;
	}
}
