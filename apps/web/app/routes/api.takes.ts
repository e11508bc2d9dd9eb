import { boolean, mixed, object, string } from "yup";
import { answer, answering, readJson } from "~/data/requests.server";
import { readTake } from "~/data/takeReading.server";
import { createTake, listTakes, shownTake } from "~/data/takes.server";
import type { Route } from "./+types/api.takes";

/** The takes of a shot; with `?shown`, the whole of the one that is on show, or null. */
export const loader = answering(async ({ request, params }: Route.LoaderArgs) => {
	if (new URL(request.url).searchParams.has("shown")) return answer((await shownTake(params.shot)) ?? null);
	return answer(await listTakes(params.shot));
});

const schema = object({ take: mixed().required(), name: string().min(1).max(200).required(), shown: boolean().default(true) });

/** A new take. */
export const action = answering(async ({ request, params }: Route.ActionArgs) => {
	const { take, name, shown } = await readJson(request, schema);
	return answer(await createTake(params.shot, await readTake(take, { shot: params.shot }), { name, shown }));
});
