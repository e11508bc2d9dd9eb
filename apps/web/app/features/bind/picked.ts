import { useWorkbench } from "~/workbench/store/store";

/** Bodies that the selection stands for, as ids of bodies. */
export function bodiesPicked(): string[] {
	const { bodies, selection } = useWorkbench.getState();
	const ids = new Set(selection);
	return bodies.filter((body) => ids.has(body.id) || ids.has(body.object)).map((body) => body.id);
}
