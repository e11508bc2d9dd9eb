import { boolean, mixed, object, string } from "yup";
import { answer, answering, readJson, refuse } from "~/data/requests.server";
import { readTake } from "~/data/takeReading.server";
import { type BegunTake, beginTake, changeTake, deleteTake, duplicateTake, loadTake } from "~/data/takes.server";
import type { Route } from "./+types/api.take";

const facts = object({
	name: string().trim().min(1).max(200),
	note: string().max(2000),
	locked: boolean(),
	picked: boolean(),
	shown: boolean(),
}).noUnknown();

export const loader = answering(async ({ params }: Route.LoaderArgs) => {
	const take = await loadTake(params.take);
	if (!take) throw refuse(404, GONE);
	return answer(take);
});

/** PUT: a run begins into it. PATCH: what is said of it. POST: a copy. DELETE: away with it. */
export const action = answering(async ({ request, params }: Route.ActionArgs) => {
	switch (request.method) {
		case "PUT":
			return done(await beginTake(params.take, await readTake(await readJson(request, mixed().required()), { take: params.take })));
		case "PATCH": {
			const { name, note, locked, picked, shown } = await readJson(request, facts);
			const given = Object.fromEntries(Object.entries({ name, note, locked, picked, shown }).filter(([, value]) => value !== undefined));
			return done(await changeTake(params.take, given));
		}
		case "POST": {
			const copy = await duplicateTake(params.take);
			if (!copy) throw refuse(404, GONE);
			return answer(copy);
		}
		case "DELETE":
			return done(await deleteTake(params.take));
		default:
			throw refuse(405, "This address knows PUT, PATCH, POST and DELETE.");
	}
});

const GONE = "The take was deleted.";

function done(outcome: BegunTake | "done" | "missing" | "locked" | "taken"): Response {
	if (outcome === "missing") throw refuse(404, GONE);
	if (outcome === "locked") throw refuse(409, "The take is locked. Unlock it first.");
	if (outcome === "taken") throw refuse(409, "Another take of this shot has that name.");
	return answer(outcome === "done" ? { ok: true } : outcome);
}
