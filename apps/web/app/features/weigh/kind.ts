import { type BodyKind, isBodiless, setBody, ungrouped } from "@rubble/core/shot";
import { useWorkbench } from "~/workbench/store/store";

/** Gives what is picked a kind of body, whatever stage is open. */
export function makePicked(kind: BodyKind): void {
	const { shot, selection, perform } = useWorkbench.getState();
	const bodies = ungrouped(shot, selection).filter((id) => !shot.objects[id] || !isBodiless(shot.objects[id]));
	if (bodies.length > 0) perform(setBody(bodies, { kind }));
}
