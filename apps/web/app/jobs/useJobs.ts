import { useEffect, useState } from "react";
import type { JobList, JobRow } from "~/data/jobs.server";
import { sendJson } from "~/workers/network";

/** Jobs as they change, with so many of those that have ended; `undefined` until the first word from the server. */
export function useJobs(ended = 100): { readonly list: JobList | undefined; readonly connected: boolean } {
	const [list, setList] = useState<JobList>();
	const [connected, setConnected] = useState(true);
	useEffect(() => {
		const events = new EventSource(`/api/jobs/events?ended=${ended}`);
		events.onmessage = ({ data }) => {
			setList(JSON.parse(data) as JobList);
			setConnected(true);
		};
		// The browser tries again by itself.
		events.onerror = () => setConnected(false);
		return () => events.close();
	}, [ended]);
	return { list, connected };
}

export const actOnJob = (act: "cancel" | "retry" | "forget" | "priority", id = "", priority = 0): Promise<unknown> =>
	sendJson("/api/jobs", "POST", { act, id, priority });

/** How long a running job will still take, by how fast it went so far; undefined where that is not known. s */
export function secondsLeft({ state, startedAt, fraction }: JobRow, now: number): number | undefined {
	if (state !== "running" || !startedAt || fraction < 0.02) return undefined;
	const passed = (now - Date.parse(startedAt)) / 1000;
	return (passed / fraction) * (1 - fraction);
}
