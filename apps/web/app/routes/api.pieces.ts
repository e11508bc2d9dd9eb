import { decodePieces } from "@rubble/core/fracture";
import { getDerived, putDerived } from "~/data/derived.server";
import { answer, answering, MOST_BLOB_BYTES, readBody, refuse } from "~/data/requests.server";
import type { Route } from "./+types/api.pieces";

const NAME = /^[0-9a-f]{64}$/;

/** Pieces that somebody has broken before, by the hash of their set-up. */
export const loader = answering(async ({ params }: Route.LoaderArgs) => {
	const bytes = NAME.test(params.name) ? await getDerived(params.name) : undefined;
	// Nothing is wrong: they have not been broken yet.
	if (!bytes) return new Response(null, { status: 204 });
	return new Response(bytes as Uint8Array<ArrayBuffer>, { headers: { "Content-Type": "application/octet-stream" } });
});

export const action = answering(async ({ request, params }: Route.ActionArgs) => {
	if (!NAME.test(params.name)) throw refuse(400, "A SHA-256 is needed in the address.");
	const bytes = await readBody(request, MOST_BLOB_BYTES);
	const pieces = decodePieces(bytes);
	if (!pieces.ok) throw refuse(400, pieces.problems[0]!.message);
	await putDerived(params.name, bytes);
	return answer({ ok: true });
});
