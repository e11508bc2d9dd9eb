import { fractureOf, renameShot } from "@rubble/core/shot";
import { Command, Moon, Play, Redo2, Square, Sun, Undo2 } from "lucide-react";
import { Link, useFetcher, useRouteLoaderData } from "react-router";
import { Hint } from "~/controls/Hint";
import { useDraft } from "~/controls/useDraft";
import type { loader as rootLoader } from "~/root";
import { STAGES, type StageId } from "./stages";
import { frameFacts } from "./store/selectors";
import { run, stopRun } from "./store/session";
import { useWorkbench, type WorkbenchState } from "./store/store";
import { TakePick } from "./TakePick";

interface Props {
	readonly stage: StageId;
	readonly onStage: (stage: StageId) => void;
	readonly onPalette: () => void;
	readonly onHistory: () => void;
}

export function TopBar({ stage, onStage, onPalette, onHistory }: Props) {
	return (
		<header className="flex h-13 shrink-0 items-center gap-3 border-b border-line bg-chalk px-3">
			<Link to="/" aria-label="To the yard" className="shrink-0 rounded-md p-1">
				<img src="/mark.svg" alt="" width={24} height={24} />
			</Link>
			<ShotName onHistory={onHistory} />
			<nav aria-label="Stages" className="flex flex-1 justify-center gap-1">
				{STAGES.map((item) => (
					<StageButton key={item.id} item={item} current={item.id === stage} onClick={() => onStage(item.id)} />
				))}
			</nav>
			<div className="flex shrink-0 items-center gap-1">
				<UndoButtons />
				<Hint text="Find a command, object or setting (Ctrl K)" side="bottom">
					<button type="button" className="button button-quiet px-2!" aria-label="Find a command" onClick={onPalette}>
						<Command size={16} />
					</button>
				</Hint>
				<ThemeButton />
				<TakePick />
				<RunButton />
			</div>
		</header>
	);
}

function ShotName({ onHistory }: { onHistory: () => void }) {
	const name = useWorkbench((state) => state.shot.name);
	const perform = useWorkbench((state) => state.perform);
	const draft = useDraft(name, (text) => {
		if (text.trim() !== "") perform(renameShot(text));
	});
	return (
		<div className="w-48 shrink-0">
			<input
				aria-label="Name of the shot"
				className="w-full truncate rounded bg-transparent px-1 font-semibold hover:bg-limestone focus:bg-field"
				{...draft}
			/>
			<SaveLine onHistory={onHistory} />
		</div>
	);
}

function SaveLine({ onHistory }: { onHistory: () => void }) {
	const save = useWorkbench((state) => state.save);
	const { fps, firstFrame, lastFrame } = useWorkbench((state) => state.shot.settings);
	const range = ` · ${fps} fps · ${firstFrame}–${lastFrame}`;
	const tone = save.kind === "offline" ? "text-ochre" : save.kind === "conflict" || save.kind === "refused" ? "text-rust" : "text-slate";
	const text =
		save.kind === "saved"
			? save.at
				? `saved ${new Date(save.at).toLocaleTimeString("en", { hour: "2-digit", minute: "2-digit", hour12: false })}`
				: "saved"
			: save.kind === "saving"
				? "saving …"
				: save.kind === "offline"
					? "not saved yet"
					: save.kind === "conflict"
						? "changed elsewhere"
						: "not saved";
	const hint = save.kind === "offline" || save.kind === "refused" ? save.message : "What was done, and back to any of it";
	return (
		<p className={`flex px-1 text-xs ${tone}`}>
			<button type="button" className="shrink-0 hover:underline" title={hint} aria-label={`What was done: ${text}`} onClick={onHistory}>
				<span role="status">{text}</span>
			</button>
			<span className="truncate whitespace-pre text-slate">{range}</span>
		</p>
	);
}

function StageButton({ item, current, onClick }: { item: (typeof STAGES)[number]; current: boolean; onClick: () => void }) {
	const { text, tone } = useStageState(item.id);
	return (
		<button
			type="button"
			onClick={onClick}
			aria-current={current ? "page" : undefined}
			data-stage={item.id}
			className={`min-w-20 rounded-md px-2.5 py-1 text-left leading-tight ${current ? "bg-kelp text-on-kelp" : "hover:bg-limestone"}`}
		>
			<span className="flex items-baseline gap-1.5">
				<span className={`number text-xs ${current ? "" : "text-slate"}`}>{item.number}</span>
				<span className="font-semibold">{item.label}</span>
			</span>
			<span className={`block truncate text-xs ${current ? "" : tone === "warning" ? "font-semibold text-ochre" : "text-slate"}`}>
				{text}
			</span>
		</button>
	);
}

