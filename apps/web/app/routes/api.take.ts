import type { Take } from "@rubble/core/simulation";
import { boolean, object, string } from "yup";
import { readJson, refuse } from "~/data/requests.server";
import { takeSchema } from "~/data/takeSchema.server";
import { beginTake, changeTake, deleteTake, duplicateTake, loadTake } from "~/data/takes.server";
import type { Route } from "./+types/api.take";

const facts = object({
	name: string().trim().min(1).max(200),
	note: string().max(2000),
	locked: boolean(),
	picked: boolean(),
	shown: boolean(),
}).noUnknown();

export async function loader({ params }: Route.LoaderArgs) {
	const take = await loadTake(params.take);
	if (!take) throw refuse(404, GONE);
	return Response.json(take);
}

/** PUT: a run begins into it. PATCH: what is said of it. POST: a copy. DELETE: away with it. */
export async function action({ request, params }: Route.ActionArgs) {
	switch (request.method) {
		case "PUT":
			return answer(await beginTake(params.take, (await readJson(request, takeSchema)) as Take));
		case "PATCH": {
			const { name, note, locked, picked, shown } = await readJson(request, facts);
			const given = Object.fromEntries(Object.entries({ name, note, locked, picked, shown }).filter(([, value]) => value !== undefined));
			return answer(await changeTake(params.take, given));
		}
		case "POST": {
			const copy = await duplicateTake(params.take);
			if (!copy) throw refuse(404, GONE);
			return Response.json(copy);
		}
		case "DELETE":
			return answer(await deleteTake(params.take));
		default:
			throw refuse(405, "This address knows PUT, PATCH, POST and DELETE.");
	}
}

const GONE = "The take was deleted.";

function answer(outcome: "begun" | "done" | "missing" | "locked" | "taken"): Response {
	if (outcome === "missing") throw refuse(404, GONE);
	if (outcome === "locked") throw refuse(409, "The take is locked. Unlock it first.");
	if (outcome === "taken") throw refuse(409, "Another take of this shot has that name.");
	return Response.json({ ok: true });
}
