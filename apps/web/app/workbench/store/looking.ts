import type { EditWay, Shot } from "@rubble/core/shot";
import { toast } from "sonner";
import type { EditRow } from "~/data/edits.server";
import { getJson } from "~/workers/network";
import { useWorkbench } from "./store";

/** A step of the change log: its last edit stands for a drag. */
export interface Revision {
	readonly revision: number;
	readonly name: string;
	readonly way: EditWay;
	readonly at: string;
}

/** The change log, the newest first, a row for each step. */
export async function listRevisions(shotId: string): Promise<Revision[]> {
	const rows = (await getJson(`/api/shots/${shotId}/edits`)) as readonly EditRow[];
	const steps: Revision[] = rows.filter((row, n) => row.step === null || rows[n - 1]?.step !== row.step || rows[n - 1]!.way !== row.way);
	const first = rows.at(-1);
	if (first?.revision === 1) steps.push({ revision: 0, name: "As it began", way: "do", at: first.at });
	return steps;
}

/** Shows the shot as it was after a revision; nothing is changed by that. */
export async function lookAt({ revision, name, at }: Pick<Revision, "revision" | "name" | "at">): Promise<void> {
	const { shotId } = useWorkbench.getState();
	try {
		const then = (await getJson(`/api/shots/${shotId}/edits?revision=${revision}`)) as Shot;
		const { looking, shot, shotId: still } = useWorkbench.getState();
		if (still === shotId) useWorkbench.setState({ shot: then, looking: { revision, name, at, now: looking?.now ?? shot }, selection: [] });
	} catch (error) {
		toast.error((error as Error).message);
	}
}

/** Back to the shot as it is. */
export function lookNoMore(): void {
	const { looking } = useWorkbench.getState();
	if (looking) useWorkbench.setState({ shot: looking.now, looking: null, selection: [] });
}

/** Makes the shot what is looked at: one step, which can be undone. */
export function bringBack(): void {
	const { looking, shot } = useWorkbench.getState();
	if (!looking) return;
	lookNoMore();
	useWorkbench.getState().performEdit({
		name: `Back to revision ${looking.revision}`,
		patches: [{ op: "replace", path: [], value: shot }],
		inverse: [{ op: "replace", path: [], value: looking.now }],
	});
	toast.success(`The shot is what it was at revision ${looking.revision}. Undo takes that back.`);
}
