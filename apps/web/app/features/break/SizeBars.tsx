import { formatQuantity } from "@rubble/core/shot";
import { lazy, Suspense } from "react";

const SizeChart = lazy(() => import("./SizeChart"));
const BARS = 14;

/** How many pieces are of which size: bars over the logarithm of the volume. A click on one picks its pieces. */
export function SizeBars({ volumes, onPick }: { volumes: readonly number[]; onPick: (from: number, to: number) => void }) {
	if (volumes.length < 2) return null;
	const low = volumes.reduce((least, volume) => Math.min(least, volume), Infinity);
	const high = volumes.reduce((most, volume) => Math.max(most, volume), 0);
	const span = Math.log(high / low) || 1;
	const bars = Array.from({ length: BARS }, (_, i) => ({
		from: low * Math.exp((span * i) / BARS),
		to: low * Math.exp((span * (i + 1)) / BARS),
		pieces: 0,
	}));
	for (const volume of volumes) bars[Math.min(BARS - 1, Math.floor((Math.log(volume / low) / span) * BARS))]!.pieces++;
	// Rounding must not lose the largest and the smallest.
	bars[0]!.from = 0;
	bars[BARS - 1]!.to = Infinity;
	return (
		<figure className="mb-1">
			<div className="h-12" role="img" aria-label={`Sizes from ${formatQuantity(low, "volume")} to ${formatQuantity(high, "volume")}`}>
				<Suspense>
					<SizeChart bars={bars} onPick={onPick} />
				</Suspense>
			</div>
			<figcaption className="number flex justify-between text-xs text-slate">
				<span>{formatQuantity(low, "volume")}</span>
				<span>{formatQuantity(high, "volume")}</span>
			</figcaption>
		</figure>
	);
}
