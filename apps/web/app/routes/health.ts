import { checkHealth } from "~/data/health.server";
import { answering } from "~/data/requests.server";
import type { Route } from "./+types/health";

/** Whether everything works that saving needs; 503 and what is wrong where not. */
export const loader = answering(async (_: Route.LoaderArgs) => {
	const health = await checkHealth();
	return Response.json(health, { status: health.ok ? 200 : 503, headers: { "Cache-Control": "no-store" } });
});
