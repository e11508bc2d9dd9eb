import { refuse } from "~/data/requests.server";
import { loadShot } from "~/data/shots.server";
import type { Route } from "./+types/api.shot";

export async function loader({ params }: Route.LoaderArgs) {
	const found = await loadShot(params.shot);
	if (!found) throw refuse(404, "The shot is not here.");
	return Response.json(found.shot);
}
