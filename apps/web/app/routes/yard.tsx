import { SAMPLES } from "@rubble/core/samples";
import { parseShot } from "@rubble/core/shot";
import { redirect } from "react-router";
import { mixed, object, string } from "yup";
import { deletePreset, listPresets } from "~/data/presets.server";
import { answering, faultOf, readForm, readJson, refuse, validate } from "~/data/requests.server";
import {
	createSample,
	createShot,
	deleteShot,
	duplicateShot,
	emptyTrash,
	listShots,
	newShot,
	restoreShot,
	TRASH_DAYS,
} from "~/data/shots.server";
import { Yard } from "~/yard/Yard";
import type { Route } from "./+types/yard";

export const loader = answering(async (_: Route.LoaderArgs) => {
	return {
		shots: await listShots(),
		trash: await listShots(true),
		trashDays: TRASH_DAYS,
		presets: await listPresets(),
		samples: SAMPLES.map(({ id, shot }) => ({ id, name: shot.name, note: shot.note })),
	};
});

const schema = object({
	intent: string().oneOf(["new", "sample", "delete", "duplicate", "open", "keep", "forget", "restore", "purge"]).required(),
	id: string().max(100),
	document: mixed(),
});

export const action = answering(async ({ request }: Route.ActionArgs) => {
	const isJson = request.headers.get("content-type")?.startsWith("application/json");
	const { intent, id = "", document } = isJson ? await readJson(request, schema) : validate(await readForm(request), schema);
	switch (intent) {
		case "new":
			return redirect(`/shots/${await newShot("New shot")}/shape`);
		case "sample": {
			const made = await createSample(id);
			if (!made) throw refuse(404, "There is no such sample.");
			return redirect(`/shots/${made}/run`);
		}
		case "duplicate":
			await duplicateShot(id);
			return { message: "" };
		case "forget":
			await deletePreset(id);
			return { message: "" };
		case "delete":
			await deleteShot(id);
			return { message: "" };
		case "restore":
			await restoreShot(id);
			return { message: "" };
		case "purge":
			await emptyTrash(id);
			return { message: "" };
		case "open":
		case "keep": {
			let value: unknown = document;
			if (typeof document === "string") {
				try {
					value = JSON.parse(document);
				} catch {
					return { message: "The file is no JSON, so it is no shot." };
				}
				const fault = faultOf(value);
				if (fault) return { message: fault };
			}
			const shot = parseShot(value);
			if (!shot.ok) return { message: shot.problems[0]!.message };
			return redirect(`/shots/${await createShot(shot.value)}/shape`);
		}
	}
});

export default function YardPage({ loaderData, actionData }: Route.ComponentProps) {
	return <Yard {...loaderData} message={actionData?.message ?? ""} />;
}
