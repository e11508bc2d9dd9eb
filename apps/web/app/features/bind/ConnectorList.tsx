import { CONNECTORS, connectorById } from "@rubble/core/connectors";
import { changeConnector, formatQuantity, type Id } from "@rubble/core/shot";
import { mostBorne } from "@rubble/core/takes";
import { Cable, Lock, MoveHorizontal, Pin, RotateCw, Spline } from "lucide-react";
import { useMemo } from "react";
import { Section } from "~/controls/Section";
import { TileButton } from "~/controls/TileButton";
import { useWorkbench } from "~/workbench/store/store";
import { connectPicked } from "./connect";
import { ListRow } from "./ListRow";

const ICONS: Readonly<Record<string, React.ReactNode>> = {
	fixed: <Lock size={18} />,
	pin: <Pin size={18} />,
	hinge: <RotateCw size={18} />,
	slider: <MoveHorizontal size={18} />,
	spring: <Spline size={18} />,
	rope: <Cable size={18} />,
};

/** All connectors of the shot, and new ones of what is picked. */
export function ConnectorList() {
	const { shot, perform, set, selection, ties, take, frames } = useWorkbench();
	const connectors = Object.entries(shot.connectors).sort(([, a], [, b]) => (a.name < b.name ? -1 : 1));
	const joints = (id: Id) => ties?.joints.filter(({ connector }) => connector === id).length ?? 0;
	const made = (id: Id, kind: string): string => `${joints(id) === 1 ? "" : `${joints(id)} × `}${connectorById(kind)?.label ?? ""}`;
	/** What each bore at most in the take on show. */
	const most = useMemo(() => mostBorne(take?.take, frames), [take, frames]);
	const bore = (id: Id): string => (most.has(id) ? ` · ${formatQuantity(most.get(id)!, "force")}` : "");
	const hint =
		selection.length === 0
			? "Pick one thing to hold it where it is, or two (Ctrl) to join them."
			: selection.length === 1
				? "Joins what is picked to the world. Ctrl and click a second one to join the two."
				: "Joins the two last picked.";
	return (
		<Section title="Connectors" aside={connectors.length > 0 ? connectors.length : undefined}>
			<p className="text-slate">{hint}</p>
			<div className="grid grid-cols-3 gap-1.5">
				{CONNECTORS.map(({ id, label, help }) => (
					<TileButton
						key={id}
						label={label}
						name={`Add ${label.toLowerCase()}`}
						title={help}
						icon={ICONS[id]}
						onClick={() => connectPicked(id)}
					/>
				))}
			</div>
			{connectors.map(([id, { name, hidden, connector }]) => (
				<ListRow
					key={id}
					name={name}
					note={hidden ? "off" : `${made(id, connector)}${bore(id)}`}
					about={most.has(id) ? "The most that it bore in the take" : undefined}
					hidden={hidden}
					onPick={() => set({ bound: { kind: "connector", id }, selection: [], tool: "move" })}
					onHide={() => perform(changeConnector(id, { hidden: !hidden }))}
				/>
			))}
		</Section>
	);
}
