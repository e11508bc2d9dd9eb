import { fileStem } from "@rubble/core/formats";
import { refuse } from "~/data/requests.server";
import { saveShotFile } from "~/data/shotFiles.server";
import type { Route } from "./+types/api.shotFile";

/** The shot as a zip; with `?takes` its frames too. */
export async function loader({ params, request }: Route.LoaderArgs) {
	const file = await saveShotFile(params.shot, new URL(request.url).searchParams.has("takes"));
	if (!file) throw refuse(404, "The shot is not here.");
	return new Response(file.bytes as Uint8Array<ArrayBuffer>, {
		headers: { "Content-Type": "application/zip", "Content-Disposition": `attachment; filename="${fileStem(file.name)}.zip"` },
	});
}
