import { parsePreset } from "@rubble/core/shot";
import { mixed } from "yup";
import { deletePreset, keepPreset, listPresets } from "~/data/presets.server";
import { readJson, refuse } from "~/data/requests.server";
import type { Route } from "./+types/api.presets";

export async function loader() {
	return Response.json(await listPresets());
}

/** Keeps a preset, or deletes the one that `?id=` names. */
export async function action({ request }: Route.ActionArgs) {
	if (request.method === "DELETE") {
		await deletePreset(new URL(request.url).searchParams.get("id") ?? "");
		return Response.json({});
	}
	const preset = parsePreset(await readJson(request, mixed().required()));
	if (!preset.ok) throw refuse(422, preset.problems[0]!.message);
	return Response.json(await keepPreset(preset.value));
}
