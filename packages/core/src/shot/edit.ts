import { applyPatches, type Draft, enablePatches, type Patch, produceWithPatches } from "immer";
import type { Shot } from "./types";

enablePatches();

/** A change to the shot: a name people see (“Break Breakwater”), and what it does to the document. */
export interface Command {
	readonly name: string;
	readonly apply: (shot: Draft<Shot>) => void;
}

/** Several commands as one: one name, one step of undo. */
export const together = (name: string, commands: readonly Command[]): Command => ({
	name,
	apply: (shot) => {
		for (const command of commands) command.apply(shot);
	},
});

/** The same change of each of several objects as one step; of one alone it is that command. */
export const toEach = (commands: readonly Command[]): Command =>
	commands.length === 1 ? commands[0]! : together(`${commands[0]?.name ?? "Change"} ${commands.length} objects`, commands);

/** What a command did, as data: the currency of undo, autosave and conflict detection. */
export interface Edit {
	readonly name: string;
	readonly patches: readonly Patch[];
	readonly inverse: readonly Patch[];
}

/** Runs a command. The shot is the same object where nothing changed. */
export function edit(shot: Shot, command: Command): { shot: Shot; edit: Edit } {
	const [next, patches, inverse] = produceWithPatches(shot, (draft) => {
		command.apply(draft);
	});
	return { shot: next, edit: { name: command.name, patches, inverse } };
}

/** Whether an edit makes a step of undo, takes it back, or makes it again. */
export type EditWay = "do" | "undo" | "redo";

/** The shot after patches, and the patches that take them back. Throws where they do not fit. */
export function replay(shot: Shot, patches: readonly Patch[]): { shot: Shot; inverse: readonly Patch[] } {
	const [next, , inverse] = produceWithPatches(shot, (draft) => applyPatches(draft, [...patches]) as Draft<Shot>);
	return { shot: next, inverse };
}

export const applyEdit = (shot: Shot, patches: readonly Patch[]): Shot => applyPatches(shot, [...patches]);

/** The edit that takes `edit` back. */
export const invert = (edit: Edit): Edit => ({ name: edit.name, patches: edit.inverse, inverse: edit.patches });

/** Several edits as one, in order. */
export const squash = (name: string, edits: readonly Edit[]): Edit => ({
	name,
	patches: edits.flatMap((e) => e.patches),
	inverse: [...edits].reverse().flatMap((e) => e.inverse),
});

export type { Patch } from "immer";
