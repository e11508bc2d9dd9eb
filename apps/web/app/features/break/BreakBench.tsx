import type { BodyRow } from "@rubble/core/bodies";
import { FRACTURE_METHODS, findSlivers, INSIDE_OPTIONS, methodById } from "@rubble/core/fracture";
import {
	type BreakPreset,
	copyFracture,
	editMaterial,
	type Fracture,
	formatNumber,
	formatQuantity,
	fractureBy,
	type Id,
	type OptionValue,
	type OptionValues,
	optionDefaults,
	presetOf,
	removeFracture,
	setFracture,
	setFractureOption,
	shownOptions,
	together,
} from "@rubble/core/shot";
import { Bookmark, RefreshCw, Table2, Trash2 } from "lucide-react";
import { useState } from "react";
import { Picker } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { Fact, Section } from "~/controls/Section";
import { newId } from "~/workbench/ids";
import { currentObject, pickedParts, pickedSolids } from "~/workbench/store/selectors";
import { breakNow, cancelBuild, estimateBreak, fractureFor } from "~/workbench/store/session";
import { useWorkbench } from "~/workbench/store/store";
import { AgainSection } from "./AgainSection";
import { BreakByWorker } from "./BreakByWorker";
import { MethodPicture } from "./MethodPicture";
import { OptionField, OptionFields } from "./OptionField";
import { keepPreset, usePresets } from "./presets";
import { SizeBars } from "./SizeBars";
import { useGuides } from "./useGuides";

export function BreakBench() {
	const { shot, selection, reports } = useWorkbench();
	const id = currentObject({ shot, selection: pickedParts({ shot, selection }) });
	const report = id === undefined ? undefined : reports[id];
	if (id === undefined || !shot.objects[id])
		return <p className="p-3.5 text-slate">Pick an object in the view or the ledger to break it.</p>;
	if (!report) return <p className="p-3.5 text-slate">{shot.objects[id].name} has no solid to break.</p>;
	const own = fractureFor(shot, id);
	return own ? <FractureSections object={id} id={own.id} /> : <Ways object={id} closed={report.closed} />;
}

interface Way {
	readonly method: string;
	readonly label: string;
	readonly help: string;
	readonly options: Readonly<Record<string, OptionValue>>;
	/** What is drawn in the view right away. */
	readonly draw?: { readonly what: "cut" | "stroke"; readonly option: string };
}

/** What this is broken for most often, each with settings to begin with. */
const WAYS: readonly Way[] = [
	{ method: "voronoi", label: "A few large pieces", help: "40 pieces of about one size", options: { count: 40, spread: "even" } },
	{ method: "voronoi", label: "Rubble", help: "200 pieces, large and small", options: { count: 200, spread: "random" } },
	{ method: "voronoi", label: "Fine and even", help: "600 pieces of about one size", options: { count: 600, spread: "even" } },
	{
		method: "strokes",
		label: "Splinters and crumbs",
		help: "Around a blow, along a line you draw",
		options: {},
		draw: { what: "stroke", option: "strokes" },
	},
	{
		method: "crack",
		label: "Crack, then part",
		help: "Runs along a line you draw, over frames",
		options: {},
		draw: { what: "stroke", option: "strokes" },
	},
	{ method: "slices", label: "Slices", help: "Slabs, planks, layers", options: {} },
	{ method: "cells", label: "Rows and columns", help: "Panes, flags, tiles", options: {} },
	{ method: "cuts", label: "Straight cuts", help: "Where you draw them", options: {}, draw: { what: "cut", option: "planes" } },
	{ method: "masonry", label: "Masonry", help: "Bricks and mortar in a pattern", options: {} },
	{ method: "cobbles", label: "Rounded stones", help: "Worn pieces that part", options: {} },
	{ method: "picture", label: "From a picture", help: "Stones and joints found in it", options: {} },
	{ method: "cutter", label: "Cutter", help: "By the shape of another object", options: {} },
];

/** What masonry of a shape is laid along. */
const BUILT_AS: Readonly<Record<string, string>> = { arch: "arch", tube: "ring" };

