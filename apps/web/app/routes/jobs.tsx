import { listJobs } from "~/data/jobs.server";
import { answering } from "~/data/requests.server";
import { JobsPage } from "~/jobs/JobsPage";
import type { Route } from "./+types/jobs";

export const loader = answering(async (_: Route.LoaderArgs) => {
	return await listJobs();
});

export const meta: Route.MetaFunction = () => [{ title: "Jobs · Mighty Rubble" }];

export default function Jobs({ loaderData }: Route.ComponentProps) {
	return <JobsPage first={loaderData} />;
}
