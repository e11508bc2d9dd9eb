import { formatNumber } from "@rubble/core/shot";
import { ChevronDown, ChevronRight, Download, RotateCcw, X } from "lucide-react";
import { Tooltip } from "radix-ui";
import { useState } from "react";
import { Link } from "react-router";
import { toast } from "sonner";
import { Hint } from "~/controls/Hint";
import { PageHeader } from "~/controls/PageHeader";
import { ProgressBar } from "~/controls/ProgressBar";
import type { JobList, JobRow } from "~/data/jobs.server";
import { ThemeButton } from "~/workbench/TopBar";
import { when } from "~/yard/when";
import { actOnJob, secondsLeft, useJobs } from "./useJobs";

/** What runs on which worker, how far it is, and what became of it. */
export function JobsPage({ first }: { first: JobList }) {
	const [shown, setShown] = useState(100);
	const { list = first, connected } = useJobs(shown);
	const { jobs, older } = list;
	const [open, setOpen] = useState<string | null>(null);
	const ended = jobs.filter(({ state }) => state !== "running" && state !== "waiting").length;
	const running = jobs.filter(({ state }) => state === "running").length;
	const waiting = jobs.filter(({ state }) => state === "waiting").length;
	return (
		<Tooltip.Provider>
			<PageHeader>
				<h1 className="text-base font-semibold">Jobs</h1>
				<span className="text-slate">
					{running} running · {waiting} waiting
				</span>
				<span className="flex-1" />
				{ended > 0 && (
					<button type="button" className="button" onClick={() => act("forget")}>
						Clear what has ended
					</button>
				)}
				<ThemeButton />
			</PageHeader>
			<main id="main" className="mx-auto max-w-5xl p-6">
				{!connected && (
					<p className="mb-3 text-ochre">The server does not answer; what stands here may be old. It is asked again and again.</p>
				)}
				{jobs.length === 0 ? (
					<div className="mt-16 text-center">
						<h2 className="text-base font-semibold">Nothing to do</h2>
						<p className="mt-1 text-slate">
							Send a run, a sweep or a file to the workers from Run and Bake. A worker on another machine needs only the database:
							<br />
							<code className="number">DATABASE_URL=… npm run worker</code>
						</p>
					</div>
				) : (
					<ul className="flex flex-col gap-2">
						{jobs.map((job) => (
							<Job key={job.id} job={job} open={open === job.id} onOpen={() => setOpen(open === job.id ? null : job.id)} />
						))}
					</ul>
				)}
				{older > 0 && (
					<p className="mt-4 text-center text-slate">
						{older.toLocaleString("en")} more {older === 1 ? "has" : "have"} ended before.{" "}
						<button type="button" className="button ml-2" onClick={() => setShown(shown + 500)}>
							Show older
						</button>
					</p>
				)}
			</main>
		</Tooltip.Provider>
	);
}

const act = async (what: Parameters<typeof actOnJob>[0], id?: string, priority?: number) => {
	try {
		await actOnJob(what, id, priority);
	} catch (error) {
		toast.error((error as Error).message);
	}
};

const KINDS: Readonly<Record<JobRow["kind"], string>> = { run: "Run", bake: "File", fracture: "Fracture" };

const STATES: Readonly<Record<JobRow["state"], { readonly text: string; readonly tone: string }>> = {
	waiting: { text: "waiting", tone: "text-slate" },
	running: { text: "running", tone: "text-kelp" },
	done: { text: "done", tone: "text-kelp" },
	failed: { text: "failed", tone: "text-rust" },
	cancelled: { text: "cancelled", tone: "text-slate" },
};

function Job({ job, open, onOpen }: { job: JobRow; open: boolean; onOpen: () => void }) {
	const left = secondsLeft(job, Date.now());
	const { text, tone } = STATES[job.state];
	const alive = job.state === "running" || job.state === "waiting";
	return (
		<li className="rounded-md border border-line bg-chalk">
			<div className="flex items-center gap-3 px-3 py-2">
				<button type="button" aria-label={`Log of ${job.name}`} aria-expanded={open} className="text-slate" onClick={onOpen}>
					{open ? <ChevronDown size={16} /> : <ChevronRight size={16} />}
				</button>
				<div className="w-64 min-w-0">
					<p className="truncate font-semibold">{job.name}</p>
					<p className="truncate text-xs text-slate">
						{KINDS[job.kind]} · <Link to={`/shots/${job.shot}/run`}>{job.shotName}</Link>
					</p>
				</div>
				<div className="min-w-0 flex-1">
					<ProgressBar label={`Progress of ${job.name}`} fraction={job.fraction} failed={job.state === "failed"} />
					<p className="mt-1 flex justify-between gap-3 text-xs text-slate">
						<span className="truncate">{job.what || "Waiting for a worker"}</span>
						<span className="number shrink-0" suppressHydrationWarning>
							{left !== undefined ? `about ${Math.max(1, Math.round(left))} s left` : job.finishedAt ? when(job.finishedAt) : ""}
						</span>
					</p>
				</div>
				<span className={`w-20 shrink-0 text-right font-semibold ${tone}`} data-state={job.state}>
					{text}
				</span>
				<div className="flex w-22 shrink-0 justify-end gap-1">
					{job.file && (
						<Hint text={`${job.file.name}, ${formatNumber(job.file.size / 1e6, 3)} MB`} side="bottom">
							<a className="button px-2!" href={`/api/jobs/${job.id}/file`} aria-label={`Download ${job.file.name}`}>
								<Download size={14} />
							</a>
						</Hint>
					)}
					{alive && (
						<Hint text="Cancel; stored frames stay" side="bottom">
							<button type="button" className="button px-2!" aria-label={`Cancel ${job.name}`} onClick={() => void act("cancel", job.id)}>
								<X size={14} />
							</button>
						</Hint>
					)}
					{(job.state === "failed" || job.state === "cancelled") && (
						<Hint text="Try again, from the last stored frame" side="bottom">
							<button type="button" className="button px-2!" aria-label={`Try ${job.name} again`} onClick={() => void act("retry", job.id)}>
								<RotateCcw size={14} />
							</button>
						</Hint>
					)}
				</div>
			</div>
			{open && (
				<div className="border-t border-line px-3 py-2 pl-10">
					<p className="flex items-center gap-3 text-xs text-slate">
						<span>{job.worker ? `Worker ${job.worker}` : "No worker yet"}</span>
						{job.state === "waiting" && (
							<button type="button" className="button" onClick={() => void act("priority", job.id, job.priority + 10)}>
								Do it sooner
							</button>
						)}
					</p>
					<ol className="number mt-1 text-xs">
						{job.log.map(({ at, text: said }, n) => (
							<li key={n}>
								<span className="text-slate">{new Date(at).toLocaleTimeString("en", { hour12: false })}</span> {said}
							</li>
						))}
					</ol>
				</div>
			)}
		</li>
	);
}
