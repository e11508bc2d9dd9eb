import type { OptionSpec } from "@rubble/core/fracture";
import type { FractureOption, Id } from "@rubble/core/shot";
import { FileUp, Pencil, X } from "lucide-react";
import { toast } from "sonner";
import { Segments } from "~/controls/Choice";
import { FileButton } from "~/controls/FileButton";
import { Hint } from "~/controls/Hint";
import { NumberField } from "~/controls/NumberField";
import { useWorkbench } from "~/workbench/store/store";
import { coreWorker } from "~/workers/client";
import { PictureOption } from "./PictureOption";

interface Props {
	readonly fracture: Id;
	readonly name: string;
	readonly spec: OptionSpec;
	readonly value: FractureOption | undefined;
	readonly onChange: (value: FractureOption) => void;
}

/** One option of a fracture method, drawn by its kind. */
export function OptionField({ fracture, name, spec, value, onChange }: Props) {
	switch (spec.kind) {
		case "choice":
			return (
				<Segments label={spec.label} help={spec.help} value={String(value ?? spec.default)} options={spec.choices} onChange={onChange} />
			);
		case "number":
			return <NumberOption spec={spec} value={value} onChange={onChange} />;
		case "objects":
			return (
				<ObjectsOption fracture={fracture} label={spec.label} help={spec.help} value={(value ?? []) as readonly Id[]} onChange={onChange} />
			);
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

function NumberOption({ spec, value, onChange }: Pick<Props, "value" | "onChange"> & { spec: OptionSpec & { kind: "number" } }) {
	// Lengths in millimetres, shares in percent; all else as it is.
	const [unit, factor] = spec.unit === "m" ? ["mm", 1000] : spec.percent ? ["%", 100] : [spec.unit, 1];
	return (
		<NumberField
			label={spec.label}
			help={spec.help}
			unit={unit}
			factor={factor}
			least={spec.least}
			most={spec.most}
			whole={spec.whole ?? false}
			digits={6}
			value={typeof value === "number" ? value : spec.default}
			onChange={onChange}
		/>
	);
}

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
	onChange: (value: FractureOption) => void;
}) {
	const { draw, set } = useWorkbench();
	const drawing = draw?.fracture === fracture && draw.option === name;
	const change = (next: readonly (readonly number[])[]) => onChange(nested ? next : next.flat());
	const describe = (item: readonly number[]) => (what === "stroke" ? (item.length === 3 ? "blow" : "line") : NAMES[what][0]);
	return (
		<div className="grid grid-cols-[106px_1fr] items-start gap-x-2">
			<Hint text={help}>
				<span className="pt-1.5 text-slate">{label}</span>
			</Hint>
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
		</div>
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

/** Other objects with a solid, to be ticked. */
function ObjectsOption({
	fracture,
	label,
	help,
	value,
	onChange,
}: {
	fracture: Id;
	label: string;
	help: string;
	value: readonly Id[];
	onChange: (value: FractureOption) => void;
}) {
	const { shot, reports } = useWorkbench();
	const own = shot.fractures[fracture]?.object;
	const others = Object.entries(shot.objects).filter(([id]) => id !== own && reports[id]?.closed);
	return (
		<fieldset className="grid grid-cols-[106px_1fr] items-start gap-x-2">
			<Hint text={help}>
				<legend className="float-left text-slate">{label}</legend>
			</Hint>
			<div className="flex flex-col gap-1">
				{others.length === 0 && <p className="text-slate">No other solid yet. Add one in Shape and lay it into this.</p>}
				{others.map(([id, item]) => (
					<label key={id} className="flex items-center gap-2">
						<input
							type="checkbox"
							className="size-4 accent-(--kelp)"
							checked={value.includes(id)}
							onChange={(event) => onChange(event.target.checked ? [...value, id] : value.filter((other) => other !== id))}
						/>
						{item.name}
					</label>
				))}
			</div>
		</fieldset>
	);
}
