import { formatQuantity } from "@rubble/core/shot";

const BARS = 12;

/** How many pieces are of which size: bars over the logarithm of the volume. */
export function SizeBars({ volumes }: { volumes: readonly number[] }) {
	if (volumes.length < 2) return null;
	const low = Math.min(...volumes);
	const high = Math.max(...volumes);
	const span = Math.log(high / low) || 1;
	const counts = new Array<number>(BARS).fill(0);
	for (const volume of volumes) counts[Math.min(BARS - 1, Math.floor((Math.log(volume / low) / span) * BARS))]!++;
	const most = Math.max(...counts);
	return (
		<figure className="mb-1">
			<div
				className="flex h-9 items-end gap-0.5"
				role="img"
				aria-label={`Sizes from ${formatQuantity(low, "volume")} to ${formatQuantity(high, "volume")}`}
			>
				{counts.map((count, i) => (
					<div
						key={i}
						className="flex-1 rounded-t-[1px] bg-(--bar)"
						style={{ height: `${(100 * count) / most}%`, minHeight: count > 0 ? 2 : 0 }}
						title={`${count}`}
					/>
				))}
			</div>
			<figcaption className="number mt-1 flex justify-between text-xs text-slate">
				<span>{formatQuantity(low, "volume")}</span>
				<span>{formatQuantity(high, "volume")}</span>
			</figcaption>
		</figure>
	);
}
