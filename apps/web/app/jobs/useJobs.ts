import { useEffect, useState } from "react";
import type { JobRow } from "~/data/jobs.server";
import { sendJson } from "~/workers/network";

/** All jobs as they change; `undefined` until the first word from the server. */
export function useJobs(): { readonly jobs: readonly JobRow[] | undefined; readonly connected: boolean } {
	const [jobs, setJobs] = useState<readonly JobRow[]>();
	const [connected, setConnected] = useState(true);
	useEffect(() => {
		const events = new EventSource("/api/jobs/events");
		events.onmessage = ({ data }) => {
			setJobs(JSON.parse(data) as readonly JobRow[]);
			setConnected(true);
		};
		// The browser tries again by itself.
		events.onerror = () => setConnected(false);
		return () => events.close();
	}, []);
	return { jobs, connected };
}

export const actOnJob = (act: "cancel" | "retry" | "forget" | "priority", id = "", priority = 0): Promise<unknown> =>
	sendJson("/api/jobs", "POST", { act, id, priority });

/** How long a running job will still take, by how fast it went so far; undefined where that is not known. s */
export function secondsLeft({ state, startedAt, fraction }: JobRow, now: number): number | undefined {
	if (state !== "running" || !startedAt || fraction < 0.02) return undefined;
	const passed = (now - Date.parse(startedAt)) / 1000;
	return (passed / fraction) * (1 - fraction);
}
