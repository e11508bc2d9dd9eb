import { picturesOf } from "@rubble/core/bodies";
import { type Chunk, decodeChunk, lastStored, storeOf } from "@rubble/core/cache";
import { Cancelled, hashBytes } from "@rubble/core/common";
import { exportTake, fileStem, handedOver, TAKE_FORMATS, writeTake } from "@rubble/core/formats";
import type { AssetRef } from "@rubble/core/shot";
import { getBlob, putBlob } from "../../app/data/blobs.server";
import { type Claim, endJob } from "../../app/data/jobs.server";
import { throughOutages } from "../../app/data/outage.server";
import { loadTake } from "../../app/data/takes.server";
import type { Tending } from "./workOn";
import { bodiesOfTake, loadBytes } from "./workshop";

/** A file of a take, stored under its hash, to be fetched from the job. */
export async function bakeTake(claim: Claim, tending: Tending): Promise<void> {
	const stored = await loadTake(claim.job.take ?? "");
	const order = claim.job.bake;
	if (!stored || !order) throw new Cancelled();
	const format = TAKE_FORMATS.find(({ id }) => id === order.format);
	if (!format) throw new Error(`There is no format “${order.format}”`);
	const shot = { ...stored.take.snapshot, colouring: order.colouring };
	const bodies = await bodiesOfTake(shot, tending);
	const chunks: Chunk[] = [];
	for (const { hash } of stored.take.chunks) {
		const bytes = await getBlob(hash);
		if (!bytes) throw new Error("Frames of the take are not stored any more");
		chunks.push(decodeChunk(new Uint8Array(bytes)));
	}
	const store = storeOf(stored.take.bodies.length, chunks);
	const pictures = new Map<AssetRef, Uint8Array>();
	for (const asset of picturesOf(shot, bodies)) pictures.set(asset, await loadBytes(asset));
	const lastFrame = Math.min(order.range.lastFrame, lastStored(store, shot.settings.firstFrame));
	if (lastFrame < order.range.firstFrame) throw new Error("The take holds none of these frames");
	const scene = exportTake(
		{ shot, bodies, takeBodies: stored.take.bodies, store, pictures },
		{ ...order, range: { ...order.range, lastFrame } },
	);
	const bytes = await writeTake(format, scene, tending);
	const hash = hashBytes(bytes);
	await throughOutages(() => putBlob(hash, bytes));
	const { extension, mime } = handedOver(format);
	const frame = (number: number) => String(number).padStart(4, "0");
	const frames = order.part ? `_${frame(order.range.firstFrame)}-${frame(lastFrame)}` : "";
	const name = `${fileStem(shot.name)}${frames}.${extension}`;
	await endJob(claim, "done", `Written: ${name}`, { hash, name, mime, size: bytes.length });
}
