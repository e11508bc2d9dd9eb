import type { BakeOptions } from "@rubble/core/bake";
import type { ExportRange } from "@rubble/core/formats";
import { degrees } from "@rubble/core/maths";
import { formatNumber, type Id, objectOf, objectPath } from "@rubble/core/shot";
import { unbake } from "@rubble/core/takes";
import { ChartSpline } from "lucide-react";
import { toast } from "sonner";
import { Section } from "~/controls/Section";
import { useWorkbench } from "~/workbench/store/store";
import { coreWorker } from "~/workers/client";

/** Keys on the objects themselves: they follow them from then on, and their curves can be edited. */
export function KeysBakeSection({ range, options }: { range: ExportRange; options: BakeOptions }) {
	const { shot, selection, curves, perform, performEdit, set, select } = useWorkbench();
	const picked = [...new Set(selection.flatMap((id) => objectOf(shot, id) ?? []))];
	const baked = Object.keys(shot.objects).filter((id) => shot.objects[id]!.baked);
	const bake = async () => {
		try {
			const made = await coreWorker().keysFromTake(shot, picked, range, options);
			if (made.baked.length === 0)
				throw new Error("Pick whole objects that moved in the take. Pieces and copies have no keys of their own; write them into a file.");
			performEdit(made.edit);
			const { keys, fullKeys, position, rotation } = made.error;
			toast.success(
				`${made.baked.length} baked: ${keys.toLocaleString("en")} of ${fullKeys.toLocaleString("en")} keys, off by at most ${formatNumber(position * 1000, 3)} mm and ${formatNumber(degrees(rotation), 3)}°.${made.left.length > 0 ? ` ${made.left.length} left out: they are broken or copies.` : ""}`,
				{ duration: 8000 },
			);
			set({ curves: true });
		} catch (error) {
			toast.error((error as Error).message, { duration: 8000 });
		}
	};
	const undo = (ids: readonly Id[]) => perform(unbake(ids));
	return (
		<Section title="Keys on objects" aside={baked.length > 0 ? `${baked.length} baked` : undefined}>
			<p className="text-slate">What is baked follows its keys instead of the simulation, and pushes what still simulates.</p>
			<button type="button" className="button" disabled={picked.length === 0} onClick={() => void bake()}>
				<ChartSpline size={14} />{" "}
				{picked.length === 0 ? "Pick objects to bake" : `Bake ${picked.length === 1 ? "it" : picked.length} to keys`}
			</button>
			{baked.length > 0 && (
				<ul aria-label="Baked objects">
					{baked.map((id) => (
						<li key={id} className="flex items-center gap-1.5">
							<button
								type="button"
								className="min-w-0 flex-1 truncate text-left hover:underline"
								onClick={() => {
									select([id]);
									set({ curves: true });
								}}
							>
								{objectPath(shot, id)} <span className="text-slate">from {shot.objects[id]!.baked!.take}</span>
							</button>
							<button
								type="button"
								className="link-action"
								aria-label={`Delete the bake of ${objectPath(shot, id)}`}
								onClick={() => undo([id])}
							>
								Delete bake
							</button>
						</li>
					))}
				</ul>
			)}
			{baked.length > 0 && !curves && (
				<button type="button" className="button" onClick={() => set({ curves: true })}>
					Edit as curves
				</button>
			)}
		</Section>
	);
}
