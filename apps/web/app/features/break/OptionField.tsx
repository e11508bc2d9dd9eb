import { type Id, type OptionSpec, type OptionValue, type OptionValues, setFractureOption } from "@rubble/core/shot";
import { FileUp, Pencil, X } from "lucide-react";
import { toast } from "sonner";
import { FileButton } from "~/controls/FileButton";
import { Labelled } from "~/controls/Labelled";
import { PlainOption } from "~/features/options/PlainOption";
import { setSeveral } from "~/features/options/several";
import { useWorkbench } from "~/workbench/store/store";
import { coreWorker } from "~/workers/client";
import { PictureOption } from "./PictureOption";

interface Several {
	readonly fracture: Id;
	readonly shown: readonly (readonly [name: string, spec: OptionSpec])[];
	readonly values: OptionValues;
	readonly step?: number;
}

interface Props {
	readonly fracture: Id;
	readonly name: string;
	readonly spec: OptionSpec;
	readonly value: OptionValue | undefined;
	readonly onChange: (value: OptionValue) => void;
	/** Of a number: several that were typed at once, in SI. */
	readonly onSeveral?: ((texts: readonly string[]) => void) | undefined;
}

/** Options of a fracture method; of one of its steps that break pieces again, where that is given. */
export function OptionFields({ fracture, shown, values, step }: Several) {
	const perform = useWorkbench((state) => state.perform);
	const set = (name: string, value: OptionValue) => setFractureOption(fracture, name, value, step);
	return shown.map(([name, spec]) => (
		<OptionField
			key={name}
			fracture={fracture}
			name={name}
			spec={spec}
			value={values[name]}
			onChange={(value) => perform(set(name, value))}
			onSeveral={(texts) => perform(setSeveral(shown, name, texts, set))}
		/>
	));
}

/** One option of a fracture method, drawn by its kind. */
export function OptionField({ fracture, name, spec, value, onChange, onSeveral }: Props) {
	const own = useWorkbench((state) => state.shot.fractures[fracture]?.object);
	switch (spec.kind) {
		case "choice":
		case "number":
		case "objects":
		case "places":
		case "curve":
			return <PlainOption own={own} spec={spec} value={value} onChange={onChange} onSeveral={onSeveral} />;
		case "rule":
			return null; // no way to break asks for one
		case "planes":
			return (
				<Drawn {...{ fracture, name, onChange }} what="cut" label={spec.label} help={spec.help} items={groups(value as number[], 4)} />
			);
		case "points":
			// Points of a file are given by the command line; only places are drawn.
			return name === "points" && !(Array.isArray(value) && value.length > 0) ? null : (
				<Drawn {...{ fracture, name, onChange }} what="place" label={spec.label} help={spec.help} items={groups(value as number[], 3)} />
			);
		case "picture":
			return <PictureOption fracture={fracture} value={value} onChange={onChange} />;
		case "strokes":
			return (
				<Drawn
					{...{ fracture, name, onChange }}
					what="stroke"
					label={spec.label}
					help={spec.help}
					items={(value ?? []) as readonly number[][]}
					nested
				/>
			);
	}
}

const groups = (flat: readonly number[] = [], size: number): readonly number[][] =>
	Array.from({ length: flat.length / size }, (_, i) => flat.slice(size * i, size * (i + 1)));

const NAMES = { cut: ["cut", "cuts"], place: ["place", "places"], stroke: ["stroke", "strokes"] } as const;

/** What was drawn in the view: how many, the way to draw more, and to take any of them away. */
function Drawn({
	fracture,
	name,
	what,
	label,
	help,
	items,
	nested = false,
	onChange,
}: {
	fracture: Id;
	name: string;
	what: keyof typeof NAMES;
	label: string;
	help: string;
	items: readonly (readonly number[])[];
	nested?: boolean;
	onChange: (value: OptionValue) => void;
}) {
	const { draw, set } = useWorkbench();
	const drawing = draw !== null && draw.what !== "weak" && draw.fracture === fracture && draw.option === name;
	const change = (next: readonly (readonly number[])[]) => onChange(nested ? next : next.flat());
	const describe = (item: readonly number[]) => (what === "stroke" ? (item.length === 3 ? "blow" : "line") : NAMES[what][0]);
	return (
		<Labelled label={label} help={help} top>
			<div className="flex flex-col gap-1.5">
				<button
					type="button"
					className={`button ${drawing ? "button-primary" : items.length === 0 ? "border-kelp! text-kelp!" : ""}`}
					onClick={() => set({ draw: drawing ? null : { what, fracture, option: name } })}
				>
					<Pencil size={14} /> {drawing ? "Done" : `Draw ${NAMES[what][1]}`}
				</button>
				{what === "stroke" && (
					<FileButton accept=".svg" onFile={(file) => void addDrawing(fracture, file, (lines) => change([...items, ...lines]))}>
						<FileUp size={14} /> Open SVG
					</FileButton>
				)}
				{items.length > 0 && (
					<ul className="flex flex-wrap gap-1">
						{items.map((item, i) => (
							<li key={i} className="number flex items-center gap-0.5 rounded border border-line bg-field pr-0.5 pl-1.5 text-xs">
								{describe(item)} {i + 1}
								<button
									type="button"
									className="p-0.5 text-slate hover:text-rust"
									aria-label={`Remove ${describe(item)} ${i + 1}`}
									onClick={() => change(items.filter((_, other) => other !== i))}
								>
									<X size={12} />
								</button>
							</li>
						))}
					</ul>
				)}
			</div>
		</Labelled>
	);
}

/** The lines of a drawing become strokes, over the object's broad face. */
async function addDrawing(fracture: Id, file: File, add: (lines: number[][]) => void): Promise<void> {
	const { shot } = useWorkbench.getState();
	const object = shot.fractures[fracture]?.object;
	if (object === undefined) return;
	try {
		add(await coreWorker().readStrokes(shot, object, new Uint8Array(await file.arrayBuffer())));
	} catch (error) {
		toast.error(`${file.name}: ${(error as Error).message}`);
	}
}
