export interface Shortcut {
	readonly keys: string;
	readonly what: string;
}

/** As listed under `?`. */
export const SHORTCUTS: readonly Shortcut[] = [
	{ keys: "1 to 7", what: "Go to a stage" },
	{ keys: "Space", what: "Play, pause" },
	{ keys: "← →", what: "A frame back or on; with Shift ten" },
	{ keys: "Home End", what: "First and last frame" },
	{ keys: "Ctrl Enter", what: "Run" },
	{ keys: "Ctrl .", what: "Stop a run" },
	{ keys: "Ctrl Z", what: "Undo; with Shift redo" },
	{ keys: "Ctrl D", what: "Duplicate" },
	{ keys: "F2", what: "Rename what is picked" },
	{ keys: "Ctrl G", what: "Group what is picked" },
	{ keys: "Delete", what: "Delete the picked objects" },
	{ keys: "A P", what: "What is picked is active, or passive" },
	{ keys: "K", what: "Set a key of what is picked at this frame; what took no part is animated then" },
	{ keys: "T", what: "Next tool: pick, move, turn, size" },
	{ keys: "O", what: "Move and turn along the thing's own axes, or the world's" },
	{ keys: "F", what: "Look at the selection" },
	{ keys: "L", what: "Look through the picked camera, or the first one; again to leave it" },
	{ keys: "I", what: "Show only what is picked, or all again" },
	{ keys: "W", what: "The wide ledger: all columns, to sort, edit and take out as CSV" },
	{ keys: "C", what: "Go to the checks" },
	{ keys: "Esc", what: "Drop the tool, then the selection" },
	{ keys: "Ctrl K", what: "Find a command, object or setting" },
	{ keys: "?", what: "All keys" },
];
