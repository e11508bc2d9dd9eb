import { useId, useState } from "react";
import { Labelled } from "./Labelled";

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
	const [text, setText] = useState<string | null>(null);
	return (
		<Labelled label={label} help={help} htmlFor={id}>
			<div className="field">
				<input
					id={id}
					className="w-full bg-transparent"
					value={text ?? value}
					onChange={(event) => setText(event.target.value)}
					onBlur={() => {
						if (text !== null && text !== value) onChange(text);
						setText(null);
					}}
					onKeyDown={(event) => {
						if (event.key === "Escape") setText(null);
						if (event.key === "Enter" || event.key === "Escape") event.currentTarget.blur();
					}}
				/>
			</div>
		</Labelled>
	);
}
