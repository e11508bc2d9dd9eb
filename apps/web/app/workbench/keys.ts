import { objectOf, ungrouped } from "@rubble/core/shot";
import { useEffect } from "react";
import { toast } from "sonner";
import { keyHere } from "~/features/keys/KeysSection";
import { deleteSelection, duplicateSelection, groupSelection } from "~/features/shape/reshape";
import { makePicked } from "~/features/weigh/kind";
import { STAGES, type StageId } from "./stages";
import { pickedKeyed } from "./store/selectors";
import { run, stopRun } from "./store/session";
import { type GizmoTool, useWorkbench } from "./store/store";

/** Leaves nothing but what is picked in the picture, or brings all back. */
export function isolate(): void {
	const { alone, shot, selection, set } = useWorkbench.getState();
	set({ alone: alone || selection.length === 0 ? null : ungrouped(shot, selection) });
}

/** Asks for a new name of what was picked last, in its row of the ledger. */
export function renamePicked(): void {
	const { shot, selection, set } = useWorkbench.getState();
	const last = selection.at(-1);
	const id = last === undefined ? undefined : objectOf(shot, last);
	if (id === undefined) toast("Pick an object first; then F2 renames it.");
	else if (last !== id) toast("Pieces and copies are named after their object, which can be renamed.");
	else set({ renaming: id });
}

/** Looks through the camera that is picked, or the first one there is; or leaves it. */
function lookThrough(): void {
	const { shot, selection, camera, set } = useWorkbench.getState();
	const cameras = Object.keys(shot.objects).filter((id) => shot.objects[id]!.source.kind === "camera");
	const wanted = cameras.find((id) => selection.includes(id)) ?? cameras[0];
	if (wanted !== undefined) set({ camera: camera === wanted ? "free" : wanted });
}

const TOOL_ORDER: readonly GizmoTool[] = ["pick", "move", "turn", "size"];

/** Keys act only while no field has the focus; Space and Enter only outside buttons. */
export function useShortcuts(onStage: (stage: StageId) => void, onPalette: () => void, onHelp: () => void): void {
	useEffect(() => {
		const onKey = (event: KeyboardEvent) => {
			const target = event.target as HTMLElement;
			const control = event.ctrlKey || event.metaKey;
			if (control && event.key.toLowerCase() === "k") {
				event.preventDefault();
				onPalette();
				return;
			}
			if (target.closest("input:not([type=checkbox]), textarea, select, [contenteditable], [role=dialog], [role=listbox], [role=menu]")) {
				if (!(control && ["Enter", "."].includes(event.key))) return;
			}
			const { set, frame, playing, shot, tool, ownAxes, table, selection, undo, redo, select, lookAt } = useWorkbench.getState();
			const { firstFrame, lastFrame } = shot.settings;
			const go = (to: number) => set({ frame: Math.min(lastFrame, Math.max(firstFrame, to)), playing: false });
			const step = event.shiftKey ? 10 : 1;
			const done = (act: () => void) => {
				event.preventDefault();
				act();
			};
			if (control) {
				const key = event.key.toLowerCase();
				if (key === "enter") done(() => void run());
				else if (key === ".") done(stopRun);
				else if (key === "z") done(event.shiftKey ? redo : undo);
				else if (key === "y") done(redo);
				else if (key === "d") done(duplicateSelection);
				else if (key === "g") done(groupSelection);
				return;
			}
			if (event.altKey) return;
			const stage = STAGES.find(({ number }) => event.key === String(number));
			if (stage) return done(() => onStage(stage.id));
			switch (event.key) {
				case " ":
					if (!target.closest("button, a, [role=slider], [role=treeitem]") || target.getAttribute("aria-label") === "Frame")
						done(() => set({ playing: !playing }));
					return;
				case "ArrowLeft":
					if (!target.closest("[role=slider][aria-labelledby], [role=tree], [role=radiogroup]")) done(() => go(frame - step));
					return;
				case "ArrowRight":
					if (!target.closest("[role=slider][aria-labelledby], [role=tree], [role=radiogroup]")) done(() => go(frame + step));
					return;
				case "Home":
					return done(() => go(firstFrame));
				case "End":
					return done(() => go(lastFrame));
				case "Delete":
				case "Backspace":
					return done(deleteSelection);
				case "Escape":
					return done(() => (tool !== "pick" ? set({ tool: "pick" }) : select([])));
				case "F2":
					return done(renamePicked);
				case "?":
					return done(onHelp);
			}
			switch (event.key.toLowerCase()) {
				case "t":
					return done(() => set({ tool: TOOL_ORDER[(TOOL_ORDER.indexOf(tool) + 1) % TOOL_ORDER.length]! }));
				case "w":
					return done(() => set({ table: !table }));
				case "o":
					return done(() => set({ ownAxes: !ownAxes }));
				case "f":
					return done(() => set({ lookAt: lookAt + 1 }));
				case "l":
					return done(lookThrough);
				case "i":
					return done(isolate);
				case "a":
					return done(() => makePicked("active"));
				case "p":
					return done(() => makePicked("passive"));
				case "c":
					return done(() => document.getElementById("checks")?.focus());
				case "k":
					return done(() => keyHere(pickedKeyed({ shot, selection })));
			}
		};
		/** A button that has the focus, or a list's, would be pressed by the Enter of it too. */
		const onButton = (event: KeyboardEvent) => {
			if (!(event.ctrlKey || event.metaKey) || event.key !== "Enter" || !(event.target as HTMLElement).closest("button")) return;
			event.preventDefault();
			event.stopPropagation();
			void run();
		};
		window.addEventListener("keydown", onKey);
		window.addEventListener("keydown", onButton, true);
		return () => {
			window.removeEventListener("keydown", onKey);
			window.removeEventListener("keydown", onButton, true);
		};
	}, [onStage, onPalette, onHelp]);
}
