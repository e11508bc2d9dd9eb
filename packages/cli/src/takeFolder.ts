import { existsSync, rmSync } from "node:fs";
import { join } from "node:path";
import { type Chunk, decodeChunk, type FrameStore, storeOf } from "@rubble/core/cache";
import { hashBytes } from "@rubble/core/common";
import { parseTake, type Take } from "@rubble/core/simulation";
import { Failure, unwrap } from "./failure";
import { isFolder, readBytes } from "./files";

/** Where a take folder keeps things: `take.json`, `frames/<n>.bin`, `assets/<hash>`. Laid out in docs/formats.md. */
export const takeFile = (folder: string): string => join(folder, "take.json");
export const chunkFile = (folder: string, firstFrame: number): string => join(folder, "frames", `${firstFrame}.bin`);
export const assetFolder = (folder: string): string => join(folder, "assets");

/** Clears what an earlier run left, but never a folder that is something else. */
export function prepareFolder(folder: string): void {
	if (isFolder(folder) && !existsSync(takeFile(folder)) && existsSync(join(folder, "frames")))
		throw new Failure(`“${folder}” exists and is no take; name another folder`);
	rmSync(join(folder, "frames"), { recursive: true, force: true });
}

export async function openTake(folder: string): Promise<{ take: Take; store: FrameStore }> {
	let value: unknown;
	try {
		value = JSON.parse(new TextDecoder().decode(readBytes(takeFile(folder))));
	} catch (error) {
		if (error instanceof Failure) throw new Failure(`“${folder}” is no take: it holds no take.json`);
		throw new Failure(`“${takeFile(folder)}” is damaged: ${(error as Error).message}`);
	}
	if ((value as Partial<Take> | null)?.format !== "mighty-rubble-take") throw new Failure(`“${folder}” is no take of Mighty Rubble`);
	const take = unwrap(await parseTake(value));
	const chunks: Chunk[] = [];
	for (const { firstFrame, hash } of take.chunks) {
		const bytes = readBytes(chunkFile(folder, firstFrame));
		if (hashBytes(bytes) !== hash)
			throw new Failure(`the frames from ${firstFrame} on are damaged (their hash differs); run the shot again`);
		chunks.push(decodeChunk(bytes));
	}
	return { take, store: storeOf(take.bodies.length, chunks) };
}
