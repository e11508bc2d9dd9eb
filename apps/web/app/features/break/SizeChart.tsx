import { formatQuantity } from "@rubble/core/shot";
import { Bar, BarChart, ResponsiveContainer, Tooltip, YAxis } from "recharts";

interface SizeBar {
	readonly from: number;
	readonly to: number;
	readonly pieces: number;
}

/** Loaded when it is first seen: charts are a large package. */
export default function SizeChart({ bars, onPick }: { bars: readonly SizeBar[]; onPick: (from: number, to: number) => void }) {
	return (
		<ResponsiveContainer width="100%" height="100%">
			<BarChart data={[...bars]} margin={{ top: 2, right: 0, bottom: 0, left: 0 }} barCategoryGap={1}>
				<YAxis hide domain={[0, "dataMax"]} />
				<Tooltip
					cursor={{ fill: "var(--kelp-wash)" }}
					isAnimationActive={false}
					content={({ payload }) => <Tip bar={payload?.[0]?.payload} />}
				/>
				<Bar
					dataKey="pieces"
					fill="var(--bar)"
					isAnimationActive={false}
					minPointSize={(value) => (Number(value) > 0 ? 2 : 0)}
					onClick={(_, index) => onPick(bars[index]!.from, bars[index]!.to)}
					cursor="pointer"
				/>
			</BarChart>
		</ResponsiveContainer>
	);
}

function Tip({ bar }: { bar: SizeBar | undefined }) {
	if (!bar) return null;
	const { from, to, pieces } = bar;
	const range = to === Infinity ? `${formatQuantity(from, "volume")} and more` : `up to ${formatQuantity(to, "volume")}`;
	return (
		<p className="number rounded bg-ink px-2 py-1 text-xs text-chalk">
			{pieces.toLocaleString("en")} {pieces === 1 ? "piece" : "pieces"}, {range}
		</p>
	);
}
