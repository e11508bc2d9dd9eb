import { getBlob, putBlob, touchBlob } from "~/data/blobs.server";
import { answer, answering, MOST_BLOB_BYTES, readBody, refuse } from "~/data/requests.server";
import type { Route } from "./+types/api.assets";

const HASH = /^[0-9a-f]{64}$/;

/** Bytes under their SHA-256; they never change, so they may be kept for ever. */
export const loader = answering(async ({ params }: Route.LoaderArgs) => {
	const bytes = HASH.test(params.hash) ? await getBlob(params.hash) : undefined;
	if (!bytes) throw refuse(404, "These bytes are not stored here.");
	return new Response(bytes, {
		headers: { "Content-Type": "application/octet-stream", "Cache-Control": "private, max-age=31536000, immutable" },
	});
});

export const action = answering(async ({ request, params }: Route.ActionArgs) => {
	if (!HASH.test(params.hash)) throw refuse(400, "A SHA-256 is needed in the address.");
	if (request.method !== "PUT") throw refuse(405, "Assets are put.");
	// Read to the end even where it is known: a connection that is answered before that is cut, and the upload fails.
	const bytes = await readBody(request, MOST_BLOB_BYTES);
	if (await touchBlob(params.hash)) return answer({ ok: true });
	if (!(await putBlob(params.hash, bytes))) throw refuse(400, "The bytes do not have this hash; the upload was damaged.");
	return answer({ ok: true });
});
