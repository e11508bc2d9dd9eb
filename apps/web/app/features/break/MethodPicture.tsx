import { makeDomain, scatterPoints, voronoiCells } from "@rubble/core/fracture";
import { useMemo } from "react";

/** A small drawing of what a way to break does. */
export function MethodPicture({ method, count, spread }: { method: string; count: number; spread: string }) {
	const lines = LINES[method];
	if (!lines) return <CellsPicture count={count} spread={spread} />;
	return (
		<svg viewBox="-1 -1 58 42" width={58} height={42} aria-hidden className="shrink-0" stroke="var(--slate)" strokeWidth={0.9}>
			<rect width={56} height={40} fill="var(--limestone)" />
			<path d={lines} fill="none" />
		</svg>
	);
}

const star = Array.from({ length: 11 }, (_, i) => {
	const a = (2 * Math.PI * (i + 0.3 * Math.sin(7 * i))) / 11;
	const at = (r: number) => `${(20 + r * Math.cos(a)).toFixed(1)} ${(17 + r * Math.sin(a)).toFixed(1)}`;
	return `M${at(2)}L${at(13 + 5 * Math.sin(3 * i))}`;
}).join("");

/** Lines over a slab of 56 × 40. */
const LINES: Record<string, string> = {
	strokes: `${star}M20 17m-2 0a2 2 0 1 0 4 0a2 2 0 1 0 -4 0M34 34q6 -10 20 -8`,
	crack: "M0 26L7 24L11 27L17 21L24 23L29 17L34 19L38 14M0 26.8L7 25L11 28L17 22L24 23.8",
	slices: "M0 8H56M0 16H56M0 24H56M0 32H56",
	cells: "M14 0L13 20L15 40M28 0L30 21L27 40M42 0L41 19L43 40M0 13L14 12L29 14L41 13L56 13M0 27L13 28L28 26L42 27L56 27",
	cuts: "M0 30L56 6M18 0L40 40M0 12L30 40",
	masonry:
		"M0 10H56M0 20H56M0 30H56M14 0V10M28 0V10M42 0V10M7 10V20M21 10V20M35 10V20M49 10V20M14 20V30M28 20V30M42 20V30M7 30V40M21 30V40M35 30V40M49 30V40",
	picture:
		"M2 2H16L18 11L4 13ZM20 2H38L36 10L22 12ZM42 2H54V14L40 12ZM2 16L14 15L16 26L2 28ZM19 15L34 13L38 24L20 27ZM39 15L54 17V27L42 26ZM2 31L22 30L20 38H2ZM25 30L40 28L42 38H24ZM44 29L54 30V38H45Z",
	cobbles:
		"M9 9m-7 0a7 6 0 1 0 14 0a7 6 0 1 0 -14 0M27 8m-8 0a8 6 0 1 0 16 0a8 6 0 1 0 -16 0M46 10m-8 0a8 7 0 1 0 16 0a8 7 0 1 0 -16 0M12 27m-9 0a9 8 0 1 0 18 0a9 8 0 1 0 -18 0M32 24m-8 0a8 7 0 1 0 16 0a8 7 0 1 0 -16 0M48 30m-6 0a6 7 0 1 0 12 0a6 7 0 1 0 -12 0M30 36m-5 0a5 3 0 1 0 10 0a5 3 0 1 0 -10 0",
	cutter: "M16 20a12 12 0 1 0 24 0a12 12 0 1 0 -24 0",
};

/** Cells of a thin slab, seen from the front, cut by the same code. */
function CellsPicture({ count, spread }: { count: number; spread: string }) {
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
