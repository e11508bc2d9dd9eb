import { parseRule } from "@rubble/core/bodies";
import { useEffect, useState } from "react";

/** A rule such as `floats, volume < 20 dm³`; taken over on Enter or when the field is left, and only where it can be read. */
export function RuleField({
	label,
	rule,
	placeholder,
	onChange,
}: {
	label: string;
	rule: string;
	placeholder?: string;
	onChange: (rule: string) => void;
}) {
	const [text, setText] = useState(rule);
	useEffect(() => setText(rule), [rule]);
	const parsed = parseRule(text);
	const commit = () => parsed.ok && text !== rule && onChange(text);
	return (
		<div className="min-w-0 flex-1">
			<input
				className="field w-full"
				aria-label={label}
				placeholder={placeholder}
				value={text}
				onChange={(event) => setText(event.target.value)}
				onBlur={commit}
				onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
			/>
			{!parsed.ok && <p className="mt-1 text-xs text-rust">{parsed.problems[0]!.message}</p>}
		</div>
	);
}
