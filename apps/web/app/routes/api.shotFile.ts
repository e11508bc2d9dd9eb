import { fileStem } from "@rubble/core/formats";
import { create } from "content-disposition";
import { answering, refuse } from "~/data/requests.server";
import { saveShotFile } from "~/data/shotFiles.server";
import type { Route } from "./+types/api.shotFile";

/** The shot as a zip; with `?takes` its frames too. */
export const loader = answering(async ({ params, request }: Route.LoaderArgs) => {
	const file = await saveShotFile(params.shot, new URL(request.url).searchParams.has("takes"));
	if (!file) throw refuse(404, "The shot is not here.");
	return new Response(file.stream, {
		headers: {
			"Content-Type": "application/zip",
			"Content-Disposition": create(`${fileStem(file.name)}.zip`),
			"Cache-Control": "no-store",
		},
	});
});
