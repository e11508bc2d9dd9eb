import type { BakeOptions } from "@rubble/core/bake";
import type { ExportRange } from "@rubble/core/formats";
import { degrees } from "@rubble/core/maths";
import { formatNumber, objectPath } from "@rubble/core/shot";
import { bakedThings, unbake } from "@rubble/core/takes";
import { ChartSpline } from "lucide-react";
import { toast } from "sonner";
import { Section } from "~/controls/Section";
import { currentKeyed, nameOf } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";
import { coreWorker } from "~/workers/client";
import { MotionSection } from "../keys/MotionSection";

function labelOf(picked: number, movers: number): string {
	if (picked === 1) return "Bake it to keys";
	if (picked > 1) return `Bake ${picked.toLocaleString("en")} to keys`;
	return movers > 0 ? `Bake all ${movers.toLocaleString("en")} to keys` : "Pick what to bake";
}

/** How many are named; the others can be picked. */
const MOST_LISTED = 12;

/** Keys on objects, pieces and copies themselves: they follow them from then on, and their curves can be edited. */
export function KeysBakeSection({ range, options }: { range: ExportRange; options: BakeOptions }) {
	const { shot, selection, bodies, curves, perform, performEdit, set, select } = useWorkbench();
	const keyed = currentKeyed({ shot, selection });
	const baked = bakedThings(shot);
	const pathOf = (id: string) => (shot.objects[id] ? objectPath(shot, id) : nameOf({ shot, bodies }, id));
	// Where nothing is picked, all that moves by itself is meant.
	const movers = bodies.filter(({ settings }) => settings.kind === "active").map(({ id }) => id);
	const wanted = selection.length > 0 ? selection : movers;
	const bake = async () => {
		try {
			const made = await coreWorker().keysFromTake(shot, wanted, range, options);
			if (made.baked.length === 0) throw new Error("The take knows nothing of what is picked. Pick what took part in it.");
			performEdit(made.edit);
			const { keys, fullKeys, position, rotation } = made.error;
			toast.success(
				`${made.baked.length} baked: ${keys.toLocaleString("en")} of ${fullKeys.toLocaleString("en")} keys, off by at most ${formatNumber(position * 1000, 3)} mm and ${formatNumber(degrees(rotation), 3)}°.${made.left.length > 0 ? ` ${made.left.length} left out: the take knows nothing of them.` : ""}`,
				{ duration: 8000 },
			);
			set({ curves: true });
		} catch (error) {
			toast.error((error as Error).message, { duration: 8000 });
		}
	};
	const undo = (ids: readonly string[]) => perform(unbake(ids));
	return (
		<>
			<Section title="Keys in the shot" aside={baked.length > 0 ? `${baked.length} baked` : undefined}>
				<p className="text-slate">What is baked follows its keys instead of the simulation, and pushes what still simulates.</p>
				<button
					type="button"
					className="button"
					title="What is picked, or all that moves by itself"
					disabled={wanted.length === 0}
					onClick={() => void bake()}
				>
					<ChartSpline size={14} /> {labelOf(selection.length, movers.length)}
				</button>
				{baked.length > 0 && (
					<ul aria-label="What is baked">
						{baked.slice(0, MOST_LISTED).map(({ id, take }) => (
							<li key={id} className="flex items-center gap-1.5">
								<button
									type="button"
									className="min-w-0 flex-1 truncate text-left hover:underline"
									onClick={() => {
										select([id]);
										set({ curves: true });
									}}
								>
									{pathOf(id)} <span className="text-slate">from {take}</span>
								</button>
								<button type="button" className="link-action" aria-label={`Delete the bake of ${pathOf(id)}`} onClick={() => undo([id])}>
									Delete bake
								</button>
							</li>
						))}
					</ul>
				)}
				{baked.length > MOST_LISTED && (
					<p className="flex justify-between gap-2 text-slate">
						and {(baked.length - MOST_LISTED).toLocaleString("en")} more
						<button type="button" className="link-action" onClick={() => undo(baked.map(({ id }) => id))}>
							Delete all bakes
						</button>
					</p>
				)}
				{baked.length > 0 && !curves && (
					<button type="button" className="button" onClick={() => set({ curves: true })}>
						Edit as curves
					</button>
				)}
			</Section>
			{keyed !== undefined && shot.motions?.[keyed] && <MotionSection id={keyed} />}
		</>
	);
}
