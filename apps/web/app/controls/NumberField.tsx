import { readQuantity, splitQuantities } from "@rubble/core/shot";
import { useEffect, useId, useRef, useState } from "react";
import { useFps } from "./fps";
import { Hint } from "./Hint";
import { limited } from "./spread";

export interface NumberFieldProps {
	readonly label: string;
	/** In SI; several where a selection is mixed. */
	readonly value: number | readonly number[] | undefined;
	readonly onChange: (value: number) => void;
	readonly unit?: string;
	/** The unit of what is typed, where it stands elsewhere than beside the field. */
	readonly typedUnit?: string | undefined;
	/** What 0 stands for, shown in its place: “any”. */
	readonly zero?: string;
	/** Shown = value × factor: 1000 shows metres as millimetres. */
	readonly factor?: number;
	readonly least?: number;
	readonly most?: number;
	readonly whole?: boolean;
	readonly help?: string;
	readonly digits?: number;
	readonly disabled?: boolean;
	/** Only the field: the label is for screen readers and dragging on the unit. */
	readonly compact?: boolean;
	/** Gets several that are typed or pasted at once (“0 1.2 -3”, “10 cm 20 cm”): each is read by the unit of its own field. */
	readonly onSeveral?: (texts: readonly string[]) => void;
}

/** A number with its unit. Type a number, a quantity in any unit (`240 cm`) or a small sum, or drag on the label. Mixed values show as a range. */
export function NumberField({
	label,
	value,
	onChange,
	unit = "",
	typedUnit = unit,
	zero,
	factor = 1,
	least,
	most,
	whole,
	help,
	digits = 5,
	disabled,
	compact,
	onSeveral,
}: NumberFieldProps) {
	const id = useId();
	const values = typeof value === "number" ? [value] : (value ?? []);
	const low = Math.min(...values);
	const high = Math.max(...values);
	const mixed = values.length > 0 && high - low > 1e-9 * Math.max(1, Math.abs(high));
	const isZero = zero !== undefined && values.length > 0 && !mixed && low === 0;
	const told = mixed ? [low, high] : values.slice(0, 1);
	const shown = isZero ? zero : told.map((one) => format(one * factor, digits)).join(" … ");
	const [text, setText] = useState<string | null>(null);
	const [wrong, setWrong] = useState("");
	const drag = useRef<{ x: number; start: number } | null>(null);
	/** Leaving the field by Escape tells that it is left, too, before the text is known to be gone. */
	const dropped = useRef(false);
	const fps = useFps();
	const clean = (raw: number) => limited({ least, most, whole }, raw);
	const giveUp = () => {
		setText(null);
		setWrong("");
	};
	const commit = () => {
		if (dropped.current || text === null || text.trim() === "" || text === shown) {
			dropped.current = false;
			giveUp();
			return;
		}
		const several = onSeveral && splitQuantities(text);
		if (several) {
			giveUp();
			onSeveral(several);
			return;
		}
		const read = readQuantity(text, { unit: typedUnit, fps });
		if (!read.ok) {
			setWrong(read.problems[0]!.message);
			return;
		}
		giveUp();
		const next = clean(read.value / factor);
		if (mixed || next !== low) onChange(next);
	};
	useEffect(() => {
		if (text === null) setWrong("");
	}, [text]);
	const step = (values.length > 0 && low !== 0 ? Math.max(Math.abs(low) / 100, 1e-4 / factor) : 0.01 / Math.min(factor, 1)) || 0.01;
	const dragProps =
		disabled || values.length === 0
			? {}
			: {
					onPointerDown: (event: React.PointerEvent) => {
						drag.current = { x: event.clientX, start: low };
						event.currentTarget.setPointerCapture(event.pointerId);
					},
					onPointerMove: (event: React.PointerEvent) => {
						if (!drag.current) return;
						const moved = event.clientX - drag.current.x;
						if (Math.abs(moved) < 3) return;
						const fine = event.shiftKey ? 0.1 : 1;
						const by = whole ? Math.round((moved * fine) / 4) : moved * step * fine;
						onChange(clean(Number((drag.current.start + by).toPrecision(6))));
					},
					onPointerUp: () => {
						drag.current = null;
					},
				};
	const field = (
		<div className={`field ${wrong ? "border-rust!" : ""}`}>
			<input
				id={id}
				inputMode="decimal"
				autoComplete="off"
				aria-label={compact ? label : undefined}
				aria-invalid={wrong !== ""}
				aria-describedby={wrong ? `${id}-wrong` : undefined}
				disabled={disabled}
				value={text ?? shown}
				placeholder={values.length === 0 ? "–" : undefined}
				onChange={(event) => setText(event.target.value)}
				onFocus={(event) => event.target.select()}
				onBlur={commit}
				onKeyDown={(event) => {
					if (event.key === "Enter") {
						// Left, so that keys act on the shot again.
						event.currentTarget.blur();
					} else if (event.key === "Escape") {
						// The old value is back, and what is picked stays picked.
						event.stopPropagation();
						dropped.current = true;
						giveUp();
						event.currentTarget.blur();
					} else if ((event.key === "ArrowUp" || event.key === "ArrowDown") && values.length > 0) {
						event.preventDefault();
						const by = (event.key === "ArrowUp" ? 1 : -1) * (whole ? 1 : Number(step.toPrecision(1))) * (event.shiftKey ? 10 : 1);
						setText(null);
						onChange(clean(Number((low + by).toPrecision(7))));
					}
				}}
			/>
			{unit && !(isZero && text === null) && <span className="number shrink-0 pl-1 text-slate">{unit}</span>}
		</div>
	);
	if (compact)
		return (
			<div className="min-w-0 flex-1">
				{field}
				{wrong && (
					<p id={`${id}-wrong`} className="mt-1 text-xs text-rust">
						{wrong}
					</p>
				)}
			</div>
		);
	return (
		<div className="grid grid-cols-[106px_1fr] items-center gap-x-2">
			<Hint text={help}>
				<label htmlFor={id} className="cursor-ew-resize touch-none select-none truncate text-slate" {...dragProps}>
					{label}
				</label>
			</Hint>
			{field}
			{wrong && (
				<p id={`${id}-wrong`} className="col-start-2 mt-1 text-xs text-rust">
					{wrong}
				</p>
			)}
		</div>
	);
}

/** Without padding zeros or an exponent: fields are typed in. */
const format = (value: number, digits: number): string => {
	const short = Number(value.toPrecision(digits));
	return Math.abs(short) < 1e-6 || Math.abs(short) >= 1e15
		? String(short)
		: short.toLocaleString("en", { useGrouping: false, maximumFractionDigits: 9 });
};
