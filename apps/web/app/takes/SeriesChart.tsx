import { formatNumber } from "@rubble/core/shot";
import type { TakeSeries } from "@rubble/core/takes";
import { Line, LineChart, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import type { TakeScene } from "~/workers/messages";

/** Takes in charts: never the colours that mean stale or wrong. */
export const TAKE_COLOURS = ["var(--color-kelp)", "var(--color-dusk)", "var(--color-sea)", "var(--color-slate)"];

/** A number of a take at some of its frames, in their order. */
export interface Curve {
	readonly id: string;
	readonly name: string;
	readonly frames: readonly number[];
	readonly values: readonly number[];
}

/** A number that is known at every frame of some takes. */
export const everyFrame = (scenes: readonly TakeScene[], of: (series: TakeSeries) => readonly number[]): Curve[] =>
	scenes.map(({ id, name, series }) => ({ id, name, frames: of(series).map((_, n) => series.firstFrame + n), values: of(series) }));

/** Units that are written with k and M before them. */
const PREFIXED: ReadonlySet<string> = new Set(["J", "N"]);

/** One number of several takes over their frames. */
export function SeriesChart({
	title,
	unit,
	curves,
	colourOf,
	frame,
}: {
	title: string;
	unit: string;
	curves: readonly Curve[];
	colourOf: (id: string) => string;
	frame: number;
}) {
	const all = curves.flatMap(({ frames }) => frames);
	const first = all.reduce((a, b) => Math.min(a, b), Number.POSITIVE_INFINITY);
	const last = all.reduce((a, b) => Math.max(a, b), first);
	const byFrame = new Map<number, Record<string, number>>();
	for (const { id, frames, values } of curves)
		frames.forEach((at, n) => {
			const row = byFrame.get(at) ?? { frame: at };
			byFrame.set(at, row);
			row[id] = values[n]!;
		});
	const rows = [...byFrame.values()].sort((a, b) => a.frame! - b.frame!);
	const top = curves.flatMap(({ values }) => values).reduce((a, b) => Math.max(a, b), 0);
	const [factor, prefix] = !PREFIXED.has(unit) ? [1, ""] : top >= 1e6 ? [1e-6, "M"] : top >= 1e4 ? [1e-3, "k"] : [1, ""];
	return (
		<section className="min-w-0 rounded-md border border-line bg-chalk p-3" aria-label={title}>
			<header className="flex justify-between">
				<h2 className="font-semibold">{title}</h2>
				<span className="text-slate">{`${prefix}${unit}`}</span>
			</header>
			<div className="mt-2 h-36">
				<ResponsiveContainer>
					<LineChart data={rows} margin={{ top: 4, right: 4, bottom: 0, left: 0 }}>
						<XAxis
							dataKey="frame"
							type="number"
							domain={[first, last]}
							ticks={[first, last]}
							tickLine={false}
							stroke="var(--color-slate)"
							fontSize={11}
						/>
						<YAxis
							width={38}
							tickCount={3}
							tickLine={false}
							axisLine={false}
							stroke="var(--color-slate)"
							fontSize={11}
							tickFormatter={(value: number) => (value * factor).toLocaleString("en", { maximumSignificantDigits: 3 })}
						/>
						<ReferenceLine x={frame} stroke="var(--color-ink)" strokeDasharray="3 3" />
						<Tooltip
							isAnimationActive={false}
							labelFormatter={(at) => `frame ${at}`}
							formatter={(value, id) => [formatNumber(Number(value), 4), curves.find((curve) => curve.id === id)?.name ?? ""]}
							contentStyle={{ background: "var(--color-field)", border: "1px solid var(--color-line)", borderRadius: 6 }}
						/>
						{curves.map(({ id }) => (
							<Line key={id} dataKey={id} stroke={colourOf(id)} strokeWidth={2} dot={false} connectNulls isAnimationActive={false} />
						))}
					</LineChart>
				</ResponsiveContainer>
			</div>
		</section>
	);
}
