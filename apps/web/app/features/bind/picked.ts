import { selectedBodies } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";

/** Bodies that the selection stands for, as ids of bodies. */
export function bodiesPicked(): string[] {
	return selectedBodies(useWorkbench.getState()).map((body) => body.id);
}
