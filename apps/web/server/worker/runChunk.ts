import { CHUNK_FRAMES, type Chunk, encodeChunk } from "@rubble/core/cache";
import { Cancelled, hashBytes } from "@rubble/core/common";
import {
	type Checkpoint,
	decodeCheckpoint,
	encodeCheckpoint,
	frameHashes,
	makeTake,
	rapierEngine,
	simulate,
	whatHolds,
} from "@rubble/core/simulation";
import { getBlob, putBlob } from "../../app/data/blobs.server";
import { type Claim, endJob, storeChunk } from "../../app/data/jobs.server";
import { throughOutages } from "../../app/data/outage.server";
import { loadTake } from "../../app/data/takes.server";
import type { Tending } from "./workOn";
import { sceneOf } from "./workshop";

/** The next chunk of a take's frames, from its last checkpoint. True where more are to come. */
export async function runChunk(claim: Claim, { signal, onProgress }: Tending): Promise<boolean> {
	const loaded = await loadTake(claim.job.take ?? "");
	if (!loaded) throw new Cancelled();
	const shot = loaded.take.snapshot;
	const { firstFrame, lastFrame } = shot.settings;
	const count = lastFrame - firstFrame + 1;
	const scene = await sceneOf(loaded.id, shot, { signal, onProgress: (_, what) => onProgress(claim.job.fraction, what) });
	const hashes = frameHashes(shot);
	const { kept, checkpoint, begun: next } = whatHolds(loaded.take, hashes, firstFrame);
	if (next > lastFrame) {
		await endJob(claim, "done", `All ${count} frames are stored`);
		return false;
	}
	const from = checkpoint === null ? undefined : await checkpointOf(checkpoint);
	const take = { ...makeTake(loaded.name, shot, scene), chunks: kept };
	const made: { chunk: Chunk; checkpoint: Checkpoint | undefined }[] = [];
	const until = Math.min(lastFrame, next + CHUNK_FRAMES - 1);
	await simulate(scene, rapierEngine, {
		signal,
		onProgress: (fraction, what) => onProgress((next - firstFrame + fraction * (until - next + 1)) / count, what),
		...(from && { from }),
		until,
		onChunk: (chunk, checkpoint) => {
			made.push({ chunk, checkpoint });
		},
	});
	const [done] = made;
	if (signal.aborted || !done?.checkpoint) throw new Cancelled();
	const bytes = encodeChunk(done.chunk);
	const state = encodeCheckpoint(done.checkpoint);
	const facts = { firstFrame: next, frames: done.chunk.frames, hash: hashBytes(bytes), checkpoint: hashBytes(state) };
	const stored = await throughOutages(async () => {
		await putBlob(facts.checkpoint, state);
		await putBlob(facts.hash, bytes);
		return storeChunk(claim, take, facts, (until - firstFrame + 1) / count, `Frame ${until} of ${lastFrame}`);
	});
	if (!stored) throw new Cancelled();
	return true;
}

async function checkpointOf(hash: string): Promise<Checkpoint> {
	const bytes = await getBlob(hash);
	if (!bytes) throw new Error(`The checkpoint ${hash.slice(0, 12)}… is not stored any more; run the take anew`);
	return decodeCheckpoint(new Uint8Array(bytes));
}
