import { changeBondSet } from "@rubble/core/shot";
import { Waypoints } from "lucide-react";
import { Section } from "~/controls/Section";
import { pickedSolids } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";
import { bondPicked } from "./bonds";
import { ListRow } from "./ListRow";
import { useCounts } from "./useCounts";

/** All bond sets of the shot, and a new one of what is picked. */
export function BondList() {
	const { shot, perform, set, selection } = useWorkbench();
	const counts = useCounts();
	const sets = Object.entries(shot.bondSets).sort(([, a], [, b]) => (a.name < b.name ? -1 : 1));
	const picked = pickedSolids(useWorkbench.getState());
	return (
		<Section title="Bonds" aside={sets.length > 0 ? sets.length : undefined}>
			{sets.length === 0 && (
				<p className="text-slate">Bonds hold pieces together until the stress in them is too high. Pick a broken object and bond it.</p>
			)}
			{sets.map(([id, { name, hidden }]) => (
				<ListRow
					key={id}
					name={name}
					note={hidden ? "off" : `${(counts.get(id)?.count ?? 0).toLocaleString("en")} bonds`}
					hidden={hidden}
					onPick={() => set({ bound: { kind: "bonds", id } })}
					onHide={() => perform(changeBondSet(id, { hidden: !hidden }))}
				/>
			))}
			<button type="button" className="button button-primary" disabled={selection.length === 0} onClick={bondPicked}>
				<Waypoints size={15} />{" "}
				{picked.length === 1 ? `Bond ${shot.objects[picked[0]!]?.name}` : picked.length > 1 ? "Bond what is picked" : "Pick what to bond"}
			</button>
		</Section>
	);
}
