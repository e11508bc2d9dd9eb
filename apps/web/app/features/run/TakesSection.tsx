import { Combine, Copy, FlaskConical, Lock, LockOpen, MoreHorizontal, Pencil, Rows3, Star, Trash2, Undo2 } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { Section } from "~/controls/Section";
import { useDraft } from "~/controls/useDraft";
import type { TakeCard } from "~/data/takes.server";
import { useJobs } from "~/jobs/useJobs";
import { carryOver, changeTake, deleteTake, duplicateTake, listTakes, run, showTake, takeUpSettings } from "~/workbench/store/session";
import { useWorkbench } from "~/workbench/store/store";
import { SweepDialog } from "./SweepDialog";
import { TakeMarks } from "./TakeMarks";

/** Every run that was kept, and which one is on show. */
export function TakesSection() {
	const { shotId, takes, take, run: running } = useWorkbench();
	const [sweeping, setSweeping] = useState(false);
	const { list } = useJobs();
	// Workers store frames while we look on.
	const mine = list?.jobs
		.filter(({ shot, kind }) => shot === shotId && kind === "run")
		.map(({ id, state, fraction }) => `${id}${state}${fraction}`);
	const working = mine?.join();
	useEffect(() => {
		if (working) void listTakes();
	}, [working]);
	if (takes.length === 0) return null;
	return (
		<Section title="Takes" aside={takes.length > 1 ? takes.length : undefined}>
			<ul className="-mx-1.5 flex max-h-64 flex-col overflow-y-auto" aria-label="Takes">
				{takes.map((item) => (
					<TakeRow key={item.id} item={item} shown={item.id === take?.id} idle={!running} />
				))}
			</ul>
			<div className="mt-1 grid grid-cols-2 gap-1.5">
				<button type="button" className="button" disabled={running !== null} onClick={() => void run({ fresh: "Take 1" })}>
					Run as new
				</button>
				<button type="button" className="button" onClick={() => setSweeping(true)}>
					<FlaskConical size={14} /> Sweep …
				</button>
				<Link to={`/shots/${shotId}/takes`} className="button col-span-2">
					<Rows3 size={14} /> Compare takes
				</Link>
			</div>
			<SweepDialog open={sweeping} onOpen={setSweeping} />
		</Section>
	);
}

function TakeRow({ item, shown, idle }: { item: TakeCard; shown: boolean; idle: boolean }) {
	const [renaming, setRenaming] = useState(false);
	const draft = useDraft(item.name, (name) => {
		if (name.trim() !== "") void changeTake(item.id, { name: name.trim() });
	});
	// The shot has other bodies than this take: its motion can be carried over to them.
	const others = useWorkbench(({ take, bodies }) => {
		const ids = new Set(take?.take.bodies.map(({ id }) => id));
		return bodies.some(({ id, settings }) => settings.kind === "active" && !ids.has(id));
	});
	const of = item.lastFrame - item.firstFrame + 1;
	const state = item.job
		? item.job.state === "running" || item.job.state === "waiting"
			? `${Math.round(item.job.fraction * 100)} %`
			: item.job.state
		: item.frames < of
			? `${item.frames} of ${of}`
			: `${of} frames`;
	return (
		<li className={`flex items-center gap-1 rounded-md px-1.5 ${shown ? "bg-kelp-wash" : "hover:bg-limestone"}`}>
			{!renaming ? (
				<button
					type="button"
					className="flex min-w-0 flex-1 items-center gap-1.5 py-1 text-left"
					aria-pressed={shown}
					disabled={!idle}
					onClick={() => !shown && void showTake(item.id)}
					title={item.note || item.changes.map(({ label, text }) => `${label} ${text}`).join(", ")}
				>
					<span className={`truncate ${shown ? "font-semibold text-kelp" : ""}`}>{item.name}</span>
					<TakeMarks take={item} />
				</button>
			) : (
				<input
					aria-label="Name of the take"
					className="field min-w-0 flex-1"
					{...draft}
					onFocus={(event) => event.target.select()}
					onBlur={() => {
						draft.onBlur();
						setRenaming(false);
					}}
					// biome-ignore lint/a11y/noAutofocus: somebody has just asked to type here
					autoFocus
				/>
			)}
			<span className="number shrink-0 text-xs text-slate">{state}</span>
			<DropdownMenu.Root>
				<DropdownMenu.Trigger className="button button-quiet px-1!" aria-label={`More for ${item.name}`}>
					<MoreHorizontal size={14} />
				</DropdownMenu.Trigger>
				<DropdownMenu.Portal>
					<DropdownMenu.Content
						sideOffset={4}
						align="end"
						className="z-50 min-w-44 rounded-md border border-line bg-field p-1"
						onCloseAutoFocus={(event) => event.preventDefault()}
					>
						<Entry icon={<Pencil size={14} />} label="Rename" onSelect={() => setRenaming(true)} />
						<Entry
							icon={<Star size={14} />}
							label={item.picked ? "Not the good one" : "The good one"}
							onSelect={() => void changeTake(item.id, { picked: !item.picked })}
						/>
						<Entry
							icon={item.locked ? <LockOpen size={14} /> : <Lock size={14} />}
							label={item.locked ? "Unlock" : "Lock"}
							onSelect={() => void changeTake(item.id, { locked: !item.locked })}
						/>
						<Entry icon={<Copy size={14} />} label="Duplicate" onSelect={() => void duplicateTake(item.id)} />
						{shown && others && idle && (
							<Entry icon={<Combine size={14} />} label="Carry over to the pieces now" onSelect={() => void carryOver()} />
						)}
						{shown && <Entry icon={<Undo2 size={14} />} label="Take up its settings" onSelect={() => takeUpSettings(item.id)} />}
						{!item.locked && <Entry icon={<Trash2 size={14} />} label="Delete" onSelect={() => void deleteTake(item.id)} />}
					</DropdownMenu.Content>
				</DropdownMenu.Portal>
			</DropdownMenu.Root>
		</li>
	);
}

function Entry({ icon, label, onSelect }: { icon: React.ReactNode; label: string; onSelect: () => void }) {
	return (
		<DropdownMenu.Item
			onSelect={onSelect}
			className="flex cursor-default items-center gap-2 rounded px-2 py-1.5 outline-none data-[highlighted]:bg-kelp-wash"
		>
			<span className="text-slate">{icon}</span>
			{label}
		</DropdownMenu.Item>
	);
}
