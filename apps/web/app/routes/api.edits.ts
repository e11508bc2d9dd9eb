import { lastEdits, listEdits, shotAt } from "~/data/edits.server";
import { answer, answering, refuse } from "~/data/requests.server";
import type { Route } from "./+types/api.edits";

/** Steps of undo that a page takes up when it opens a shot. */
const MOST_STEPS = 100;

/**
 * The change log of a shot. `?steps`: the last edits with what takes them back, for undo after a reload. `?revision=`: the whole
 * shot as it was after one of them.
 */
export const loader = answering(async ({ request, params }: Route.LoaderArgs) => {
	const query = new URL(request.url).searchParams;
	if (query.has("steps")) return answer(await lastEdits(params.shot, MOST_STEPS));
	const revision = query.get("revision");
	if (revision === null) return answer(await listEdits(params.shot));
	const shot = /^\d{1,9}$/.test(revision) ? await shotAt(params.shot, Number(revision)) : undefined;
	if (!shot) throw refuse(404, "The change log does not reach back to this revision.");
	return answer(shot);
});
