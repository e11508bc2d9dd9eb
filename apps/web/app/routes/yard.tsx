import { SAMPLES } from "@rubble/core/samples";
import { parseShot } from "@rubble/core/shot";
import { redirect } from "react-router";
import { mixed, object, string } from "yup";
import { deletePreset, listPresets } from "~/data/presets.server";
import { readJson, refuse, validate } from "~/data/requests.server";
import { createSample, createShot, deleteShot, duplicateShot, listShots, newShot } from "~/data/shots.server";
import { Yard } from "~/yard/Yard";
import type { Route } from "./+types/yard";

export async function loader() {
	return {
		shots: await listShots(),
		presets: await listPresets(),
		samples: SAMPLES.map(({ id, shot }) => ({ id, name: shot.name, note: shot.note })),
	};
}

const schema = object({
	intent: string().oneOf(["new", "sample", "delete", "duplicate", "open", "keep", "forget"]).required(),
	id: string(),
	document: mixed(),
});

export async function action({ request }: Route.ActionArgs) {
	const isJson = request.headers.get("content-type")?.startsWith("application/json");
	const {
		intent,
		id = "",
		document,
	} = isJson ? await readJson(request, schema) : validate(Object.fromEntries(await request.formData()), schema);
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
		case "open":
		case "keep": {
			let value: unknown = document;
			if (typeof document === "string") {
				try {
					value = JSON.parse(document);
				} catch {
					return { message: "The file is no JSON, so it is no shot." };
				}
			}
			const shot = parseShot(value);
			if (!shot.ok) return { message: shot.problems[0]!.message };
			return redirect(`/shots/${await createShot(shot.value)}/shape`);
		}
	}
}

export default function YardPage({ loaderData, actionData }: Route.ComponentProps) {
	return <Yard {...loaderData} message={actionData?.message ?? ""} />;
}
