import { Hint } from "./Hint";
import { NumberField } from "./NumberField";

interface VectorFieldProps {
	readonly label: string;
	readonly value: readonly [number, number, number] | undefined;
	readonly onChange: (value: [number, number, number]) => void;
	readonly unit?: string;
	readonly factor?: number;
	readonly help?: string;
	readonly disabled?: boolean;
}

/** Three numbers in a row: x, height, z. Typed or pasted together they fill the fields from there on. */
export function VectorField({ label, value, onChange, unit, factor = 1, help, disabled }: VectorFieldProps) {
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
						value={value?.[k]}
						factor={factor}
						digits={4}
						disabled={disabled ?? false}
						onSeveral={(numbers) => {
							const all = [...(value ?? [0, 0, 0])] as [number, number, number];
							numbers.slice(0, 3 - k).forEach((next, n) => {
								all[k + n] = next;
							});
							onChange(all);
						}}
						onChange={(next) => {
							const all = [...(value ?? [0, 0, 0])] as [number, number, number];
							all[k] = next;
							onChange(all);
						}}
					/>
				))}
			</div>
		</div>
	);
}
