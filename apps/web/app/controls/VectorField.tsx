import { readQuantity } from "@rubble/core/shot";
import { useFps } from "./fps";
import { Hint } from "./Hint";
import { NumberField } from "./NumberField";

type Vector = readonly [number, number, number];

interface Common {
	readonly label: string;
	readonly unit?: string;
	readonly factor?: number;
	readonly help?: string;
	readonly disabled?: boolean;
}

interface VectorsFieldProps extends Common {
	/** One for each thing that is picked; what differs among them shows as a range. */
	readonly values: readonly Vector[];
	/** Gets what makes the new vector of a former one: axes that were not typed stay what they are, each thing's own. */
	readonly onPut: (put: (former: Vector) => [number, number, number]) => void;
}

interface VectorFieldProps extends Common {
	readonly value: Vector | undefined;
	readonly onChange: (value: [number, number, number]) => void;
}

/** Three numbers in a row: x, height, z. Typed or pasted together they fill the fields from there on. */
export function VectorsField({ label, values, onPut, unit = "", factor = 1, help, disabled }: VectorsFieldProps) {
	const fps = useFps();
	const from = (k: number, numbers: readonly (number | undefined)[]) =>
		onPut((former) => former.map((old, axis) => numbers[axis - k] ?? old) as [number, number, number]);
	const read = (text: string): number | undefined => {
		const quantity = readQuantity(text, { unit, fps });
		return quantity.ok ? quantity.value / factor : undefined;
	};
	return (
		<div>
			<div className="mb-1 flex justify-between text-slate">
				<Hint text={help}>
					<span>{label}</span>
				</Hint>
				<span className="number text-xs">{unit}</span>
			</div>
			<div className="flex gap-1.5">
				{(["x", "height", "z"] as const).map((axis, k) => (
					<NumberField
						key={axis}
						compact
						label={`${label} ${axis}`}
						value={values.map((value) => value[k]!)}
						factor={factor}
						digits={4}
						disabled={disabled ?? false}
						typedUnit={unit}
						onSeveral={(texts) => from(k, texts.map(read))}
						onChange={(next) => from(k, [next])}
					/>
				))}
			</div>
		</div>
	);
}

/** The same for one vector. */
export const VectorField = ({ value, onChange, ...common }: VectorFieldProps) => (
	<VectorsField {...common} values={value ? [value] : []} onPut={(put) => onChange(put(value ?? [0, 0, 0]))} />
);
