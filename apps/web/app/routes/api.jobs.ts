import { number, object, string } from "yup";
import { cancelJob, endedWanted, forgetJobs, listJobs, retryJob, setPriority } from "~/data/jobs.server";
import { answer, answering, readJson, refuse } from "~/data/requests.server";
import type { Route } from "./+types/api.jobs";

export const loader = answering(async ({ request }: Route.LoaderArgs) => {
	return answer(await listJobs(endedWanted(request)));
});

const schema = object({
	act: string().oneOf(["cancel", "retry", "priority", "forget"]).required(),
	id: string().max(100).default(""),
	priority: number().integer().min(-100).max(100).default(0),
});

export const action = answering(async ({ request }: Route.ActionArgs) => {
	const { act, id, priority } = await readJson(request, schema);
	if (act === "forget") await forgetJobs();
	else if (act === "priority") await setPriority(id, priority);
	else if (!(await (act === "cancel" ? cancelJob(id) : retryJob(id))))
		throw refuse(409, act === "cancel" ? "The job has ended already." : "Only a job that has failed or was cancelled can be tried again.");
	return answer({ ok: true });
});
