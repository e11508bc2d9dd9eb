import { BOND_SET } from "@rubble/core/bonds";
import { changeBondSet, formatNumber, type Id, setBondOption } from "@rubble/core/shot";
import { Fact, Section } from "~/controls/Section";
import { TextField } from "~/controls/TextField";
import { useWorkbench } from "~/workbench/store/store";
import { BindOptions } from "./BindOptions";
import { BondChangesSection } from "./BondChangesSection";
import { SlabsSection } from "./SlabsSection";
import { useCounts } from "./useCounts";

const RARE_BOND = ["by", "reach", "radius", "most", "among", "uneven", "grain", "yields", "fades", "fade", "seed", "toughness"];

/** A bond set: what it ties, how strongly, and what that comes to. */
export function BondSetSection({ id }: { id: Id }) {
	const { shot, bodies, crumbs, perform } = useWorkbench();
	const counts = useCounts().get(id);
	const { name, options, changes, slabs = [] } = shot.bondSets[id]!;
	const stones = crumbs.filter(({ crumbSet }) => crumbSet === id).length;
	const small = bodies.filter((body) => counts?.bodies.has(body.id) && body.size <= Number(options.dust ?? 0)).length;
	return (
		<>
			<Section title="Bonds" aside={counts ? `${counts.count.toLocaleString("en")} bonds` : undefined}>
				<TextField label="Name" value={name} onChange={(next) => perform(changeBondSet(id, { name: next.trim() || name }))} />
				{counts && (
					<>
						<Fact label="Held by the ground" value={`${counts.rooted.toLocaleString("en")} of them`} />
						{counts.rooted > 0 && (
							<Fact
								label="Own weight takes"
								value={`${formatNumber(100 * counts.worst, 2)} %`}
								{...(counts.worst >= 1 && { tone: "error" as const })}
							/>
						)}
					</>
				)}
				<BindOptions
					described={BOND_SET}
					values={{ ...options, byHand: slabs.length }}
					rare={RARE_BOND}
					onChange={(option, value) => perform(setBondOption(id, option, value))}
				/>
				{counts && Number(options.dust ?? 0) > 0 && options.strength !== "endless" && (
					<Fact label="May crumble" value={`${small.toLocaleString("en")} of ${counts.bodies.size.toLocaleString("en")}`} />
				)}
				{stones > 0 && <Fact label="Stones of them" value={stones.toLocaleString("en")} />}
			</Section>
			{options.strength !== "endless" && <SlabsSection id={id} />}
			<BondChangesSection id={id} changes={changes} />
		</>
	);
}
