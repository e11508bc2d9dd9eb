import { blur2 } from "d3-array";
import { contours } from "d3-contour";

/** Brightness, 1 per pixel, rows from the top, 0 to 1. */
export interface Picture {
	readonly width: number;
	readonly height: number;
	readonly values: Float32Array;
}

export interface StonesOptions {
	readonly joints: "dark" | "light";
	/** Brightness that parts joints from stones, 0 to 1; 0: found by itself. */
	readonly threshold: number;
	/** Smallest stone, as a share of the picture. */
	readonly smallest: number;
	/** Pixels that are averaged to calm grain. */
	readonly calm: number;
}

export interface Stones {
	/** Outlines of each stone (the first is its rim, the others holes), in pixels, beyond the picture at its rim. */
	readonly outlines: readonly (readonly (readonly (readonly [number, number])[])[])[];
	/** 1 where a stone is. */
	readonly mask: Uint8Array;
	readonly threshold: number;
}

/** Pixels added around the picture, so that stones at its rim reach beyond it. */
const RIM = 3;

/**
 * Finds the stones of a picture of masonry: brighter (or darker) than the joints, large enough, without specks. The
 * threshold, where none is given, is the one that parts dark from light best (Otsu 1979, "A threshold selection method
 * from gray-level histograms"). Outlines are the level lines of the picture, by marching squares.
 */
export function findStones(picture: Picture, { joints, threshold: wanted, smallest, calm }: StonesOptions): Stones {
	const { width, height } = picture;
	const field = Float64Array.from(picture.values, joints === "dark" ? (v) => v : (v) => 1 - v);
	if (calm > 0) blur2({ data: field as unknown as number[], width, height }, calm);
	const threshold = wanted > 0 ? (joints === "dark" ? wanted : 1 - wanted) : otsu(field);
	const least = Math.max(1, smallest * width * height);
	const isStone = (i: number) => field[i]! > threshold;
	// Small bright spots are grit in the joint, small dark ones pores of a stone.
	dropSmall(field, width, height, isStone, least, threshold - 1e-3);
	dropSmall(field, width, height, (i) => !isStone(i), least / 4, threshold + 1e-3);
	const w = width + 2 * RIM;
	const h = height + 2 * RIM;
	const padded = new Float64Array(w * h);
	for (let y = 0; y < h; y++)
		for (let x = 0; x < w; x++) {
			const px = Math.min(width - 1, Math.max(0, x - RIM));
			const py = Math.min(height - 1, Math.max(0, y - RIM));
			const onRim = x === 0 || y === 0 || x === w - 1 || y === h - 1;
			padded[y * w + x] = onRim ? threshold - 1 : field[py * width + px]!;
		}
	const [found] = contours().size([w, h]).smooth(true).thresholds([threshold])(padded as unknown as number[]);
	const outlines = (found?.coordinates ?? []).map((polygon) =>
		polygon.map((ring) => ring.slice(0, -1).map(([x, y]) => [x! - RIM, y! - RIM] as const)),
	);
	return { outlines, mask: Uint8Array.from(field, (value) => (value > threshold ? 1 : 0)), threshold };
}

function otsu(field: Float64Array): number {
	const bins = new Float64Array(256);
	for (const value of field) bins[Math.min(255, Math.max(0, Math.floor(value * 256)))]!++;
	let total = 0;
	for (let i = 0; i < 256; i++) total += i * bins[i]!;
	let below = 0;
	let sum = 0;
	let best = 0;
	let at = 128;
	for (let i = 0; i < 256; i++) {
		below += bins[i]!;
		sum += i * bins[i]!;
		const above = field.length - below;
		if (below === 0 || above === 0) continue;
		const between = below * above * (sum / below - (total - sum) / above) ** 2;
		if (between > best) {
			best = between;
			at = i;
		}
	}
	return (at + 1) / 256;
}

/** Sets connected regions (by edges) of fewer pixels than `least` to a value. */
function dropSmall(
	field: Float64Array,
	width: number,
	height: number,
	belongs: (i: number) => boolean,
	least: number,
	value: number,
): void {
	const seen = new Uint8Array(field.length);
	const members = new Int32Array(field.length);
	for (let start = 0; start < field.length; start++) {
		if (seen[start] || !belongs(start)) continue;
		let count = 0;
		members[count++] = start;
		seen[start] = 1;
		for (let m = 0; m < count; m++) {
			const i = members[m]!;
			const x = i % width;
			const visit = (j: number) => {
				if (seen[j] || !belongs(j)) return;
				seen[j] = 1;
				members[count++] = j;
			};
			if (x > 0) visit(i - 1);
			if (x < width - 1) visit(i + 1);
			if (i >= width) visit(i - width);
			if (i < width * (height - 1)) visit(i + width);
		}
		if (count < least) for (let m = 0; m < count; m++) field[members[m]!] = value;
	}
}
