import type { BodyRow } from "@rubble/core/bodies";
import { lastStored } from "@rubble/core/cache";
import { type Id, objectOf, ungrouped } from "@rubble/core/shot";
import { hashesOver, staleFrom } from "@rubble/core/simulation";

import type { WorkbenchState } from "./store";

/** The object that the bench is about: that of the last picked row. */
export function currentObject({ shot, selection }: Pick<WorkbenchState, "shot" | "selection">): Id | undefined {
	const last = selection[selection.length - 1];
	return last === undefined ? undefined : objectOf(shot, last);
}

/** What keys on show are of: the last picked piece or copy where it has its own, else its object. */
export const currentKeyed = ({ shot, selection }: Pick<WorkbenchState, "shot" | "selection">): string | undefined =>
	pickedKeyed({ shot, selection: selection.slice(-1) })[0];

/** The same of all that is picked. */
export const pickedKeyed = ({ shot, selection }: Pick<WorkbenchState, "shot" | "selection">): string[] => [
	...new Set(
		selection.flatMap((id) => {
			const object = objectOf(shot, id);
			// Pieces that are broken no more have keys without a home.
			return object === undefined ? [] : shot.motions?.[id] ? [id] : [object];
		}),
	),
];

/** What people see of an object, a piece or a copy. */
export const nameOf = ({ shot, bodies }: Pick<WorkbenchState, "shot" | "bodies">, id: string): string =>
	shot.objects[id]?.name ?? bodies.find((body) => body.id === id)?.path ?? id;

/** What is picked, with groups as the objects that they hold: what weighs something, breaks and is bonded. */
export const pickedParts = ({ shot, selection }: Pick<WorkbenchState, "shot" | "selection">): string[] => ungrouped(shot, selection);

/** The objects that the selection stands for, groups among them, in its order: what is placed, copied and grouped. */
export const pickedObjects = ({ shot, selection }: Pick<WorkbenchState, "shot" | "selection">): Id[] => [
	...new Set(selection.flatMap((id) => objectOf(shot, id) ?? [])),
];

/** The same, with groups as what they hold. */
export const pickedSolids = ({ shot, selection }: Pick<WorkbenchState, "shot" | "selection">): Id[] =>
	pickedObjects({ shot, selection: pickedParts({ shot, selection }) });

/** Bodies that the selection stands for: an object means all of its pieces, a group all of its objects. */
export function selectedBodies(state: Pick<WorkbenchState, "shot" | "bodies" | "selection">): BodyRow[] {
	const { bodies } = state;
	const ids = new Set(pickedParts(state));
	return bodies.filter((body) => ids.has(body.id) || ids.has(body.object));
}

/** Those of them that move by themselves, whose places can be kept; with `loose`, those without physics too, which can settle. */
export const pickedMovers = (state: Pick<WorkbenchState, "shot" | "bodies" | "selection">, loose = false): BodyRow[] =>
	selectedBodies(state).filter(({ settings }) => settings.kind === "active" || (loose && settings.kind === "none"));

export interface FrameFacts {
	/** The last frame that is stored without a hole; first − 1 where there is none. */
	readonly stored: number;
	/** The first stored frame that no longer follows from the shot; stored + 1 where all do. */
	readonly stale: number;
	readonly last: number;
	readonly first: number;
}

export function frameFacts({
	shot,
	frames,
	take,
	frameHashes,
}: Pick<WorkbenchState, "shot" | "frames" | "take" | "frameHashes">): FrameFacts {
	const first = shot.settings.firstFrame;
	const begun = take?.take.snapshot.settings.firstFrame ?? first;
	const stored = lastStored(frames, begun);
	const stale = take ? Math.min(stored + 1, staleFrom(take.take.frameHashes, hashesOver(take.take, frameHashes), first)) : first;
	return { stored, stale, last: shot.settings.lastFrame, first };
}