/** Each stage shows its count or its state. */
function useStageState(stage: StageId): { text: string; tone?: "warning" } {
	const state = useWorkbench();
	const pieces = Object.values(state.pieces).reduce((sum, { count }) => sum + count, 0);
	switch (stage) {
		case "shape": {
			const faults = faultsOf(state, false);
			const count = Object.keys(state.shot.objects).length;
			return faults > 0 ? { text: `${faults} to repair`, tone: "warning" } : { text: `${count} object${count === 1 ? "" : "s"}` };
		}
		case "break": {
			const faults = faultsOf(state, true);
			if (state.draw) return { text: "drawing" };
			if (state.waiting) return { text: "out of date", tone: "warning" };
			if (faults > 0) return { text: `${faults} to mend`, tone: "warning" };
			return { text: pieces > 0 ? `${pieces.toLocaleString("en")} pieces` : "whole" };
		}
		case "weigh": {
			const count = state.bodies.filter((body) => body.settings.kind !== "none").length;
			return { text: count > 0 ? `${count.toLocaleString("en")} ${count === 1 ? "body" : "bodies"}` : "no bodies" };
		}
		case "bind": {
			const bonds = state.ties?.bonds.tension.length ?? 0;
			const sets = Object.keys(state.shot.bondSets).length;
			const connectors = Object.keys(state.shot.connectors).length;
			const held = bonds > 0 ? `${bonds.toLocaleString("en")} bonds` : sets > 0 ? "bonded" : "";
			const joined = connectors > 0 ? `${connectors} connector${connectors === 1 ? "" : "s"}` : "";
			return { text: held || joined || "nothing holds" };
		}
		case "push": {
			const forces = Object.values(state.shot.objects).filter(({ source, hidden }) => source.kind === "force" && !hidden).length;
			return {
				text:
					forces > 0
						? `${forces} force${forces === 1 ? "" : "s"}`
						: state.shot.settings.gravity.some((g) => g !== 0)
							? "gravity"
							: "nothing pulls",
			};
		}
		case "run": {
			if (state.run) return { text: `frame ${Math.max(state.run.at, state.run.from)}` };
			const { stored, stale, first, last } = frameFacts(state);
			if (stored < first) return { text: "not run yet" };
			if (stale <= stored) return { text: `stale from ${stale}`, tone: "warning" };
			return stored < last ? { text: `${first}–${stored} of ${last}`, tone: "warning" } : { text: `${stored - first + 1} frames` };
		}
		case "bake": {
			const { stored, first } = frameFacts(state);
			return { text: stored >= first ? "ready" : "needs a run" };
		}
	}
}

/** Objects that cannot be built, because of how they are broken or for what they are. */
const faultsOf = ({ shot, problems, reports }: WorkbenchState, inBreaking: boolean): number =>
	problems.filter(({ object }) => (fractureOf(shot, object) !== undefined && reports[object]?.closed === true) === inBreaking).length;

function UndoButtons() {
	const { undoStack, redoStack, undo, redo } = useWorkbench();
	const last = undoStack[undoStack.length - 1];
	const next = redoStack[redoStack.length - 1];
	return (
		<>
			<Hint text={last ? `Undo ${last.name} (Ctrl Z)` : "Nothing to undo"} side="bottom">
				<button type="button" className="button button-quiet px-2!" aria-label="Undo" disabled={!last} onClick={undo}>
					<Undo2 size={16} />
				</button>
			</Hint>
			<Hint text={next ? `Redo ${next.name} (Ctrl Shift Z)` : "Nothing to redo"} side="bottom">
				<button type="button" className="button button-quiet px-2!" aria-label="Redo" disabled={!next} onClick={redo}>
					<Redo2 size={16} />
				</button>
			</Hint>
		</>
	);
}

export function ThemeButton() {
	const root = useRouteLoaderData<typeof rootLoader>("root");
	const fetcher = useFetcher();
	const theme = (fetcher.formData?.get("theme") as string | undefined) ?? root?.theme ?? "light";
	const next = theme === "night" ? "light" : "night";
	return (
		<fetcher.Form method="post" action="/theme">
			<input type="hidden" name="theme" value={next} />
			<Hint text={next === "night" ? "Night theme" : "Light theme"} side="bottom">
				<button
					type="submit"
					className="button button-quiet px-2!"
					aria-label={next === "night" ? "Night theme" : "Light theme"}
					onClick={() => {
						document.documentElement.dataset.theme = next;
					}}
				>
					{next === "night" ? <Moon size={16} /> : <Sun size={16} />}
				</button>
			</Hint>
		</fetcher.Form>
	);
}

function RunButton() {
	const running = useWorkbench((state) => state.run);
	if (running)
		return (
			<button type="button" className="button ml-1 w-24 border-rust! text-rust!" onClick={stopRun}>
				<Square size={13} fill="currentColor" /> Stop
			</button>
		);
	return (
		<Hint text="Simulate what is missing or stale (Ctrl Enter)" side="bottom">
			<button type="button" className="button button-primary ml-1 w-24" onClick={() => void run()}>
				<Play size={13} fill="currentColor" /> Run
			</button>
		</Hint>
	);
}
