import { type EditWay, type Patch, parseChange, replay, type Shot, squash } from "@rubble/core/shot";
import { toast } from "sonner";
import { getJson } from "~/workers/network";
import { type Autosave, forgetLeftBehind, type Left, leftBehind, type Unsaved } from "./autosave";
import { type Step, useWorkbench } from "./store";

/** An edit of the change log, as the server sends it. */
interface LoggedEdit {
	readonly revision: number;
	readonly step: string | null;
	readonly way: EditWay;
	readonly name: string;
	readonly patches: readonly Patch[];
	readonly inverse: readonly Patch[] | null;
}

/** Takes up what was before the page was opened: steps of undo, and edits that did not reach the server. */
export async function recover(shotId: string, revision: number, autosave: Autosave, isOpen: () => boolean): Promise<void> {
	const { shot } = useWorkbench.getState();
	try {
		const log = (await getJson(`/api/shots/${shotId}/edits?steps`)) as readonly LoggedEdit[];
		// Whoever has begun to work meanwhile goes on with what there is.
		if (!isOpen() || useWorkbench.getState().shot !== shot) return;
		if ((log.at(-1)?.revision ?? revision) === revision) useWorkbench.setState(stacksOf(log));
	} catch {
		// Without the log there is nothing to undo; everything else is as it was.
	}
	for (const left of await leftBehind(shotId)) {
		if (!isOpen()) return;
		const { base, edits } = await unknownOf(shotId, left);
		const rest: Left = { ...left, base, edits };
		if (edits.length === 0) forgetLeftBehind(left);
		else if (base !== revision || useWorkbench.getState().shot !== shot || !takeUp(rest, autosave)) useWorkbench.setState({ left: rest });
	}
}

/** The edits that the server does not have: its answer may have been lost. They follow each other, so the first unknown one tells. */
async function unknownOf(shotId: string, { base, edits }: Left): Promise<Pick<Left, "base" | "edits">> {
	const AT_ONCE = 100;
	for (let from = 0; from < edits.length; from += AT_ONCE) {
		const asked = edits.slice(from, from + AT_ONCE);
		const known = (await getJson(`/api/shots/${shotId}/patches?edits=${asked.map(({ edit }) => edit).join()}`).catch(() => ({}))) as Record<
			string,
			number
		>;
		const first = asked.findIndex(({ edit }) => known[edit] === undefined);
		if (first < 0) continue;
		const before = first > 0 ? known[asked[first - 1]!.edit]! : undefined;
		return { base: before ?? base, edits: edits.slice(from + first) };
	}
	return { base, edits: [] };
}

/** Makes edits again that start from the shot as it is. False where they do not fit. */
function takeUp(left: Left, autosave: Autosave): boolean {
	const state = useWorkbench.getState();
	const made = remake(state.shot, left.edits);
	if (made.refused.length > 0) return false;
	autosave.takeUp(left.edits);
	forgetLeftBehind(left);
	useWorkbench.setState({ shot: made.shot, undoStack: [...state.undoStack, ...made.steps], redoStack: [] });
	toast.success(`${count(left.edits.length)} that had not been saved ${left.edits.length === 1 ? "was" : "were"} recovered.`);
	return true;
}

const count = (edits: number): string => (edits === 1 ? "One edit" : `${edits} edits`);

/** Edits on another shot than they were made on, one by one; those that do not fit it are told by their names. */
export function remake(shot: Shot, edits: readonly Unsaved[]) {
	const refused: string[] = [];
	const made: Unsaved[] = [];
	const steps: Step[] = [];
	let at = shot;
	for (const one of edits) {
		try {
			const next = replay(at, one.patches);
			if (parseChange(at, next.shot).ok) {
				at = next.shot;
				made.push(one);
				steps.push({ id: one.step, name: one.name, patches: one.patches, inverse: next.inverse });
				continue;
			}
		} catch {
			// It names what is not there any more.
		}
		refused.push(one.name);
	}
	return { shot: at, made, steps, refused };
}

/** Makes what was left behind again, on the shot as it is now: one step of undo. */
export function makeLeftAgain(): void {
	const { left, shot, performEdit } = useWorkbench.getState();
	if (!left) return;
	const { steps, refused } = remake(shot, left.edits);
	if (steps.length > 0) performEdit(squash(`Recover ${count(steps.length).toLowerCase()}`, steps));
	if (refused.length > 0) toast.error(`Not made, since the shot is another one by now: ${refused.join(", ")}.`, { duration: 12_000 });
	discardLeft();
}

export function discardLeft(): void {
	const { left } = useWorkbench.getState();
	if (left) forgetLeftBehind(left);
	useWorkbench.setState({ left: null });
}

/** What can be undone and redone after the edits of a log, oldest first. What it does not hold whole cannot. */
export function stacksOf(log: readonly LoggedEdit[]): { readonly undoStack: readonly Step[]; readonly redoStack: readonly Step[] } {
	let undo: Step[] = [];
	let redo: Step[] = [];
	for (const { step, way, name, patches, inverse } of log) {
		if (step === null || inverse === null) {
			undo = [];
			redo = [];
		} else if (way === "do") {
			const last = undo.at(-1);
			if (last?.id === step)
				undo[undo.length - 1] = { ...last, patches: [...last.patches, ...patches], inverse: [...inverse, ...last.inverse] };
			else undo.push({ id: step, name, patches, inverse });
			redo = [];
		} else {
			const [from, to] = way === "undo" ? [undo, redo] : [redo, undo];
			if (from.at(-1)?.id === step) to.push(from.pop()!);
			else {
				undo = [];
				redo = [];
			}
		}
	}
	return { undoStack: undo, redoStack: redo };
}
