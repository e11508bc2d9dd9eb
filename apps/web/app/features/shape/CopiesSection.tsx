import { type CopyRoom, LAYOUTS, layoutById, layoutOptions, withSuggestions } from "@rubble/core/arrays";
import type { FillFacts } from "@rubble/core/bodies";
import {
	type ArraySource,
	addArray,
	formatNumber,
	formatQuantity,
	type Id,
	type OptionValues,
	type Shot,
	setArray,
	setArrayOptions,
	setBody,
	shownOptions,
	together,
} from "@rubble/core/shot";
import { Boxes, Cable, Circle, Container, Grid3x3, MoveRight, Spline } from "lucide-react";
import { useEffect, useState } from "react";
import { Picker } from "~/controls/Choice";
import { Hint } from "~/controls/Hint";
import { Fact, Section } from "~/controls/Section";
import { newId } from "~/workbench/ids";
import { pickedSolids } from "~/workbench/store/selectors";

import { useWorkbench } from "~/workbench/store/store";
import { coreWorker } from "~/workers/client";
import { PlainOption } from "../options/PlainOption";
import { severalOf } from "../options/several";

const ICONS: Record<string, React.ReactNode> = {
	grid: <Grid3x3 size={15} />,
	line: <MoveRight size={15} />,
	hanging: <Cable size={15} />,
	ring: <Circle size={15} />,
	surface: <Spline size={15} />,
	volume: <Container size={15} />,
};

/** The picked objects that can be copied: those with a solid of their own. */
function copiable(): Id[] {
	const { shot, selection, reports } = useWorkbench.getState();
	const ids = pickedSolids({ shot, selection });
	return ids.filter((id) => reports[id] && shot.objects[id]!.source.kind !== "array");
}

/** What room a copy of any source takes. */
function roomOf(ids: readonly Id[]): CopyRoom {
	const { reports } = useWorkbench.getState();
	const half = [0, 1, 2].map((axis) => Math.max(...ids.map((id) => (reports[id]?.size[axis] ?? 1) / 2))) as [number, number, number];
	return {
		bounds: { min: [-half[0], -half[1], -half[2]], max: half },
		reach: Math.max(...ids.map((id) => reports[id]?.reach ?? Math.hypot(...half))),
	};
}

/** What copies can only go into: the one other solid, where there is just one. */
function onlyVessel(sources: readonly Id[]): readonly Id[] {
	const { shot, reports } = useWorkbench.getState();
	const solids = Object.keys(shot.objects).filter((id) => reports[id]?.closed && !shot.objects[id]!.hidden && !sources.includes(id));
	return solids.length === 1 ? solids : [];
}

/** Copies of what is picked, laid out where the first of it stands; they fall as bodies of their own. */
export function copyAs(layout: string): void {
	const { shot, perform, select } = useWorkbench.getState();
	const sources = copiable();
	const first = shot.objects[sources[0] ?? ""];
	const made = layoutById(layout);
	if (!first || !made) return;
	const id = newId();
	const options = layoutOptions(made, roomOf(sources));
	perform(
		addArray({
			id,
			name: `${first.name} copies`,
			source: { kind: "array", sources, layout, options: made.options.in ? { ...options, in: onlyVessel(sources) } : options },
			translation: layout === "volume" || layout === "surface" ? [0, 0, 0] : first.translation,
			material: first.material,
		}),
	);
	select([id]);
}

export function CopySection() {
	return (
		<Section title="Copies" aside="each a body of its own">
			<div className="grid grid-cols-2 gap-1.5">
				{LAYOUTS.map(({ id, label, help }) => (
					<button key={id} type="button" className="button justify-start!" title={help} onClick={() => copyAs(id)}>
						{ICONS[id] ?? <Boxes size={15} />} {label}
					</button>
				))}
			</div>
		</Section>
	);
}

/** How an array is laid out. */
export function ArraySection({ id }: { id: Id }) {
	const { shot, perform, bodies } = useWorkbench();
	const source = shot.objects[id]!.source as ArraySource;
	const layout = layoutById(source.layout);
	const count = bodies.filter((body) => body.object === id && body.origin === "copy").length;
	if (!layout) return null;
	const change = (changes: OptionValues) =>
		perform(setArrayOptions(id, withSuggestions(layout, roomOf(source.sources), source.options, changes)));
	return (
		<Section title={shot.objects[id]!.name} aside={count > 0 ? `${count.toLocaleString("en")} copies` : undefined}>
			<Fact label="Copies of" value={source.sources.map((one) => shot.objects[one]?.name).join(", ")} />
			<Picker
				label="Laid out"
				value={source.layout}
				options={LAYOUTS}
				onChange={(next) => {
					const kept = Object.fromEntries(Object.entries(source.options).filter(([name]) => name in layoutById(next)!.options));
					perform(setArray(id, { layout: next, options: { ...layoutOptions(layoutById(next)!, roomOf(source.sources)), ...kept } }));
				}}
			/>
			{shownOptions(layout, source.options).map(([name, spec]) =>
				spec.kind === "number" || spec.kind === "choice" || spec.kind === "objects" ? (
					<PlainOption
						key={name}
						own={id}
						spec={spec}
						value={source.options[name]}
						onChange={(value) => change({ [name]: value })}
						onSeveral={(texts) => change(Object.fromEntries(severalOf(shownOptions(layout, source.options), name, texts)))}
					/>
				) : null,
			)}
			{source.layout === "volume" && <Fill id={id} count={count} />}
		</Section>
	);
}

/** How many would fill the vessel when they are poured, beside how many there are. */
function Fill({ id, count }: { id: Id; count: number }) {
	const { shot, bodies, perform } = useWorkbench();
	const [found, setFound] = useState<{ readonly facts: FillFacts; readonly of: Shot }>();
	useEffect(() => {
		let current = true;
		coreWorker()
			.estimate(shot, id)
			.then((facts) => current && setFound(facts && { facts, of: shot }))
			.catch(() => current && setFound(undefined));
		return () => {
			current = false;
		};
	}, [shot, id]);
	if (!found) return null;
	const { facts } = found;
	const vessels = (shot.objects[id]!.source as ArraySource).options.in as readonly Id[];
	// What takes no part would let all that is poured in fall through.
	const absent = vessels.filter((vessel) => bodies.every((body) => body.object !== vessel || body.settings.kind === "none"));
	return (
		<div className="mt-1 flex flex-col gap-1.5 border-t border-line pt-2">
			<Fact label="It holds" value={formatQuantity(facts.room, "volume", 3)} />
			<Fact label="Poured full" value={`about ${facts.count.toLocaleString("en")}`} />
			<p className="text-xs text-slate">
				Loose in a heap they take up {formatNumber(100 * facts.packing, 2)} % of the room. {count.toLocaleString("en")} are there now.
			</p>
			<Hint text="So many copies: what finds no place in it stands above its opening and falls in. A vessel that takes no part becomes passive">
				<button
					type="button"
					className="button"
					// What is told may be of sizes that have changed since.
					disabled={found.of !== shot}
					onClick={() =>
						perform(
							together(`Pour in ${facts.count}`, [
								setArrayOptions(id, { count: Math.max(1, facts.count), pattern: "poured", brim: "over" }),
								...(absent.length > 0 ? [setBody(absent, { kind: "passive" })] : []),
							]),
						)
					}
				>
					Pour in <span className="number">{facts.count.toLocaleString("en")}</span>
				</button>
			</Hint>
		</div>
	);
}
