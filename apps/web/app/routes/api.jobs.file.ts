import { create } from "content-disposition";
import { getBlob } from "~/data/blobs.server";
import { jobFile } from "~/data/jobs.server";
import { answering, refuse } from "~/data/requests.server";
import type { Route } from "./+types/api.jobs.file";

/** The file that a job has written. */
export const loader = answering(async ({ params }: Route.LoaderArgs) => {
	const file = await jobFile(params.job);
	const bytes = file && (await getBlob(file.hash));
	if (!bytes) throw refuse(404, "The job has written no file, or it is not stored any more.");
	return new Response(bytes, {
		headers: { "Content-Type": file.mime, "Content-Disposition": create(file.name), "Cache-Control": "no-store" },
	});
});
