import { answer, answering, readBody, refuse } from "~/data/requests.server";
import { loadPicture, savePicture } from "~/data/shots.server";
import type { Route } from "./+types/api.picture";

const MOST_BYTES = 2 * 1024 * 1024;

export const loader = answering(async ({ params }: Route.LoaderArgs) => {
	const picture = await loadPicture(params.shot);
	if (!picture) throw refuse(404, "There is no picture yet.");
	return new Response(new Uint8Array(picture.bytes), {
		headers: { "Content-Type": picture.type, "Cache-Control": "private, max-age=3600" },
	});
});

export const action = answering(async ({ request, params }: Route.ActionArgs) => {
	const type = request.headers.get("content-type") ?? "";
	if (!["image/png", "image/webp", "image/jpeg"].includes(type)) throw refuse(415, "A PNG, WebP or JPEG picture is needed.");
	await savePicture(params.shot, await readBody(request, MOST_BYTES), type);
	return answer({ ok: true });
});
