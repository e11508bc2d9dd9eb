import { addSlab, type Id, removeSlab } from "@rubble/core/shot";
import { Group, Trash2 } from "lucide-react";
import { Section } from "~/controls/Section";
import { useWorkbench } from "~/workbench/store/store";
import { bodiesPicked } from "./picked";
import { useCounts } from "./useCounts";

/** Larger parts that things come off in first: seen by colour, and made by hand. */
export function SlabsSection({ id }: { id: Id }) {
	const { shot, ties, colourBy, selection, perform, select, set } = useWorkbench();
	const made = shot.bondSets[id]!.slabs ?? [];
	const own = useCounts().get(id)?.bodies;
	// Of this set's bodies: others have slabs of their own.
	const count = new Set(ties?.slabs.filter((slab, i) => slab >= 0 && own?.has(ties.ids[i]!))).size;
	return (
		<Section title="Slabs" aside={count > 0 ? count.toLocaleString("en") : undefined}>
			<p className="text-slate">They come off whole first, and crumble later. Pick pieces to have them come off together.</p>
			<div className="flex flex-wrap gap-1.5 *:flex-1">
				<button type="button" className="button" disabled={selection.length === 0} onClick={() => perform(addSlab(id, bodiesPicked()))}>
					<Group size={14} /> Make one of what is picked
				</button>
				<button
					type="button"
					className="button"
					aria-pressed={colourBy === "slab"}
					onClick={() => set({ colourBy: colourBy === "slab" ? "material" : "slab" })}
				>
					Colour by slab
				</button>
			</div>
			{made.map((bodies, n) => (
				<div key={bodies.join()} className="flex items-center gap-2">
					<button type="button" className="link-action min-w-0 flex-1 truncate text-left" onClick={() => select(bodies)}>
						By hand, {bodies.length.toLocaleString("en")} pieces
					</button>
					<button type="button" className="button px-2!" aria-label={`Take back slab ${n + 1}`} onClick={() => perform(removeSlab(id, n))}>
						<Trash2 size={14} />
					</button>
				</div>
			))}
		</Section>
	);
}