function Ways({ object, closed }: { object: Id; closed: boolean }) {
	const { perform, shot, set, selection, reports } = useWorkbench();
	const { presets, remove } = usePresets();
	const picked = pickedSolids({ shot, selection }).filter((one) => reports[one]?.closed);
	/** Those that are whole still, which a way breaks all in one step. */
	const whole = picked.filter((one) => !fractureFor(shot, one));
	const apply = (preset: BreakPreset) =>
		perform(
			together(
				`Break by ${preset.name}`,
				picked.map((one) => setFracture(fractureFor(shot, one)?.id ?? newId(), fractureBy(preset, one))),
			),
		);
	const begin = ({ method, options: chosen, draw }: Way) => {
		// What is drawn is drawn on one of them.
		const breaks = (draw ? [object] : whole).map((one, n) => {
			const source = shot.objects[one]!.source;
			const built = source.kind === "shape" ? BUILT_AS[source.shape] : undefined;
			const options: OptionValues = {
				...optionDefaults(methodById(method)!),
				...chosen,
				...(method === "masonry" && built ? { shape: built } : {}),
			};
			// Things that are alike break each in its own way.
			const own: OptionValues = typeof options.seed === "number" ? { seed: options.seed + n } : {};
			return { id: newId(), fracture: { object: one, method, options: { ...options, ...own } } };
		});
		const commands = breaks.map(({ id, fracture }) => setFracture(id, fracture));
		perform(commands.length === 1 ? commands[0]! : together(`Break ${commands.length} objects`, commands));
		if (draw) set({ draw: { ...draw, fracture: breaks[0]!.id } });
	};
	return (
		<Section title={whole.length > 1 ? `${whole.length} objects are whole` : `${shot.objects[object]!.name} is whole`}>
			<p className="mb-1 text-slate">
				{closed
					? `Begin with one of these${whole.length > 1 ? ", for all of them" : ""}; everything can be changed afterwards.`
					: "Its mesh is not closed, so it has no inside to break. Repair it in Shape first."}
			</p>
			{presets.length > 0 && (
				<ul className="mb-1 flex flex-col gap-1" aria-label="Presets">
					{presets.map(({ id, preset }) => (
						<li key={id} className="flex gap-1">
							<button type="button" className="button min-w-0 flex-1 justify-start!" disabled={!closed} onClick={() => apply(preset)}>
								<Bookmark size={14} className="shrink-0 text-kelp" />
								<span className="truncate">{preset.name}</span>
								{picked.length > 1 && <span className="number ml-auto text-xs text-slate">{picked.length} objects</span>}
							</button>
							<button
								type="button"
								className="button button-quiet px-2!"
								aria-label={`Delete preset ${preset.name}`}
								onClick={() => remove(id)}
							>
								<Trash2 size={14} />
							</button>
						</li>
					))}
				</ul>
			)}
			{WAYS.map((way) => (
				<button
					key={way.label}
					type="button"
					className="flex items-center gap-3 rounded-md border border-line bg-field p-2 text-left hover:border-kelp disabled:opacity-50"
					disabled={!closed}
					onClick={() => begin(way)}
				>
					<MethodPicture method={way.method} count={Number(way.options.count)} spread={String(way.options.spread)} />
					<span>
						<span className="block font-semibold">{way.label}</span>
						<span className="text-slate">{way.help}</span>
					</span>
				</button>
			))}
		</Section>
	);
}

