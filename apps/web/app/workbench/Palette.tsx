import { LAYOUTS } from "@rubble/core/arrays";
import { SHAPES } from "@rubble/core/shapes";
import { objectPath, orderedObjects } from "@rubble/core/shot";
import { Command, defaultFilter } from "cmdk";
import { useState } from "react";
import { useNavigate } from "react-router";
import { copyAs } from "~/features/shape/CopiesSection";
import { chooseMeshFile } from "~/features/shape/importFile";
import { deleteSelection, duplicateSelection, groupSelection, repeatMove, rework } from "~/features/shape/reshape";
import { addShape } from "~/features/shape/ShapeBench";
import { makePicked } from "~/features/weigh/kind";
import { throwBallAt } from "~/features/weigh/throwBall";
import { isolate, renamePicked } from "./keys";
import { SETTINGS, showSetting } from "./settings";
import { STAGES, type StageId } from "./stages";
import { currentObject } from "./store/selectors";
import { breakNow, goOn, keepFrame, run, runAlone, settle, stopRun } from "./store/session";
import { useWorkbench } from "./store/store";
import { wordsFor } from "./tradeWords";

interface Props {
	readonly open: boolean;
	readonly onOpen: (open: boolean) => void;
	readonly onStage: (stage: StageId) => void;
	readonly onHistory: () => void;
}

/** What another word of the trade counts for, whole or begun, against a label's own letters: more than letters that lie apart in it, less than its words. */
const BY_WORD = 0.85;
const BY_BEGINNING = 0.8;

function rank(label: string, search: string, words: string[] = []): number {
	const wanted = search.trim().toLowerCase();
	const other = words.includes(wanted) ? BY_WORD : words.some((word) => word.startsWith(wanted)) ? BY_BEGINNING : 0;
	return Math.max(defaultFilter(label, search), other);
}

/** Ctrl K: every command and every object by name. */
export function Palette({ open, onOpen, onStage, onHistory }: Props) {
	const navigate = useNavigate();
	const [search, setSearch] = useState("");
	const turn = (next: boolean) => {
		setSearch("");
		onOpen(next);
	};
	const { shot, shotId, select, undo, redo, set, follows } = useWorkbench();
	const item = (label: string, act: () => void, keys = "") => (
		<Command.Item
			key={label}
			value={label}
			keywords={wordsFor(label)}
			onSelect={() => {
				turn(false);
				act();
			}}
			className="flex cursor-default justify-between rounded px-2.5 py-1.5 data-[selected=true]:bg-kelp-wash"
		>
			{label}
			<span className="number text-xs text-slate">{keys}</span>
		</Command.Item>
	);
	const heading = "px-2.5 pt-2 pb-1 text-xs text-slate";
	// While something is looked for the best comes first, whatever group it is in.
	const group = (title: string, children: React.ReactNode) =>
		search.trim() === "" ? <Command.Group heading={<span className={heading}>{title}</span>}>{children}</Command.Group> : children;
	return (
		<Command.Dialog
			open={open}
			onOpenChange={turn}
			label="Find a command, object or setting"
			filter={rank}
			overlayClassName="fixed inset-0 z-40 bg-black/30"
			contentClassName="fixed top-24 left-1/2 z-50 w-120 -translate-x-1/2 overflow-hidden rounded-md border border-line bg-chalk"
		>
			<Command.Input
				value={search}
				onValueChange={setSearch}
				placeholder="Find a command, an object or a setting"
				className="w-full border-b border-line bg-transparent px-4 py-3 outline-none"
			/>
			<Command.List className="max-h-96 overflow-auto p-1.5">
				<Command.Empty className="p-4 text-slate">Nothing of that name.</Command.Empty>
				{group(
					"Commands",
					<>
						{item("Run", () => void run(), "Ctrl Enter")}
						{item("Stop the run", stopRun, "Ctrl .")}
						{item(follows ? "Hold the run while editing" : "Run after each edit", () => set({ follows: !follows }))}
						{item("Run as a new take", () => void run({ fresh: "Take 1" }))}
						{item("Run what is picked alone", runAlone)}
						{item("Go on from this frame with the shot as it is", () => void goOn(useWorkbench.getState().frame))}
						{item("Show only what is picked, or all again", isolate, "I")}
						{item("Settle and keep", () => void settle())}
						{item("Start from this frame", () => void keepFrame(false))}
						{item("Compare takes", () => void navigate(`/shots/${shotId}/takes`))}
						{item("Jobs", () => void navigate("/jobs"))}
						{item("Undo", undo, "Ctrl Z")}
						{item("Redo", redo, "Ctrl Shift Z")}
						{item("What was done (history, revisions)", onHistory)}
						{item("Duplicate", duplicateSelection, "Ctrl D")}
						{item("Delete", deleteSelection, "Delete")}
						{item("Throw a ball at what is picked", () => {
							const id = currentObject(useWorkbench.getState());
							if (id !== undefined) throwBallAt(id);
						})}
						{item("Make it active", () => makePicked("active"), "A")}
						{item("Make it passive", () => makePicked("passive"), "P")}
						{item("Rename", renamePicked, "F2")}
						{item("Group", groupSelection, "Ctrl G")}
						{item("Repeat the move", repeatMove)}
						{item("Merge into one solid", () => void rework("merge"))}
						{item("Split into connected parts", () => void rework("split"))}
						{LAYOUTS.map(({ id, label }) => item(`Copies: ${label.toLowerCase()}`, () => copyAs(id)))}
						{item("Build everything now", () => void breakNow())}
						{item("Open a mesh file", chooseMeshFile)}
						{SHAPES.map((shape) => item(`Add ${shape.label.toLowerCase()}`, () => addShape(shape.id)))}
						{item("Show or hide colliders", () => set({ showColliders: !useWorkbench.getState().showColliders }))}
						{item("Show or hide centres of mass", () => set({ showCentres: !useWorkbench.getState().showCentres }))}
						{item("Show or hide the wide ledger", () => set({ table: !useWorkbench.getState().table }), "W")}
						{item("Colour by speed", () => set({ colourBy: "speed" }))}
						{item("Colour by piece", () => set({ colourBy: "piece" }))}
						{(["volume", "mass", "area", "neighbours", "height"] as const).map((colourBy) =>
							item(`Colour by ${colourBy}`, () => set({ colourBy })),
						)}
						{item("Colour by material", () => set({ colourBy: "material" }))}
					</>,
				)}
				{group(
					"Stages",
					STAGES.map((stage) => item(`Go to ${stage.label}`, () => onStage(stage.id), String(stage.number))),
				)}
				{group(
					"Objects",
					orderedObjects(shot).map((id) => item(objectPath(shot, id), () => select([id]))),
				)}
				{group(
					"Settings",
					SETTINGS.map((setting) =>
						item(`${setting.label} · ${setting.of}`, () => {
							onStage(setting.stage);
							void showSetting(setting);
						}),
					),
				)}
			</Command.List>
		</Command.Dialog>
	);
}
