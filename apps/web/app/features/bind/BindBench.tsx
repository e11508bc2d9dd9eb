import { changeBondSet, changeConnector, removeBondSet, removeConnectors } from "@rubble/core/shot";
import { Eye, EyeOff, Trash2 } from "lucide-react";
import { useEffect } from "react";
import { useWorkbench } from "~/workbench/store/store";
import { BondList } from "./BondList";
import { BondSetSection } from "./BondSetSection";
import { ChainSection } from "./ChainSection";
import { ConnectorList } from "./ConnectorList";
import { ConnectorSection } from "./ConnectorSection";
import { LinksSection } from "./LinksSection";

/** What holds on to what: bonds, connectors, chains. */
export function BindBench() {
	const { shotId, shot, bound, set } = useWorkbench();
	// biome-ignore lint/correctness/useExhaustiveDependencies: another shot begins with nothing shown.
	useEffect(() => {
		set({ showTies: true });
		return () => set({ showTies: false, draw: null });
	}, [set, shotId]);
	const there = bound && (bound.kind === "bonds" ? shot.bondSets[bound.id] : shot.connectors[bound.id]);
	if (bound && there)
		return (
			<>
				<BackBar />
				{bound.kind === "bonds" ? <BondSetSection id={bound.id} /> : <ConnectorSection id={bound.id} />}
			</>
		);
	return (
		<>
			<BondList />
			<ConnectorList />
			<ChainSection />
			<LinksSection />
		</>
	);
}

/** Back to the list, and what can be done with the set or connector as a whole. */
function BackBar() {
	const { shot, bound, perform, set } = useWorkbench();
	if (!bound) return null;
	const { id, kind } = bound;
	const hidden = (kind === "bonds" ? shot.bondSets[id] : shot.connectors[id])?.hidden === true;
	return (
		<div className="flex items-center gap-1.5 border-b border-line px-3.5 py-2">
			<button type="button" className="flex-1 text-left hover:text-kelp" onClick={() => set({ bound: null })}>
				‹ All bonds and connectors
			</button>
			<button
				type="button"
				className="button px-2!"
				aria-label={hidden ? "Turn on" : "Turn off"}
				onClick={() => perform(kind === "bonds" ? changeBondSet(id, { hidden: !hidden }) : changeConnector(id, { hidden: !hidden }))}
			>
				{hidden ? <EyeOff size={14} /> : <Eye size={14} />}
			</button>
			<button
				type="button"
				className="button px-2!"
				aria-label={kind === "bonds" ? "Remove these bonds" : "Remove this connector"}
				onClick={() => {
					perform(kind === "bonds" ? removeBondSet(id) : removeConnectors([id]));
					set({ bound: null });
				}}
			>
				<Trash2 size={14} />
			</button>
		</div>
	);
}
