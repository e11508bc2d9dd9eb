import type { Id } from "@rubble/core/shot";
import { useWorkbench } from "~/workbench/store/store";

interface BondCounts {
	count: number;
	/** Of them, to what holds still. */
	rooted: number;
	/** Highest share of a bond's strength that the own weight takes. */
	worst: number;
	/** What they tie, by id. */
	readonly bodies: Set<string>;
}

/** What each bond set makes. */
export function useCounts(): ReadonlyMap<Id, Readonly<BondCounts>> {
	const ties = useWorkbench((state) => state.ties);
	const counts = new Map<Id, BondCounts>();
	ties?.bonds.set.forEach((set, k) => {
		const id = ties.sets[set]!;
		const known = counts.get(id) ?? { count: 0, rooted: 0, worst: 0, bodies: new Set<string>() };
		known.count++;
		known.rooted += ties.bonds.rooted[k]!;
		known.bodies.add(ties.ids[ties.bonds.bodies[2 * k]!]!);
		if (ties.bonds.rooted[k] === 0) known.bodies.add(ties.ids[ties.bonds.bodies[2 * k + 1]!]!);
		known.worst = Math.max(known.worst, ties.bonds.use[k]!);
		counts.set(id, known);
	});
	return counts;
}
