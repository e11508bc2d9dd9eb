import type { Id } from "@rubble/core/shot";
import { useEffect, useState } from "react";
import { toast } from "sonner";
import { useJobs } from "~/jobs/useJobs";
import { breakNow } from "~/workbench/store/session";
import { useWorkbench } from "~/workbench/store/store";
import { sendJson } from "~/workers/network";

/** Lets a worker break what would take long here; the page goes on, and has the pieces when they are there. */
export function BreakByWorker({ object }: { object: Id }) {
	const [job, setJob] = useState<string>();
	const send = async () => {
		const { shot, shotId } = useWorkbench.getState();
		try {
			const made = (await sendJson(`/api/shots/${shotId}/send`, "POST", { what: "fracture", shot, object })) as { jobs: readonly string[] };
			setJob(made.jobs[0]);
		} catch (error) {
			toast.error((error as Error).message);
		}
	};
	if (job !== undefined) return <Waiting job={job} onEnd={() => setJob(undefined)} />;
	return (
		<button type="button" className="button" title="You can go on here meanwhile" onClick={() => void send()}>
			Let a worker break it
		</button>
	);
}

function Waiting({ job, onEnd }: { job: string; onEnd: () => void }) {
	const { list } = useJobs();
	const found = list?.jobs.find(({ id }) => id === job);
	const state = found?.state;
	useEffect(() => {
		if (state === "done") void breakNow();
		else if (state === "failed") toast.error(`The worker could not break it: ${found?.what}`);
		if (state === "done" || state === "failed" || state === "cancelled") onEnd();
	}, [state, found?.what, onEnd]);
	return (
		<p className="text-slate">
			{state === "running" ? `A worker is at it: ${Math.round(100 * (found?.fraction ?? 0))} %` : "Waiting for a worker"}
		</p>
	);
}
