import { mkdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { basename, dirname, join } from "node:path";
import { makeWorkshop, type Workshop } from "@rubble/core/bodies";
import { decodeMesh, type ImportChoices, joinParts, placeModel, readModel, readPicture } from "@rubble/core/formats";
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

/** A shot file: a `shot.json`, or a folder that holds one with its assets beside it. */
export async function openShot(path: string): Promise<{ shot: Shot; workshop: Workshop }> {
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
	return { shot, workshop: await openWorkshop(join(folder, "assets")) };
}

export const openWorkshop = async (assets: string): Promise<Workshop> =>
	makeWorkshop(await loadSolids(), {
		loadAsset: async (asset) => unwrap(decodeMesh(readBytes(join(assets, assetHash(asset))))),
		loadPicture: async (asset) => unwrap(readPicture(readBytes(join(assets, assetHash(asset))))),
	});

export function isFolder(path: string): boolean {
	try {
		return statSync(path).isDirectory();
	} catch {
		return false;
	}
}
