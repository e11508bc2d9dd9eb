import type { BodyRow, PiecesFacts } from "@rubble/core/bodies";
import type { CrumbRow } from "@rubble/core/bonds";
import type { FrameStore } from "@rubble/core/cache";
import type { Pixels } from "@rubble/core/colouring";
import type { Hash } from "@rubble/core/common";
import {
	type AssetRef,
	applyEdit,
	type Command,
	type Edit,
	type EditWay,
	emptyShot,
	type Id,
	invert,
	objectOf,
	edit as runCommand,
	type Shot,
} from "@rubble/core/shot";
import type { Take } from "@rubble/core/simulation";
import type { MeshReport } from "@rubble/core/solid";
import { toast } from "sonner";
import { create } from "zustand";
import type { TakeCard } from "~/data/takes.server";
import type { ColliderLines, Drawing, FindingRow, InspectResult, Ties } from "~/workers/messages";
import type { LiveCost } from "~/workers/watchedEngine";
import { newId } from "../ids";
import type { Autosave, Left, SaveState } from "./autosave";

export type ColourBy = "material" | "gradient" | "piece" | "slab" | "speed" | "volume" | "mass" | "area" | "neighbours" | "height";
/** What the lines of bonds are coloured by. */
export type TieColour = "strength" | "load" | "state";
export type GizmoTool = "pick" | "move" | "turn" | "size";
/** A direction, or the id of a camera that is looked through. */
export type CameraView = "free" | "front" | "side" | "top" | (string & {});

export interface Busy {
	readonly what: string;
	readonly fraction: number;
}

export interface RunState {
	readonly from: number;
	/** The last frame that has come in. */
	readonly at: number;
	readonly fraction: number;
	readonly what: string;
	readonly startedAt: number;
	readonly cost?: LiveCost | undefined;
	/** Whether it only lets things settle. */
	readonly settles?: boolean;
}

/** A step of undo: one edit, or those of a drag. */
export interface Step extends Edit {
	readonly id: string;
}

/** Everything the workbench shows. The shot changes only through `perform`, `undo` and `redo`. */
export interface WorkbenchState {
	shotId: Id;
	shot: Shot;
	save: SaveState;
	undoStack: readonly Step[];
	redoStack: readonly Step[];
	/** What a page that is gone left behind, where the shot has changed since. */
	left: Left | null;
	/** The page shows an earlier revision; the shot as it is now waits, and nothing can be changed. */
	looking: { readonly revision: number; readonly name: string; readonly at: string; readonly now: Shot } | null;
	/** Ids of objects or pieces, the last picked last. */
	selection: readonly string[];
	/** The object whose name is being typed in the ledger. */
	renaming: Id | null;
	frame: number;
	playing: boolean;
	loop: boolean;
	everyFrame: boolean;
	/** Whatever an edit makes out of date is run at once, see `followEdits`. */
	follows: boolean;
	/** What the worker made of the shot. */
	bodies: readonly BodyRow[];
	/** Stones that pieces leave where they crumble: seen from then on. */
	crumbs: readonly CrumbRow[];
	drawings: Readonly<Record<Id, Drawing>>;
	hashes: Readonly<Record<Id, Hash>>;
	problems: readonly { object: Id; message: string }[];
	reports: Readonly<Record<Id, MeshReport>>;
	pieces: Readonly<Record<Id, PiecesFacts>>;
	frameHashes: readonly Hash[];
	findings: readonly FindingRow[];
	colliders: InspectResult["colliders"];
	colliderLines: ColliderLines | null;
	building: Busy | null;
	/** A break that would take long waits for the button. */
	waiting: { readonly object: Id; readonly seconds: number } | null;
	take: { readonly id: string; readonly name: string; readonly locked: boolean; readonly take: Take } | null;
	/** All takes of the shot, in the order in which they were made. */
	takes: readonly TakeCard[];
	/** Ids of objects and bodies that alone are in the picture; all are where null. */
	alone: readonly string[] | null;
	/** Where things are while they settle; nothing of it is stored. */
	settling: { readonly ids: readonly string[]; readonly poses: Float32Array } | null;
	/** How many bodies stand at kept places, and how many kept places fit nothing any more. */
	kept: { readonly used: number; readonly unused: number };
	frames: FrameStore;
	run: RunState | null;
	/** Of the last run, for the stats. */
	lastRun: { readonly frames: number; readonly milliseconds: number } | null;
	/** View settings; not part of the shot. */
	tool: GizmoTool;
	/** The handles lie along the axes of what was picked last; along the world's otherwise. */
	ownAxes: boolean;
	colourBy: ColourBy;
	/** Of the picture that the shot takes its colours from, once it is read. */
	pixels: { readonly picture: AssetRef; readonly value: Pixels } | null;
	showColliders: boolean;
	showCentres: boolean;
	/** Arrows of the force fields at the frame. */
	showForces: boolean;
	/** Ways of bodies through the stored frames. */
	showPaths: boolean;
	/** Bonds and connectors. */
	showTies: boolean;
	tieColour: TieColour;
	ties: Ties | null;
	/** The bond set or the connector that the bench is about. */
	bound:
		| { readonly kind: "bonds"; readonly id: Id }
		/** `end`: which of its ends the handles in the view are on. */
		| { readonly kind: "connector"; readonly id: Id; readonly end?: "from" | "to" }
		| null;
	explode: number;
	camera: CameraView;
	lookAt: number;
	/** The curves of the picked object's keys over the view. */
	curves: boolean;
	/** The correction of the picked object that the curves show and the view edits; null: its own keys. */
	layer: number | null;
	/** The wide ledger over the view. */
	table: boolean;
	/** What the pointer draws in the view, into an option of a fracture. */
	draw:
		| { readonly what: "cut" | "stroke" | "place"; readonly fracture: Id; readonly option: string }
		/** A line of weak bonds. */
		| { readonly what: "weak"; readonly set: Id; readonly factor: number; readonly reach: number }
		| null;
	/** Lines in an object's frame that the bench wants to be seen, 3 numbers per point; a single point is a dot. */
	guides: { readonly object: Id; readonly lines: readonly (readonly number[])[] } | null;
	perform: (command: Command) => void;
	performEdit: (edit: Edit) => void;
	undo: () => void;
	redo: () => void;
	select: (ids: readonly string[]) => void;
	set: (change: Partial<WorkbenchState>) => void;
}

