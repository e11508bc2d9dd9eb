import type { Patch } from "@rubble/core/shot";
import { array, mixed, number, object, string } from "yup";
import { readJson, refuse } from "~/data/requests.server";
import { patchShot } from "~/data/shots.server";
import type { Route } from "./+types/api.patches";

const schema = object({
	base: number().integer().min(0).required(),
	name: string().max(200).required(),
	patches: array(
		object({
			op: string().oneOf(["add", "replace", "remove"]).required(),
			path: array(mixed<string | number>().required()).required(),
			value: mixed(),
		}),
	)
		.max(100_000)
		.required(),
});

/** Autosave: an edit on top of the revision it starts from. 409 where somebody else was faster. */
export async function action({ request, params }: Route.ActionArgs) {
	const { base, name, patches } = await readJson(request, schema);
	const outcome = await patchShot(params.shot, base, name, patches as unknown as readonly Patch[]);
	switch (outcome.kind) {
		case "saved":
			return Response.json(outcome);
		case "conflict":
			return Response.json({ ...outcome, message: "The shot was changed elsewhere." }, { status: 409 });
		case "missing":
			return refuse(404, "The shot was deleted.");
		case "invalid":
			return refuse(422, outcome.message);
	}
}
