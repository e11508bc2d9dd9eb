import { useRef, useState } from "react";

/** What an input needs to be taken over on Enter or when it is left, and given up by Escape. */
export function useDraft(value: string, onChange: (value: string) => void) {
	const [text, setText] = useState<string | null>(null);
	/** Leaving the field by Escape tells that it is left, too, before the text is known to be gone. */
	const dropped = useRef(false);
	return {
		value: text ?? value,
		onChange: (event: React.ChangeEvent<HTMLInputElement>) => setText(event.target.value),
		onBlur: () => {
			if (text !== null && text !== value && !dropped.current) onChange(text);
			dropped.current = false;
			setText(null);
		},
		onKeyDown: (event: React.KeyboardEvent<HTMLInputElement>) => {
			if (event.key !== "Enter" && event.key !== "Escape") return;
			dropped.current = event.key === "Escape";
			event.currentTarget.blur();
		},
	};
}
