import type { OptionSpec, OptionValues } from "@rubble/core/shot";
import { Picker, Segments } from "~/controls/Choice";

/** More choices than this are a list instead of a row. */
const ROW = 3;

/** How a format lays out what it writes. */
export function FormatOptions({
	shown,
	values,
	onChange,
}: {
	shown: readonly (readonly [name: string, spec: OptionSpec])[];
	values: OptionValues;
	onChange: (values: OptionValues) => void;
}) {
	return shown.map(([name, spec]) => {
		if (spec.kind !== "choice") return null;
		const Control = spec.choices.length > ROW ? Picker : Segments;
		return (
			<Control
				key={name}
				label={spec.label}
				help={spec.help}
				value={String(values[name] ?? spec.default)}
				options={spec.choices}
				onChange={(id) => onChange({ ...values, [name]: id })}
			/>
		);
	});
}
