import type { BodyRow } from "@rubble/core/bodies";
import { readQuantity, setBody } from "@rubble/core/shot";
import { useRef, useState } from "react";
import { toast } from "sonner";
import { limited } from "~/controls/spread";
import { pickedParts, selectedBodies } from "../store/selectors";
import { useWorkbench } from "../store/store";

interface EditCellProps {
	readonly body: BodyRow;
	readonly field: "mass" | "density" | "friction" | "bounce";
	/** Of what is typed. */
	readonly unit: string;
	readonly least: number;
	readonly most: number;
	/** In SI. */
	readonly value: number;
	readonly shown: string;
}

/** A number of a row that is typed in its place: for all rows that are picked, where this one is among them. */
export function EditCell({ body, field, unit, least, most, value, shown }: EditCellProps) {
	const [text, setText] = useState<string | null>(null);
	/** A field that is taken away tells that it is left, too. */
	const dropped = useRef(false);
	const picked = useWorkbench((state) => state.selection.includes(body.id) || state.selection.includes(body.object));
	const commit = () => {
		const read = text === null || dropped.current ? undefined : readQuantity(text, { unit });
		setText(null);
		if (read && !read.ok && text !== "") toast.error(read.problems[0]!.message);
		if (!read?.ok) return;
		const state = useWorkbench.getState();
		// The selection may have changed since the row was drawn.
		const among = selectedBodies(state).some(({ id }) => id === body.id);
		state.perform(setBody(among ? pickedParts(state) : [body.id], { [field]: limited({ least, most }, read.value) }));
	};
	if (text === null)
		return (
			<button
				type="button"
				aria-label={`${field} of ${body.path}`}
				title={picked ? "Type a number for all that is picked" : "Pick the row, then click to type"}
				className={`w-full truncate text-right ${picked ? "hover:text-kelp hover:underline" : ""}`}
				onClick={(event) => {
					// The first click picks the row, as everywhere in it.
					if (!picked || event.ctrlKey || event.shiftKey) return;
					event.stopPropagation();
					dropped.current = false;
					setText(String(Number(value.toPrecision(6))));
				}}
			>
				{shown}
			</button>
		);
	return (
		<input
			// biome-ignore lint/a11y/noAutofocus: it takes the place of the button that was pressed
			autoFocus
			aria-label={`${field} of ${body.path}, new`}
			className="w-full rounded border border-kelp bg-field px-1 text-right text-ink"
			inputMode="decimal"
			value={text}
			onFocus={(event) => event.target.select()}
			onClick={(event) => event.stopPropagation()}
			onChange={(event) => setText(event.target.value)}
			onBlur={commit}
			onKeyDown={(event) => {
				event.stopPropagation();
				if (event.key === "Enter") event.currentTarget.blur();
				else if (event.key === "Escape") {
					dropped.current = true;
					setText(null);
				}
			}}
		/>
	);
}