/** Set when a shot is opened; edits go through it. */
let autosave: Autosave | undefined;
export const setAutosave = (next: Autosave | undefined): void => {
	autosave = next;
};

const MOST_UNDO = 500;
/** Edits of one name on one thing within this time become one step of undo: dragging is one edit. */
const MERGE_WITHIN = 700; // ms
let lastEdit = { name: "", path: "", at: 0 };
/** Since when the pointer has been held down. */
let heldSince = Number.POSITIVE_INFINITY;

/** While the pointer is held, edits of one name on one thing stay one step, however long the hand rests. */
export const noteHold = (down: boolean): void => {
	heldSince = down ? Date.now() : Number.POSITIVE_INFINITY;
};

export const useWorkbench = create<WorkbenchState>((set, get) => {
	const commit = (shot: Shot, edit: Edit, step: Step, way: EditWay, stacks: Pick<WorkbenchState, "undoStack" | "redoStack">) => {
		autosave?.push(edit, step.id, way);
		set({ shot, ...stacks });
	};
	const record = (next: Shot, done: Edit) => {
		if (done.patches.length === 0) return;
		const { looking } = get();
		if (looking)
			return void toast(`Revision ${looking.revision} is only looked at. Bring it back, or go back to now, to change something.`);
		const { undoStack } = get();
		const path = done.patches.map((patch) => patch.path.slice(0, 3).join("/")).join();
		const now = Date.now();
		const previous = undoStack[undoStack.length - 1];
		const soon = now - lastEdit.at < MERGE_WITHIN || lastEdit.at > heldSince;
		const merges = previous && previous.name === done.name && lastEdit.name === done.name && lastEdit.path === path && soon;
		lastEdit = { name: done.name, path, at: now };
		const step: Step = merges
			? { ...previous, patches: [...previous.patches, ...done.patches], inverse: [...done.inverse, ...previous.inverse] }
			: { ...done, id: newId() };
		commit(next, done, step, "do", {
			undoStack: [...(merges ? undoStack.slice(0, -1) : undoStack), step].slice(-MOST_UNDO),
			redoStack: [],
		});
	};
	return {
		...initialState(),
		perform: (command) => {
			const { shot, edit } = runCommand(get().shot, command);
			record(shot, edit);
		},
		performEdit: (edit) => record(applyEdit(get().shot, edit.patches), edit),
		undo: () => {
			const { undoStack, redoStack, shot } = get();
			const last = undoStack[undoStack.length - 1];
			if (!last || get().looking) return;
			lastEdit = { name: "", path: "", at: 0 };
			const back = invert(last);
			commit(applyEdit(shot, back.patches), { ...back, name: `Undo ${last.name}` }, last, "undo", {
				undoStack: undoStack.slice(0, -1),
				redoStack: [...redoStack, last],
			});
			dropMissingSelection();
		},
		redo: () => {
			const { undoStack, redoStack, shot } = get();
			const next = redoStack[redoStack.length - 1];
			if (!next || get().looking) return;
			commit(applyEdit(shot, next.patches), { ...next, name: `Redo ${next.name}` }, next, "redo", {
				undoStack: [...undoStack, next],
				redoStack: redoStack.slice(0, -1),
			});
			dropMissingSelection();
		},
		select: (selection) => set({ selection }),
		set,
	};
	function dropMissingSelection() {
		const { selection, shot } = get();
		set({ selection: selection.filter((id) => objectOf(shot, id) !== undefined) });
	}
});

export function initialState() {
	return {
		shotId: "",
		shot: emptyShot("Shot"),
		save: { kind: "saved", at: "" } as SaveState,
		undoStack: [],
		redoStack: [],
		left: null,
		looking: null,
		selection: [],
		renaming: null,
		frame: 1,
		playing: false,
		loop: true,
		everyFrame: false,
		follows: false,
		bodies: [],
		drawings: {},
		hashes: {},
		problems: [],
		reports: {},
		pieces: {},
		frameHashes: [],
		crumbs: [],
		findings: [],
		colliders: {},
		colliderLines: null,
		building: null,
		waiting: null,
		take: null,
		takes: [],
		alone: null,
		settling: null,
		kept: { used: 0, unused: 0 },
		frames: { bodies: 0, chunks: [] },
		run: null,
		lastRun: null,
		tool: "pick" as GizmoTool,
		ownAxes: false,
		colourBy: "material" as ColourBy,
		pixels: null,
		showColliders: false,
		showCentres: false,
		showForces: false,
		showPaths: false,
		showTies: false,
		tieColour: "strength" as TieColour,
		ties: null,
		bound: null,
		explode: 0,
		camera: "free" as CameraView,
		lookAt: 0,
		curves: false,
		layer: null,
		table: false,
		draw: null,
		guides: null,
	};
}
