import type { Take } from "@rubble/core/simulation";
import { boolean, object, string } from "yup";
import { readJson, refuse } from "~/data/requests.server";
import { takeSchema } from "~/data/takeSchema.server";
import { createTake, listTakes, shownTake } from "~/data/takes.server";
import type { Route } from "./+types/api.takes";

/** The takes of a shot; with `?shown`, the whole of the one that is on show, or null. */
export async function loader({ request, params }: Route.LoaderArgs) {
	if (new URL(request.url).searchParams.has("shown")) return Response.json((await shownTake(params.shot)) ?? null);
	return Response.json(await listTakes(params.shot));
}

const schema = object({ take: takeSchema.required(), name: string().min(1).max(200).required(), shown: boolean().default(true) });

/** A new take. */
export async function action({ request, params }: Route.ActionArgs) {
	const { take, name, shown } = await readJson(request, schema);
	try {
		return Response.json(await createTake(params.shot, take as Take, { name, shown }));
	} catch (error) {
		if ((error as { cause?: { code?: string } }).cause?.code === "23503") throw refuse(404, "The shot was deleted.");
		throw error;
	}
}
