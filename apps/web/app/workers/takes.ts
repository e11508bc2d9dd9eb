import type { BakeOptions } from "@rubble/core/bake";
import { picturesOf } from "@rubble/core/bodies";
import { addChunk, decodeChunk, dropFrom, encodeChunk, type FrameEvents, type FrameStore, lastStored } from "@rubble/core/cache";
import { hashBytes } from "@rubble/core/common";
import { exportTake, TAKE_FORMATS } from "@rubble/core/formats";
import type { AssetRef, Shot } from "@rubble/core/shot";
import {
	chunkToGoOnFrom,
	decodeCheckpoint,
	encodeCheckpoint,
	frameHashes,
	makeTake,
	rapierEngine,
	simulate,
	type Take,
	withChunk,
} from "@rubble/core/simulation";
import { transfer } from "comlink";
import { assetUrl } from "./assetUrl";
import { builtAside, sceneFor } from "./building";
import type { BakedFile, LoadedTake, RunEvents, RunResult } from "./messages";
import { fetchBytes, putAsset, send } from "./network";
import { begin, letMessagesIn } from "./progress";

/** The take on show, and its frames. */
const memory: { take?: { id: string; take: Take }; store: FrameStore } = { store: { bodies: 0, chunks: [] } };

export async function loadTake(shotId: string): Promise<LoadedTake | null> {
	const stored = JSON.parse(new TextDecoder().decode(await fetchBytes(`/api/shots/${shotId}/take`))) as { id: string; take: Take } | null;
	if (!stored) return null;
	memory.take = stored;
	memory.store = { bodies: stored.take.bodies.length, chunks: [] };
	for (const { firstFrame, hash } of stored.take.chunks)
		memory.store = addChunk(memory.store, decodeChunk(await fetchBytes(`/api/takes/${stored.id}/chunks/${firstFrame}?hash=${hash}`)));
	return { ...stored, chunks: memory.store.chunks };
}

export async function run(
	shotId: string,
	shot: Shot,
	onProgress: RunEvents["onProgress"],
	onStart: RunEvents["onStart"],
	onChunk: RunEvents["onChunk"],
): Promise<RunResult> {
	const started = performance.now();
	const signal = begin("run");
	const progress = letMessagesIn(signal, onProgress);
	const { built, scene } = await sceneFor(shot, progress);
	if (built.problems.length > 0) throw new Error(built.problems[0]!.message);
	if (scene.count === 0) throw new Error("Nothing takes part in the simulation yet. Make something active in Weigh.");
	const hashes = frameHashes(shot);
	const { firstFrame, lastFrame } = shot.settings;
	// What still holds of the last run is kept; the run goes on at the last checkpoint before the first stale frame.
	const last = memory.take && chunkToGoOnFrom(memory.take.take, hashes);
	const kept = last ? memory.take!.take.chunks.filter((chunk) => chunk.firstFrame <= last.firstFrame) : [];
	const from = last ? decodeCheckpoint(await fetchBytes(`/api/assets/${last.checkpoint}`)) : undefined;
	const begun = from ? from.frame + 1 : firstFrame;
	let take: Take = { ...makeTake("Take 1", shot, scene), chunks: kept, frameHashes: hashes.slice(0, begun - firstFrame) };
	const { id } = (await send(`/api/shots/${shotId}/take`, "POST", JSON.stringify(take), "application/json")) as { id: string };
	memory.take = { id, take };
	memory.store = { bodies: scene.count, chunks: dropFrom(memory.store, begun).chunks };
	onStart(id, take, begun);
	if (begun > lastFrame) return { finished: true, frame: lastFrame, frames: 0, milliseconds: performance.now() - started };
	let saving: Promise<unknown> = Promise.resolve();
	const result = await simulate(scene, rapierEngine, {
		...progress,
		...(from && { from }),
		onChunk: (chunk, checkpoint) => {
			const bytes = encodeChunk(chunk);
			const hash = hashBytes(bytes);
			const state = checkpoint && encodeCheckpoint(checkpoint);
			const stateHash = state ? hashBytes(state) : null;
			take = withChunk(take, chunk, hash, stateHash, hashes);
			memory.take = { id, take };
			memory.store = addChunk(memory.store, chunk);
			onChunk(chunk, take);
			// Saved in order, beside the simulation; a failure comes up at the end.
			saving = saving.then(async () => {
				if (state) await putAsset(stateHash!, state);
				await send(
					`/api/takes/${id}/chunks/${chunk.firstFrame}?frames=${chunk.frames}&hash=${hash}${stateHash ? `&checkpoint=${stateHash}` : ""}`,
					"PUT",
					bytes as Uint8Array<ArrayBuffer>,
					"application/octet-stream",
				);
			});
			saving.catch(() => undefined);
		},
	});
	try {
		await saving;
	} catch (error) {
		throw new Error(`The run is done, but its frames could not be saved: ${(error as Error).message}. They stay until you leave the page.`);
	}
	return { finished: result.finished, frame: result.frame, frames: result.frame - begun + 1, milliseconds: performance.now() - started };
}

export async function bake(format: string, options: BakeOptions): Promise<BakedFile> {
	if (!memory.take || memory.store.chunks.length === 0) throw new Error("There are no frames to bake. Run the shot first.");
	const shot = memory.take.take.snapshot;
	const built = await builtAside(shot);
	const { firstFrame } = shot.settings;
	const lastFrame = lastStored(memory.store, firstFrame);
	const pictures = new Map<AssetRef, Uint8Array>();
	for (const asset of picturesOf(shot, built.bodies)) pictures.set(asset, await fetchBytes(assetUrl(asset)));
	const scene = exportTake(shot, built.bodies, memory.take.take.bodies, memory.store, { firstFrame, lastFrame }, options, pictures);
	const writer = TAKE_FORMATS.find(({ id }) => id === format);
	if (!writer) throw new Error(`There is no format “${format}”.`);
	const bytes = (await writer.write(scene)).slice();
	return transfer({ bytes, error: scene.baked.error, firstFrame, lastFrame }, [bytes.buffer]);
}

/** Events of all stored frames, one after the other. */
export function allEvents(): FrameEvents | undefined {
	const { chunks } = memory.store;
	if (chunks.length === 0) return undefined;
	const join = <A extends Int32Array | Uint8Array | Float32Array>(pick: (events: FrameEvents) => A): A => {
		const parts = chunks.map((chunk) => pick(chunk.events));
		const out = new (parts[0]!.constructor as new (n: number) => A)(parts.reduce((sum, part) => sum + part.length, 0));
		let at = 0;
		for (const part of parts) {
			out.set(part, at);
			at += part.length;
		}
		return out;
	};
	return { frame: join((e) => e.frame), kind: join((e) => e.kind), a: join((e) => e.a), b: join((e) => e.b), value: join((e) => e.value) };
}

/** What the last run has left. */
export const storedFrames = (): FrameStore | undefined => (memory.store.chunks.length > 0 ? memory.store : undefined);
