import { answer, answering, refuse } from "~/data/requests.server";
import { openShotFile } from "~/data/shotFiles.server";
import { listShots } from "~/data/shots.server";
import type { Route } from "./+types/api.shots";

/** Names and ids of all shots, for bringing one into another. */
export const loader = answering(async (_: Route.LoaderArgs) => {
	return answer((await listShots()).map(({ id, name }) => ({ id, name })));
});

/** Opens a shot file as a new shot. */
export const action = answering(async ({ request }: Route.ActionArgs) => {
	const opened = await openShotFile(request);
	if (!opened.ok) throw refuse(422, opened.problems[0]!.message);
	return answer({ id: opened.value });
});
