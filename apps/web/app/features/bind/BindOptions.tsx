import type { Described, OptionSpec, OptionValue, OptionValues } from "@rubble/core/shot";
import { shownOptions } from "@rubble/core/shot";
import { Picker } from "~/controls/Choice";
import { Labelled } from "~/controls/Labelled";
import { RuleField } from "~/controls/RuleField";
import { PlainOption } from "~/features/options/PlainOption";

/** Choices whose names are longer than this together are a list instead of a row. */
const ROW = 16; // letters

/** The options of a bond set or a connector that matter as it is set up. `rare`: those that are folded away at first. */
export function BindOptions({
	described,
	values,
	rare,
	onChange,
}: {
	described: Described;
	values: OptionValues;
	rare: readonly string[];
	onChange: (name: string, value: OptionValue) => void;
}) {
	const all = shownOptions(described, values);
	const row = ([name, spec]: [string, OptionSpec]) => (
		<BindOption key={name} spec={spec} value={values[name]} onChange={(value) => onChange(name, value)} />
	);
	const folded = all.filter(([name]) => rare.includes(name));
	return (
		<>
			{all.filter(([name]) => !rare.includes(name)).map(row)}
			{folded.length > 0 && (
				<details>
					<summary className="cursor-default py-1 text-slate">More</summary>
					<div className="flex flex-col gap-1.5">{folded.map(row)}</div>
				</details>
			)}
		</>
	);
}

function BindOption({
	spec,
	value,
	onChange,
}: {
	spec: OptionSpec;
	value: OptionValue | undefined;
	onChange: (value: OptionValue) => void;
}) {
	switch (spec.kind) {
		case "choice": {
			const letters = spec.choices.reduce((sum, { label }) => sum + label.length, 0);
			if (letters <= ROW) return <PlainOption own={undefined} spec={spec} value={value} onChange={onChange} />;
			return (
				<Picker label={spec.label} help={spec.help} value={String(value ?? spec.default)} options={spec.choices} onChange={onChange} />
			);
		}
		case "number":
		case "curve":
			return <PlainOption own={undefined} spec={spec} value={value} onChange={onChange} />;
		case "rule":
			return (
				<Labelled label={spec.label} help={spec.help} top>
					<RuleField label={spec.label} rule={String(value ?? "")} placeholder="everything active" onChange={onChange} />
				</Labelled>
			);
		default:
			return null;
	}
}
