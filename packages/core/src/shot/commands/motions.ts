import type { Draft } from "immer";
import type { Shot } from "../types";

/** A piece or copy without keys of its own; it goes with its object again. */
export function dropMotion(shot: Draft<Shot>, id: string): void {
	if (!shot.motions) return;
	delete shot.motions[id];
	if (Object.keys(shot.motions).length === 0) delete shot.motions;
}
