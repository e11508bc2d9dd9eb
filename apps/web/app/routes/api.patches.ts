import { SHOT_LIMITS } from "@rubble/core/shot";
import { array, mixed, number, object, string } from "yup";
import { knownEdits, patchShot, type SentEdit } from "~/data/edits.server";
import { answer, answering, readJson, refuse } from "~/data/requests.server";
import type { Route } from "./+types/api.patches";

const id = () => string().strict().min(1).max(100).required();
const isStep = (key: unknown): key is string | number => typeof key === "string" || typeof key === "number";
const patch = object({
	op: string().oneOf(["add", "replace", "remove"]).required(),
	path: array(mixed(isStep).required()).max(40).required(),
	/** Anything, nothing (null) too: whether it fits is for the shot to say. */
	value: mixed().nullable(),
}).noUnknown();
const schema = object({
	base: number().strict().integer().min(0).max(SHOT_LIMITS.number).required(),
	edits: array(
		object({
			edit: id(),
			step: id(),
			way: string().oneOf(["do", "undo", "redo"]).required(),
			name: string().strict().min(1).max(200).required(),
			patches: array(patch.required()).max(100_000).required(),
		}).required(),
	)
		.min(1)
		.max(10_000)
		.required(),
});

/** Which of the edits that `?edits=` names (joined by commas) have been made: what a page asks that lost an answer. */
export const loader = answering(async ({ request, params }: Route.LoaderArgs) => {
	const ids = (new URL(request.url).searchParams.get("edits") ?? "").split(",").filter(Boolean);
	if (ids.length > 10_000) throw refuse(413, "These are more edits than a page can have left.");
	return answer(await knownEdits(params.shot, ids));
});

/** Autosave: edits on top of the revision that they start from. 409 where somebody else was faster. */
export const action = answering(async ({ request, params }: Route.ActionArgs) => {
	const { base, edits } = await readJson(request, schema);
	const outcome = await patchShot(params.shot, base, edits as unknown as readonly SentEdit[]);
	switch (outcome.kind) {
		case "saved":
			return answer(outcome);
		case "conflict":
			return Response.json({ ...outcome, message: "The shot was changed elsewhere." }, { status: 409 });
		case "missing":
			return refuse(404, "The shot was deleted.");
		case "invalid":
			return Response.json(outcome, { status: 422 });
	}
});
