import { makeDomain, scatterPoints, voronoiCells } from "@rubble/core/fracture";
import { useMemo } from "react";

/** A small drawing of what a break does, cut by the same code: the cells of a thin slab, seen from the front. */
export function MethodPicture({ count, spread }: { count: number; spread: string }) {
	const cells = useMemo(() => {
		const shown = Math.min(90, Math.max(8, Math.round(count / 5)));
		const bounds = { min: [0, 0, 0] as const, max: [56, 40, 0.01] as const };
		const points = scatterPoints({ count: shown, seed: 7, spread: spread === "random" ? "random" : "even", bounds, contains: () => true });
		return [...voronoiCells(points, makeDomain(bounds.min, bounds.max))].map((cell) => {
			const front = cell.neighbour.indexOf(-6);
			const loop = front < 0 ? [] : [...cell.loops.subarray(cell.faceStart[front]!, cell.faceStart[front + 1]!)];
			return {
				seed: cell.seed,
				d: `M${loop.map((v) => `${cell.vertices[3 * v]!.toFixed(1)} ${cell.vertices[3 * v + 1]!.toFixed(1)}`).join("L")}Z`,
			};
		});
	}, [count, spread]);
	return (
		<svg viewBox="-1 -1 58 42" width={58} height={42} aria-hidden className="shrink-0">
			{cells.map(({ seed, d }) => (
				<path key={seed} d={d} fill="var(--limestone)" stroke="var(--slate)" strokeWidth={0.9} />
			))}
		</svg>
	);
}
