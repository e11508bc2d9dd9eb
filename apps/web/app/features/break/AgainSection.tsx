import { FRACTURE_METHODS, INSIDE_OPTIONS, methodById } from "@rubble/core/fracture";
import { type AgainStep, breakAgain, changeStep, type Id, objectPath, optionDefaults, removeStep, shownOptions } from "@rubble/core/shot";
import { Trash2 } from "lucide-react";
import { Picker } from "~/controls/Choice";
import { RuleField } from "~/controls/RuleField";
import { Section } from "~/controls/Section";
import { useWorkbench } from "~/workbench/store/store";
import { OptionFields } from "./OptionField";

/** Methods whose options are not drawn in the view: these fit many pieces alike. */
const METHODS = FRACTURE_METHODS.filter(({ options }) =>
	Object.values(options).every(({ kind }) => !["planes", "strokes", "picture"].includes(kind)),
);

/** Steps that break some of the pieces again. */
export function AgainSection({ object, id }: { object: Id; id: Id }) {
	const { shot, perform, selection, bodies } = useWorkbench();
	const steps = shot.fractures[id]!.again ?? [];
	const name = shot.objects[object]!.name;
	const picked = bodies
		.filter((body) => body.object === object && body.piece >= 0 && selection.includes(body.id))
		.map((body) => body.path.slice(objectPath(shot, object).length + 1))
		// In an array the same piece of every copy is meant: the copy's own name goes.
		.map((path) => (shot.objects[object]!.source.kind === "array" ? path.slice(path.indexOf("/") + 1) : path));
	const add = (pieces: readonly string[], rule: string) =>
		perform(breakAgain(id, { method: "voronoi", options: { ...optionDefaults(methodById("voronoi")!), count: 8 }, pieces, rule }));
	return (
		<Section title="Break again" aside={steps.length > 0 ? steps.length : undefined}>
			{steps.map((step, i) => (
				<Step key={i} fracture={id} index={i} step={step} />
			))}
			{steps.length === 0 && <p className="text-slate">Break some of the pieces once more: the ones you pick, or all that a rule fits.</p>}
			<div className="flex gap-1.5">
				<button
					type="button"
					className="button flex-1 px-1!"
					disabled={picked.length === 0}
					title="Pick pieces in the view or the ledger first"
					onClick={() => add(picked, "")}
				>
					{picked.length > 0 ? `The ${picked.length.toLocaleString("en")} picked` : "Picked pieces"}
				</button>
				<button
					type="button"
					className="button flex-1 px-1!"
					onClick={() => add([], `${/\s/.test(name) ? `"${name}"` : name}, volume > 10 dm³`)}
				>
					By a rule
				</button>
			</div>
		</Section>
	);
}

function Step({ fracture, index, step }: { fracture: Id; index: number; step: AgainStep }) {
	const { perform } = useWorkbench();
	const method = methodById(step.method);
	if (!method) return null;
	const shown = shownOptions(method, step.options).filter(
		([name, spec]) => spec.kind !== "points" && name !== "slivers" && !Object.hasOwn(INSIDE_OPTIONS, name),
	);
	return (
		<fieldset className="flex flex-col gap-1.5 rounded-md border border-line p-2">
			<div className="flex items-center justify-between gap-2">
				<legend className="font-medium">
					{step.pieces.length > 0 ? `${step.pieces.length.toLocaleString("en")} picked pieces` : "By a rule"}
				</legend>
				<button
					type="button"
					className="p-1 text-slate hover:text-rust"
					aria-label={`Remove step ${index + 1}`}
					onClick={() => perform(removeStep(fracture, index))}
				>
					<Trash2 size={14} />
				</button>
			</div>
			{step.pieces.length === 0 && (
				<RuleField label="Which pieces" rule={step.rule} onChange={(rule) => perform(changeStep(fracture, index, { rule }))} />
			)}
			<Picker
				label="Way"
				value={step.method}
				options={METHODS}
				onChange={(next) => perform(changeStep(fracture, index, { method: next, options: optionDefaults(methodById(next)!) }))}
			/>
			<OptionFields fracture={fracture} shown={shown} values={step.options} step={index} />
		</fieldset>
	);
}
