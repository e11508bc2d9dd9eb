import { type Curve, curveAt, makeCurve } from "@rubble/core/maths";
import { formatNumber } from "@rubble/core/shot";
import { useRef, useState } from "react";
import { Hint } from "./Hint";
import { NumberField } from "./NumberField";

interface CurveFieldProps {
	readonly label: string;
	readonly help?: string;
	readonly value: Curve;
	readonly across: { readonly label: string; readonly unit: string };
	readonly least: number;
	readonly most: number;
	readonly percent?: boolean;
	readonly onChange: (value: number[]) => void;
}

const [WIDTH, HEIGHT] = [264, 84];
/** Room for points on the rim. */
const RIM = 6;
const STEPS = 72;
/** Points come this near to each other at most, as a share of the range. */
const NEAREST = 0.002;

/**
 * A curve to be drawn: drag a point, click beside the curve for a new one, Delete takes the picked one away. The picked
 * point's numbers can be typed.
 */
export function CurveField({ label, help, value, across, least, most, percent = false, onChange }: CurveFieldProps) {
	const [picked, setPicked] = useState(0);
	/** While a point is dragged the range stays. */
	const [held, setHeld] = useState<number | null>(null);
	const svg = useRef<SVGSVGElement>(null);
	const count = value.length / 2;
	const at = Math.min(picked, count - 1);
	const first = Math.min(0, value[0]!);
	const end = held ?? Math.max(value[value.length - 2]!, first + 1e-6) * 1.08;
	const x = (v: number) => RIM + ((v - first) / (end - first)) * (WIDTH - 2 * RIM);
	const y = (v: number) => HEIGHT - RIM - ((v - least) / (most - least)) * (HEIGHT - 2 * RIM);
	const place = (event: React.PointerEvent): readonly [number, number] => {
		const box = svg.current!.getBoundingClientRect();
		const px = ((event.clientX - box.left) / box.width) * WIDTH;
		const py = ((event.clientY - box.top) / box.height) * HEIGHT;
		return [first + ((px - RIM) / (WIDTH - 2 * RIM)) * (end - first), least + ((HEIGHT - RIM - py) / (HEIGHT - 2 * RIM)) * (most - least)];
	};
	const put = (i: number, px: number, py: number) => {
		const gap = NEAREST * (end - first);
		const low = i === 0 ? first : value[2 * i - 2]! + gap;
		const high = i === count - 1 ? Infinity : value[2 * i + 2]! - gap;
		const next = [...value];
		next[2 * i] = tidy(Math.min(high, Math.max(low, px)));
		next[2 * i + 1] = tidy(Math.min(most, Math.max(least, py)));
		onChange(next);
	};
	const add = (px: number) => {
		const i = Array.from({ length: count }, (_, k) => value[2 * k]!).findIndex((other) => other > px);
		const index = i < 0 ? count : i;
		const next = [...value];
		next.splice(2 * index, 0, tidy(Math.max(first, px)), tidy(curveAt(value, px)));
		setPicked(index);
		onChange(next);
		return index;
	};
	const remove = () => {
		if (count <= 2) return;
		const next = [...value];
		next.splice(2 * at, 2);
		setPicked(Math.max(0, at - 1));
		onChange(next);
	};
	const height = makeCurve(value);
	const line = Array.from({ length: STEPS + 1 }, (_, i) => {
		const v = first + ((end - first) * i) / STEPS;
		return `${x(v).toFixed(1)},${y(height(v)).toFixed(1)}`;
	}).join(" ");
	const scale = percent ? 100 : 1;
	return (
		<fieldset className="flex flex-col gap-1">
			<Hint text={help}>
				<legend className="float-left flex w-full justify-between text-slate">
					<span>{label}</span>
					<span className="number text-xs">
						{formatNumber(least * scale, 3)} … {formatNumber(most * scale, 3)} {percent && "%"}
					</span>
				</legend>
			</Hint>
			<svg
				ref={svg}
				viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
				className="w-full touch-none rounded-md border border-line bg-field"
				role="application"
				aria-label={`${label}: a curve of ${count} points. Click for a new point, Delete takes the picked one away`}
				// biome-ignore lint/a11y/noNoninteractiveTabindex: it takes the keyboard, as its role says
				tabIndex={0}
				onKeyDown={(event) => {
					if (event.key !== "Delete" && event.key !== "Backspace") return;
					event.preventDefault();
					event.stopPropagation();
					remove();
				}}
				onPointerDown={(event) => {
					if (event.button !== 0) return;
					const [px] = place(event);
					const near = Array.from({ length: count }, (_, k) => k).find((k) => {
						const box = svg.current!.getBoundingClientRect();
						const dx = x(value[2 * k]!) - ((event.clientX - box.left) / box.width) * WIDTH;
						const dy = y(value[2 * k + 1]!) - ((event.clientY - box.top) / box.height) * HEIGHT;
						return Math.hypot(dx, dy) < 10;
					});
					event.currentTarget.setPointerCapture(event.pointerId);
					setPicked(near ?? add(px));
					setHeld(end);
				}}
				onPointerMove={(event) => held !== null && put(at, ...place(event))}
				onPointerUp={() => setHeld(null)}
				onPointerCancel={() => setHeld(null)}
			>
				<title>{label}</title>
				{[0.25, 0.5, 0.75].map((share) => (
					<line
						key={share}
						x1={RIM}
						x2={WIDTH - RIM}
						y1={y(least + share * (most - least))}
						y2={y(least + share * (most - least))}
						stroke="var(--line)"
					/>
				))}
				<polyline points={line} fill="none" stroke="var(--kelp)" strokeWidth={1.6} />
				{Array.from({ length: count }, (_, k) => (
					<circle
						key={k}
						cx={x(value[2 * k]!)}
						cy={y(value[2 * k + 1]!)}
						r={k === at ? 4.5 : 3.5}
						fill={k === at ? "var(--kelp)" : "var(--field)"}
						stroke="var(--kelp)"
						strokeWidth={1.4}
					/>
				))}
			</svg>
			<div className="flex items-center gap-1.5">
				<NumberField
					compact
					label={`${label}: ${across.label.toLowerCase()} of the picked point`}
					unit={across.unit}
					value={value[2 * at]}
					onChange={(px) => put(at, px, value[2 * at + 1]!)}
				/>
				<NumberField
					compact
					label={`${label} at the picked point`}
					unit={percent ? "%" : ""}
					factor={scale}
					value={value[2 * at + 1]}
					onChange={(py) => put(at, value[2 * at]!, py)}
				/>
				<button type="button" className="button px-2!" disabled={count <= 2} title="Takes the picked point away (Delete)" onClick={remove}>
					Remove
				</button>
			</div>
		</fieldset>
	);
}

const tidy = (value: number): number => Number(value.toPrecision(5));
