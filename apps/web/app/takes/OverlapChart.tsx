import type { OverlapSeries } from "@rubble/core/takes";
import { proxy } from "comlink";
import { useState } from "react";
import { toast } from "sonner";
import { coreWorker } from "~/workers/client";
import type { TakeScene } from "~/workers/messages";
import { SeriesChart } from "./SeriesChart";

/** How deep things reach into each other, of each take; measured when asked for, as it takes some seconds. */
export function OverlapChart({
	scenes,
	colourOf,
	frame,
}: {
	scenes: readonly TakeScene[];
	colourOf: (id: string) => string;
	frame: number;
}) {
	const [known, setKnown] = useState<ReadonlyMap<TakeScene, OverlapSeries>>(new Map());
	const [busy, setBusy] = useState<{ readonly name: string; readonly fraction: number }>();
	const missing = scenes.filter((scene) => !known.has(scene));
	const measure = async () => {
		try {
			for (const scene of missing) {
				setBusy({ name: scene.name, fraction: 0 });
				// What is told of it may arrive after its end.
				const tell = proxy((fraction: number) => setBusy((now) => now && { name: scene.name, fraction }));
				const series = await coreWorker().measureOverlaps(scene.id, tell);
				setKnown((before) => new Map(before).set(scene, series));
			}
		} catch (error) {
			if ((error as Error).message !== "cancelled") toast.error(`Overlaps cannot be measured: ${(error as Error).message}`);
		} finally {
			setBusy(undefined);
		}
	};
	if (missing.length === 0)
		return (
			<SeriesChart
				title="Deepest overlap"
				unit="mm"
				curves={scenes.map((scene) => ({
					id: scene.id,
					name: scene.name,
					frames: known.get(scene)!.frames,
					values: known.get(scene)!.deepest.map((depth) => 1000 * depth),
				}))}
				colourOf={colourOf}
				frame={frame}
			/>
		);
	return (
		<section className="flex min-w-0 flex-col gap-2 rounded-md border border-line bg-chalk p-3" aria-label="Deepest overlap">
			<header className="flex justify-between">
				<h2 className="font-semibold">Deepest overlap</h2>
				<span className="text-slate">mm</span>
			</header>
			<p className="text-slate">How far things reach into each other over the take: it takes some seconds to find.</p>
			{busy ? (
				<button type="button" className="button self-start" onClick={() => void coreWorker().cancel("build")}>
					{busy.name}: {Math.round(100 * busy.fraction)} % · stop
				</button>
			) : (
				<button type="button" className="button self-start" onClick={() => void measure()}>
					Measure
				</button>
			)}
		</section>
	);
}
