import { answer, answering, refuse } from "~/data/requests.server";
import { loadShot } from "~/data/shots.server";
import type { Route } from "./+types/api.shot";

/** The document of a shot; with `?revision`, which one it is, too. */
export const loader = answering(async ({ request, params }: Route.LoaderArgs) => {
	const found = await loadShot(params.shot);
	if (!found) throw refuse(404, "The shot is not here.");
	return answer(new URL(request.url).searchParams.has("revision") ? found : found.shot);
});