function FractureSections({ object, id }: { object: Id; id: Id }) {
	const {
		shot,
		perform,
		pieces,
		waiting,
		building,
		reports,
		bodies,
		problems,
		selection,
		select,
		table,
		draw,
		set: setState,
	} = useWorkbench();
	const others = pickedSolids({ shot, selection }).filter((one) => one !== object && reports[one]?.closed);
	useGuides(object, id);
	const problem = problems.find((other) => other.object === object);
	// The view says then what to draw.
	const drawing = draw !== null && draw.what !== "weak" && draw.fracture === id;
	const fracture = shot.fractures[id]!;
	const method = methodById(fracture.method)!;
	const facts = pieces[object];
	const own = bodies.filter((body) => body.object === object && body.piece >= 0);
	const material = shot.materials[shot.objects[object]!.material]!;
	const inside = material.inside ?? shot.objects[object]!.material;
	const within = shot.materials[inside]!;
	const seconds = estimateBreak(fracture, reports[object]?.triangles ?? 0);
	const waits = waiting?.object === object;
	const set = (option: string) => (value: OptionValue) => perform(setFractureOption(id, option, value));
	const shown = shownOptions(method, fracture.options).filter(([name]) => !Object.hasOwn(INSIDE_OPTIONS, name));
	return (
		<>
			<Section
				title={`Break · ${shot.objects[object]!.name}`}
				aside={`${material.name.toLowerCase()} ${formatNumber(material.density, 4)} kg/m³`}
			>
				{FRACTURE_METHODS.length > 1 && (
					<Picker
						label="Way"
						value={fracture.method}
						options={FRACTURE_METHODS}
						onChange={(next) => perform(setFracture(id, { ...fracture, method: next, options: optionDefaults(methodById(next)!) }))}
					/>
				)}
				<OptionFields fracture={id} shown={shown} values={fracture.options} />
			</Section>
			<Section title="Inside faces">
				<Picker
					label="Material"
					help="What the broken faces are made of"
					value={inside}
					options={Object.entries(shot.materials).map(([key, m]) => ({ id: key, label: m.name }))}
					onChange={(inside) => perform(editMaterial(shot.objects[object]!.material, { inside }))}
				/>
				{within.texture && (
					<NumberField
						label="Picture covers"
						unit="m"
						help="Length that the picture of the inside material covers before it begins again"
						least={0.001}
						most={1000}
						value={within.texture.size}
						onChange={(size) => perform(editMaterial(inside, { texture: { ...within.texture!, size } }))}
					/>
				)}
				{shownOptions({ label: method.label, options: INSIDE_OPTIONS }, fracture.options).map(([name, spec]) => (
					<OptionField key={name} fracture={id} name={name} spec={spec} value={fracture.options[name]} onChange={set(name)} />
				))}
			</Section>
			{problem && !drawing && (
				<p className="border-b border-line px-3.5 py-3 text-rust" role="alert">
					{problem.message}
				</p>
			)}
			{facts && (
				<Section title="Pieces" aside={facts.count.toLocaleString("en")}>
					<SizeBars
						volumes={own.map((body) => body.volume)}
						onPick={(from, to) => select(own.filter((body) => body.volume >= from && body.volume <= to).map((body) => body.id))}
					/>
					<Fact label="Volume lost" value={lackingText(facts.lacking, facts.sourceVolume)} />
					<Slivers own={own} below={typeof fracture.options.below === "number" ? fracture.options.below : 0.05} />
					<Fact label="Shared faces" value={facts.contacts.toLocaleString("en")} />
					<Fact label="Of the whole" value={formatQuantity(facts.sourceVolume, "volume", 4)} />
					<button type="button" className="button mt-1" aria-pressed={table} onClick={() => setState({ table: !table })}>
						<Table2 size={14} /> {table ? "Close the table" : "Table of all pieces"}
					</button>
				</Section>
			)}
			{facts && <AgainSection object={object} id={id} />}
			<div className="flex flex-col gap-1.5 p-3.5">
				{building ? (
					<button type="button" className="button" onClick={cancelBuild}>
						Cancel · {Math.round(building.fraction * 100)} %
					</button>
				) : (
					<button
						type="button"
						className={`button ${waits ? "button-primary" : "border-kelp! text-kelp!"}`}
						disabled={!waits && !("seed" in method.options)}
						onClick={() => (waits ? void breakNow() : set("seed")(nextSeed(fracture.options.seed)))}
					>
						{waits ? `Break now · about ${Math.max(1, Math.round(seconds))} s` : "Break another way"}
						{!waits && <RefreshCw size={14} />}
					</button>
				)}
				{waits && !building && <BreakByWorker object={object} />}
				{others.length > 0 && (
					<button
						type="button"
						className="button"
						title="Breaks the other picked objects the same way"
						onClick={() =>
							perform(
								copyFracture(
									id,
									others.map((other) => ({ fracture: newId(), object: other })),
								),
							)
						}
					>
						Same for {others.length === 1 ? shot.objects[others[0]!]!.name : `${others.length} others`}
					</button>
				)}
				<KeepPreset fracture={fracture} />
				<button type="button" className="button button-quiet text-slate!" onClick={() => perform(removeFracture(id))}>
					Make whole again
				</button>
			</div>
		</>
	);
}

/** Keeps the set-up for other objects and shots, under a name. */
function KeepPreset({ fracture }: { fracture: Fracture }) {
	const [name, setName] = useState<string | null>(null);
	if (name === null)
		return (
			<button
				type="button"
				className="button"
				title="For other objects, in this shot and in others"
				onClick={() => setName(methodById(fracture.method)!.label)}
			>
				<Bookmark size={14} /> Keep as preset
			</button>
		);
	return (
		<form
			className="flex gap-1.5"
			onSubmit={async (event) => {
				event.preventDefault();
				if (name.trim() && (await keepPreset(presetOf(name.trim(), fracture, methodById)))) setName(null);
			}}
		>
			<input
				className="field min-w-0 flex-1"
				aria-label="Name of the preset"
				ref={(input) => input?.focus()}
				value={name}
				maxLength={80}
				onChange={(event) => setName(event.target.value)}
				onKeyDown={(event) => event.key === "Escape" && setName(null)}
			/>
			<button type="submit" className="button button-primary" disabled={name.trim() === ""}>
				Keep
			</button>
		</form>
	);
}

/** What the pieces lack, as a volume and as a share; less than rounding is nothing. */
function lackingText(lacking: number, whole: number): string {
	const share = Math.abs(lacking) / whole;
	if (share < 1e-6) return "0 cm³ · 0 %";
	return `${formatQuantity(lacking, "volume", 3)} · ${formatNumber(100 * (lacking / whole), 2)} %`;
}

/** Tiny and wafer-thin pieces, and the way to look at them. */
function Slivers({ own, below }: { own: readonly BodyRow[]; below: number }) {
	const { select } = useWorkbench();
	const found = findSlivers(
		own.map(({ path, volume, area }) => ({ name: path, volume, area })),
		below,
	);
	return (
		<div className="flex justify-between gap-3">
			<span className="text-slate">Slivers</span>
			<span className="flex gap-2">
				{found.length > 0 && (
					<button type="button" className="link-action" onClick={() => select(found.map((i) => own[i]!.id))}>
						Pick them
					</button>
				)}
				<span className="number">{found.length.toLocaleString("en")}</span>
			</span>
		</div>
	);
}

const nextSeed = (seed: OptionValue | undefined): number => (typeof seed === "number" ? (seed + 1) % 1_000_000 : 1);
