import { number, object, string } from "yup";
import { cancelJob, forgetJobs, listJobs, retryJob, setPriority } from "~/data/jobs.server";
import { readJson, refuse } from "~/data/requests.server";
import type { Route } from "./+types/api.jobs";

export async function loader() {
	return Response.json(await listJobs());
}

const schema = object({
	act: string().oneOf(["cancel", "retry", "priority", "forget"]).required(),
	id: string().default(""),
	priority: number().integer().min(-100).max(100).default(0),
});

export async function action({ request }: Route.ActionArgs) {
	const { act, id, priority } = await readJson(request, schema);
	if (act === "forget") await forgetJobs();
	else if (act === "priority") await setPriority(id, priority);
	else if (!(await (act === "cancel" ? cancelJob(id) : retryJob(id))))
		throw refuse(409, act === "cancel" ? "The job has ended already." : "Only a job that has failed or was cancelled can be tried again.");
	return Response.json({ ok: true });
}
