import { useId } from "react";
import { Labelled } from "./Labelled";

/** A colour, `#rrggbb`. */
export function ColourField({
	label,
	help,
	value,
	onChange,
}: {
	label: string;
	help?: string;
	value: string;
	onChange: (value: string) => void;
}) {
	const id = useId();
	return (
		<Labelled label={label} help={help} htmlFor={id}>
			<input
				id={id}
				type="color"
				className="h-7.5 w-full rounded-md border border-line bg-field p-1"
				value={value}
				onChange={(event) => onChange(event.target.value)}
			/>
		</Labelled>
	);
}
