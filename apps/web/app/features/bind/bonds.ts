import { addBondSet, fractureOf, type Id, type OptionValue, objectPath, type Shot, unusedName } from "@rubble/core/shot";
import { newId } from "~/workbench/ids";
import { pickedSolids } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";

/** The rule that means everything under these objects. */
export function ruleFor(shot: Shot, ids: readonly Id[]): string {
	return ids
		.map((id) => {
			const path = objectPath(shot, id);
			const broken = fractureOf(shot, id) !== undefined || shot.objects[id]!.source.kind === "array";
			return `"${path}${broken ? "/*" : ""}"`;
		})
		.join(" or ");
}

/** Bonds the pieces of what is picked to each other; by closeness where something picked is not broken, or stands in rows. */
export function bondPicked(): void {
	const { shot, perform, set } = useWorkbench.getState();
	const ids = pickedSolids(useWorkbench.getState());
	if (ids.length === 0) return;
	const id = newId();
	const whole = ids.some((object) => fractureOf(shot, object) === undefined);
	const near: Record<string, OptionValue> = whole || ids.length > 1 ? { by: "near", among: "all" } : {};
	const name = ids.length === 1 ? shot.objects[ids[0]!]!.name : "Several";
	perform(
		addBondSet(id, {
			name: unusedName(
				name,
				Object.values(shot.bondSets).map((set) => set.name),
			),
			options: { on: ruleFor(shot, ids), foot: "none", ...near },
			changes: [],
			hidden: false,
		}),
	);
	set({ bound: { kind: "bonds", id } });
}
