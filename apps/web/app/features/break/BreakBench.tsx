import { FRACTURE_METHODS, methodById, type OptionSpec, optionDefaults } from "@rubble/core/fracture";
import {
	editMaterial,
	type FractureOption,
	formatNumber,
	formatQuantity,
	type Id,
	removeFracture,
	setFracture,
	setFractureOption,
} from "@rubble/core/shot";
import { RefreshCw } from "lucide-react";
import { Picker, Segments } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { Fact, Section } from "~/controls/Section";
import { newId } from "~/workbench/ids";
import { currentObject } from "~/workbench/store/selectors";
import { breakNow, cancelBuild, estimateBreak, fractureFor } from "~/workbench/store/session";
import { useWorkbench } from "~/workbench/store/store";
import { MethodPicture } from "./MethodPicture";
import { SizeBars } from "./SizeBars";

export function BreakBench() {
	const { shot, selection, reports } = useWorkbench();
	const id = currentObject({ shot, selection });
	const report = id === undefined ? undefined : reports[id];
	if (id === undefined || !shot.objects[id])
		return <p className="p-3.5 text-slate">Pick an object in the view or the ledger to break it.</p>;
	if (!report) return <p className="p-3.5 text-slate">{shot.objects[id].name} has no solid to break.</p>;
	const own = fractureFor(shot, id);
	return own ? <FractureSections object={id} id={own.id} /> : <Ways object={id} closed={report.closed} />;
}

/** The commonest ways to break this object, to begin with. */
function Ways({ object, closed }: { object: Id; closed: boolean }) {
	const { perform, shot } = useWorkbench();
	const way = (method: string, label: string, help: string, options: Record<string, FractureOption>) => (
		<button
			key={label}
			type="button"
			className="flex items-center gap-3 rounded-md border border-line bg-field p-2 text-left hover:border-kelp disabled:opacity-50"
			disabled={!closed}
			onClick={() => perform(setFracture(newId(), { object, method, options: { ...optionDefaults(methodById(method)!), ...options } }))}
		>
			<MethodPicture count={Number(options.count)} spread={String(options.spread)} />
			<span>
				<span className="block font-semibold">{label}</span>
				<span className="text-slate">{help}</span>
			</span>
		</button>
	);
	return (
		<Section title={`${shot.objects[object]!.name} is whole`}>
			<p className="mb-1 text-slate">
				{closed
					? "Begin with one of these; everything can be changed afterwards."
					: "Its mesh is not closed, so it has no inside to break. Repair it in Shape first."}
			</p>
			{way("voronoi", "A few large pieces", "40 pieces of about one size", { count: 40, spread: "even" })}
			{way("voronoi", "Rubble", "200 pieces, large and small", { count: 200, spread: "random" })}
			{way("voronoi", "Fine and even", "600 pieces of about one size", { count: 600, spread: "even" })}
		</Section>
	);
}

function FractureSections({ object, id }: { object: Id; id: Id }) {
	const { shot, perform, pieces, waiting, building, reports, bodies } = useWorkbench();
	const fracture = shot.fractures[id]!;
	const method = methodById(fracture.method)!;
	const facts = pieces[object];
	const material = shot.materials[shot.objects[object]!.material]!;
	const seconds = estimateBreak(fracture, reports[object]?.triangles ?? 0);
	const waits = waiting?.object === object;
	const set = (option: string) => (value: FractureOption) => perform(setFractureOption(id, option, value));
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
				{Object.entries(method.options).map(([name, spec]) => (
					<Option key={name} name={name} spec={spec} value={fracture.options[name]} onChange={set(name)} />
				))}
			</Section>
			<Section title="Inside faces">
				<Picker
					label="Material"
					help="What the broken faces are made of"
					value={material.inside ?? shot.objects[object]!.material}
					options={Object.entries(shot.materials).map(([key, m]) => ({ id: key, label: m.name }))}
					onChange={(inside) => perform(editMaterial(shot.objects[object]!.material, { inside }))}
				/>
			</Section>
			{facts && (
				<Section title="Pieces" aside={facts.count.toLocaleString("en")}>
					<SizeBars volumes={bodies.filter((body) => body.object === object && body.piece >= 0).map((body) => body.volume)} />
					<Fact
						label="Lacking"
						value={`${formatNumber(Math.abs(facts.lacking) * 1e6 < 0.005 ? 0 : facts.lacking * 1e6, 3)} cm³ · ${formatNumber((100 * Math.abs(facts.lacking)) / facts.sourceVolume < 1e-4 ? 0 : (100 * facts.lacking) / facts.sourceVolume, 2)} %`}
					/>
					<Fact label="Shared faces" value={facts.contacts.toLocaleString("en")} />
					<Fact label="Of" value={formatQuantity(facts.sourceVolume, "volume", 4)} />
				</Section>
			)}
			<div className="flex flex-col gap-1.5 p-3.5">
				{building ? (
					<button type="button" className="button" onClick={cancelBuild}>
						Cancel · {Math.round(building.fraction * 100)} %
					</button>
				) : (
					<button
						type="button"
						className={`button ${waits ? "button-primary" : "border-kelp! text-kelp!"}`}
						onClick={() => (waits ? void breakNow() : set("seed")(nextSeed(fracture.options.seed)))}
					>
						{waits ? `Break now · about ${Math.max(1, Math.round(seconds))} s` : "Break another way"}
						{!waits && <RefreshCw size={14} />}
					</button>
				)}
				<button type="button" className="button button-quiet text-slate!" onClick={() => perform(removeFracture(id))}>
					Make whole again
				</button>
			</div>
		</>
	);
}

const nextSeed = (seed: FractureOption | undefined): number => (typeof seed === "number" ? (seed + 1) % 1_000_000 : 1);

function Option({
	name,
	spec,
	value,
	onChange,
}: {
	name: string;
	spec: OptionSpec;
	value: FractureOption | undefined;
	onChange: (value: FractureOption) => void;
}) {
	if (spec.kind === "points")
		return Array.isArray(value) && value.length > 0 ? <Fact label={spec.label} value={`${value.length / 3} given`} /> : null;
	if (spec.kind === "choice")
		return (
			<Segments label={spec.label} help={spec.help} value={String(value ?? spec.default)} options={spec.choices} onChange={onChange} />
		);
	const metres = spec.unit === "m";
	return (
		<NumberField
			key={name}
			label={spec.label}
			help={spec.help}
			unit={metres ? "mm" : spec.unit}
			factor={metres ? 1000 : 1}
			least={spec.least}
			most={spec.most}
			whole={spec.whole ?? false}
			digits={6}
			value={typeof value === "number" ? value : spec.default}
			onChange={onChange}
		/>
	);
}
