import { formatNumber } from "@rubble/core/shot";
import type { TakeSeries } from "@rubble/core/takes";
import { Line, LineChart, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import type { TakeScene } from "~/workers/messages";

/** Takes in charts: never the colours that mean stale or wrong. */
export const TAKE_COLOURS = ["var(--color-kelp)", "var(--color-dusk)", "var(--color-sea)", "var(--color-slate)"];

/** One number of several takes over their frames. */
export function SeriesChart({
	title,
	unit,
	scenes,
	colourOf,
	frame,
	of,
}: {
	title: string;
	unit: string;
	scenes: readonly TakeScene[];
	colourOf: (id: string) => string;
	frame: number;
	of: (series: TakeSeries) => readonly number[];
}) {
	const first = Math.min(...scenes.map(({ series }) => series.firstFrame));
	const last = Math.max(...scenes.map(({ series }) => series.firstFrame + series.energy.length - 1));
	const rows = Array.from({ length: last - first + 1 }, (_, n) => {
		const row: Record<string, number> = { frame: first + n };
		for (const { id, series } of scenes) {
			const value = of(series)[first + n - series.firstFrame];
			if (value !== undefined) row[id] = value;
		}
		return row;
	});
	const top = Math.max(...scenes.flatMap(({ series }) => of(series)), 0);
	const [factor, prefix] = top >= 1e6 ? [1e-6, "M"] : top >= 1e4 ? [1e-3, "k"] : [1, ""];
	return (
		<section className="min-w-0 rounded-md border border-line bg-chalk p-3" aria-label={title}>
			<header className="flex justify-between">
				<h2 className="font-semibold">{title}</h2>
				<span className="text-slate">{prefix && unit === "J" ? `${prefix}J` : unit}</span>
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
							formatter={(value, id) => [formatNumber(Number(value), 4), scenes.find((scene) => scene.id === id)?.name ?? ""]}
							contentStyle={{ background: "var(--color-field)", border: "1px solid var(--color-line)", borderRadius: 6 }}
						/>
						{scenes.map(({ id }) => (
							<Line key={id} dataKey={id} stroke={colourOf(id)} strokeWidth={2} dot={false} isAnimationActive={false} />
						))}
					</LineChart>
				</ResponsiveContainer>
			</div>
		</section>
	);
}
