import { useId } from "react";
import { Labelled } from "./Labelled";
import { useDraft } from "./useDraft";

/** A line of text; taken over on Enter or when the field is left. */
export function TextField({
	label,
	value,
	onChange,
	help,
}: {
	label: string;
	value: string;
	onChange: (value: string) => void;
	help?: string;
}) {
	const id = useId();
	const draft = useDraft(value, onChange);
	return (
		<Labelled label={label} help={help} htmlFor={id}>
			<div className="field">
				<input id={id} className="w-full bg-transparent" {...draft} />
			</div>
		</Labelled>
	);
}
