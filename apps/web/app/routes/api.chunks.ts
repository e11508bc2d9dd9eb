import { SHOT_LIMITS } from "@rubble/core/shot";
import { number, object, string } from "yup";
import { getBlob, putBlob, touchBlob } from "~/data/blobs.server";
import { answer, answering, MOST_BLOB_BYTES, readBody, refuse, validate } from "~/data/requests.server";
import { addTakeChunk, chunkHash } from "~/data/takes.server";
import type { Route } from "./+types/api.chunks";

const hash = () => string().matches(/^[0-9a-f]{64}$/);
const schema = object({
	run: string().min(1).max(100).required(),
	frames: number().integer().min(1).max(100_000).required(),
	hash: hash().required(),
	checkpoint: hash().nullable().default(null),
});

/** Frames of a take from `frame` on. The address with its hash never changes its meaning. */
export const loader = answering(async ({ params, request }: Route.LoaderArgs) => {
	const known = await chunkHash(params.take, Number(params.frame));
	const bytes = known && (await getBlob(known));
	if (!bytes) throw refuse(404, "These frames are not stored.");
	const keep = new URL(request.url).searchParams.get("hash") === known ? "private, max-age=31536000, immutable" : "no-store";
	return new Response(bytes, { headers: { "Content-Type": "application/octet-stream", "Cache-Control": keep } });
});

export const action = answering(async ({ request, params }: Route.ActionArgs) => {
	const query = Object.fromEntries(new URL(request.url).searchParams);
	const facts = validate(query, schema);
	const firstFrame = Number(params.frame);
	if (!Number.isInteger(firstFrame) || Math.abs(firstFrame) > SHOT_LIMITS.frame)
		throw refuse(400, "A frame number is needed in the address.");
	const checkpoint = facts.checkpoint ?? null;
	if (checkpoint !== null && !(await touchBlob(checkpoint))) throw refuse(409, "The checkpoint is not stored yet.");
	if (!(await putBlob(facts.hash, await readBody(request, MOST_BLOB_BYTES))))
		throw refuse(400, "The frames do not have this hash; the upload was damaged.");
	const outcome = await addTakeChunk(params.take, facts.run, { firstFrame, frames: facts.frames, hash: facts.hash, checkpoint });
	if (outcome === "missing") throw refuse(404, "The take was deleted.");
	if (outcome === "locked") throw refuse(409, "The take was locked while it ran; unlock it, or run into another one");
	if (outcome === "elsewhere") throw refuse(409, "Another window or worker runs this take now; what this one makes goes nowhere");
	return answer({ ok: true });
});
