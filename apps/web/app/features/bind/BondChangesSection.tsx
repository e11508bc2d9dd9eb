import { addBondChange, editBondChange, type Id, removeBondChange, type Shot } from "@rubble/core/shot";
import { Brush, Filter, Link2, Trash2 } from "lucide-react";
import { Labelled } from "~/controls/Labelled";
import { NumberField } from "~/controls/NumberField";
import { RuleField } from "~/controls/RuleField";
import { Section } from "~/controls/Section";
import { newId } from "~/workbench/ids";
import { filterBodies } from "~/workbench/ledger/rows";
import { useWorkbench } from "~/workbench/store/store";
import { bodiesPicked } from "./picked";

/** Weak lines, and what is made weaker or stronger by a choice or a rule. */
export function BondChangesSection({ id, changes }: { id: Id; changes: Shot["bondSets"][string]["changes"] }) {
	const { shot, bodies, perform, set, draw, selection } = useWorkbench();
	const drawing = draw?.what === "weak";
	const active = bodies.filter(({ settings }) => settings.kind === "active");
	return (
		<Section title="Weaker, stronger" aside={changes.length > 0 ? changes.length : undefined}>
			<div className="flex flex-wrap gap-1.5 *:flex-1">
				<button
					type="button"
					className="button"
					aria-pressed={drawing}
					onClick={() => set({ draw: drawing ? null : { what: "weak", set: id, factor: 0.2, reach: 0.2 } })}
				>
					<Brush size={14} /> Weak line
				</button>
				<button
					type="button"
					className="button"
					disabled={selection.length === 0}
					onClick={() => perform(addBondChange(id, { id: newId(), bodies: bodiesPicked(), rule: "", strokes: [], reach: 0, factor: 0.5 }))}
				>
					<Link2 size={14} /> What is picked
				</button>
				<button
					type="button"
					className="button"
					onClick={() => perform(addBondChange(id, { id: newId(), bodies: [], rule: "", strokes: [], reach: 0, factor: 1 }))}
				>
					<Filter size={14} /> By a rule
				</button>
			</div>
			{changes.map((change) => (
				<fieldset key={change.id} className="flex flex-col gap-1.5 rounded-md border border-line p-2">
					<div className="flex items-center justify-between gap-2">
						<span className="text-slate">
							{change.strokes.length > 0
								? "Along a line"
								: change.bodies.length > 0
									? `${change.bodies.length.toLocaleString("en")} pieces`
									: `By a rule, ${filterBodies(shot, active, change.rule).bodies.length.toLocaleString("en")} pieces`}
						</span>
						<button
							type="button"
							className="button px-2!"
							aria-label="Take this change back"
							onClick={() => perform(removeBondChange(id, change.id))}
						>
							<Trash2 size={14} />
						</button>
					</div>
					{change.strokes.length === 0 && change.bodies.length === 0 && (
						<Labelled label="Between" help="Bonds whose two ends both fit: height < 0.4 m, volume < 2 dm³, in a region by its name" top>
							<RuleField
								label="Between"
								rule={change.rule}
								placeholder="everything"
								onChange={(rule) => perform(editBondChange(id, change.id, { rule }))}
							/>
						</Labelled>
					)}
					<NumberField
						label="Strength"
						help="As a multiple of what it was; 0 cuts"
						unit="×"
						least={0}
						most={1000}
						digits={4}
						value={change.factor}
						onChange={(factor) => perform(editBondChange(id, change.id, { factor }))}
					/>
					{change.strokes.length > 0 && (
						<NumberField
							label="Reach"
							help="How far from the line, less towards its end"
							unit="m"
							least={0}
							most={1000}
							digits={4}
							value={change.reach}
							onChange={(reach) => perform(editBondChange(id, change.id, { reach }))}
						/>
					)}
				</fieldset>
			))}
		</Section>
	);
}
