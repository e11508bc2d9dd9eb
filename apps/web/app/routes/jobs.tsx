import { listJobs } from "~/data/jobs.server";
import { JobsPage } from "~/jobs/JobsPage";
import type { Route } from "./+types/jobs";

export async function loader() {
	return { jobs: await listJobs() };
}

export const meta: Route.MetaFunction = () => [{ title: "Jobs · Mighty Rubble" }];

export default function Jobs({ loaderData }: Route.ComponentProps) {
	return <JobsPage first={loaderData.jobs} />;
}
