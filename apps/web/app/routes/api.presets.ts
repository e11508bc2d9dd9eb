import { parsePreset } from "@rubble/core/shot";
import { mixed } from "yup";
import { deletePreset, keepPreset, listPresets } from "~/data/presets.server";
import { answer, answering, readJson, refuse } from "~/data/requests.server";
import type { Route } from "./+types/api.presets";

export const loader = answering(async (_: Route.LoaderArgs) => {
	return answer(await listPresets());
});

/** Keeps a preset, or deletes the one that `?id=` names. */
export const action = answering(async ({ request }: Route.ActionArgs) => {
	if (request.method === "DELETE") {
		await deletePreset(new URL(request.url).searchParams.get("id") ?? "");
		return answer({});
	}
	const preset = parsePreset(await readJson(request, mixed().required()));
	if (!preset.ok) throw refuse(422, preset.problems[0]!.message);
	return answer(await keepPreset(preset.value));
});
