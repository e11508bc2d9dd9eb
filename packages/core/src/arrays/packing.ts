import { cubeRoot, exp, ln, power } from "../maths";

/** What one item is like; m³, m². */
export interface FillItem {
	readonly volume: number;
	readonly area: number;
}

export interface FillEstimate {
	/** How many items a vessel takes, level with its brim. */
	readonly count: number;
	/** The share of the room that the items themselves take up. */
	readonly packing: number;
	/** 1 for a ball, 0.81 for a cube: the surface of a ball of the same volume over the item's. */
	readonly sphericity: number;
}

/**
 * How many items fill a room when they are poured in. The share of voids in a loose heap follows from how round the
 * items are (Zou and Yu 1996, loose random packing), and grows where the room is only a few items wide: at a wall nothing
 * fits in between (Dixon 1988, spheres in a tube; we take it as an addition for other shapes).
 * `room` in m³; `width` is that of the room across, metres.
 */
export function estimateFill(room: number, width: number, items: readonly FillItem[]): FillEstimate {
	const volume = mean(items.map((item) => item.volume));
	const sphericity = Math.min(1, mean(items.map((item) => ballArea(item.volume) / item.area)));
	const loose = exp(power(sphericity, 5.58) * exp(5.89 * (1 - sphericity)) * ln(0.4));
	const across = Math.min(0.5, (2 * cubeRoot((3 * volume) / (4 * Math.PI))) / width);
	const voids = Math.min(0.95, loose + 0.05 * across + 0.412 * across * across);
	const packing = 1 - voids;
	return { count: Math.floor((room * packing) / volume), packing, sphericity };
}

/** The surface of a ball of this volume, m². */
const ballArea = (volume: number): number => {
	const r = cubeRoot((3 * volume) / (4 * Math.PI));
	return 4 * Math.PI * r * r;
};

const mean = (values: readonly number[]): number => values.reduce((sum, value) => sum + value, 0) / values.length;
