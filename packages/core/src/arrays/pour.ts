import { type Progress, report } from "../common";
import { random, type Vec3 } from "../maths";

/** What is filled: a vessel's hollow, or what a solid takes up. */
export interface PourRoom {
	readonly min: Vec3;
	readonly max: Vec3;
	readonly contains: (x: number, y: number, z: number) => boolean;
	/** Metres: as far as this its walls may really be nearer; 0 where they are exact. */
	readonly cell: number;
}

/** Columns along each level side of the room's box, and steps up each of them. */
const COLUMNS = 64;
const STEPS = 128;
/** Places that are tried for a ball all over the room, and then around the lowest of them, ever nearer to it. */
const SPREAD = 20;
const NEAR = [2, 2, 1, 1, 1, 1, 0.5, 0.5, 0.5, 0.5, 0.5, 0.25, 0.25, 0.25, 0.25, 0.25, 0.1, 0.1, 0.1, 0.1];
/** Tries all over the room that find no place at all before it counts as full. */
const MOST_TRIES = 120;
/** Draws of randomness that a ball takes at most. */
const DRAWS = MOST_TRIES + NEAR.length;
/** Balls that are poured in one go, some 10 ms. */
const AT_ONCE = 32;
/** Balls by which one cell of the search may grow before what lies deep in it is forgotten. */
const MOST_IN_CELL = 16;

/**
 * Balls that are poured in one after the other. Each comes to lie on those below it and on the floor, at the lowest of some
 * places tried at random; so none reaches into another (after Visscher and Bolsterli 1972, Nature 239, where balls roll down
 * instead of being tried). `radiusOf`: of the n-th ball, metres. Where the room is full, those that come later stand above its
 * opening if `over`, else there are fewer. The same numbers give the same places. Costs O(count).
 */
export async function pour(
	room: PourRoom,
	radiusOf: (n: number) => number,
	count: number,
	seed: number,
	over: boolean,
	progress: Progress = {},
): Promise<Vec3[]> {
	const freeAt = columnsOf(room, over);
	const widest = Array.from({ length: count }, (_, n) => radiusOf(n)).reduce((most, radius) => Math.max(most, radius), 0);
	const heap = makeHeap(widest);
	const places: Vec3[] = [];
	const side = [room.max[0] - room.min[0], room.max[2] - room.min[2]] as const;
	for (let n = 0; n < count; n++) {
		if (n % AT_ONCE === 0) await report(progress, n / count, `${n.toLocaleString("en")} of ${count.toLocaleString("en")} poured`);
		const radius = radiusOf(n);
		const draw = (k: number, axis: number) => random(seed, n * DRAWS + k, axis);
		const restAt = (x: number, z: number): number | undefined => {
			const free = freeAt(x, z, radius + room.cell);
			if (!free) return undefined;
			const y = heap.top(x, z, radius, free[0]);
			return y <= free[1] ? y : undefined;
		};
		let best: Vec3 | undefined;
		const look = (x: number, z: number) => {
			const y = restAt(x, z);
			if (y === undefined || (best && y >= best[1])) return y !== undefined;
			best = [x, y, z];
			return true;
		};
		let found = 0;
		for (let k = 0; k < MOST_TRIES && found < SPREAD; k++)
			if (look(room.min[0] + side[0] * draw(k, 0), room.min[2] + side[1] * draw(k, 1))) found++;
		if (!best) break;
		NEAR.forEach((share, k) => {
			const [x, , z] = best!;
			const offset = (axis: number) => share * radius * (2 * draw(MOST_TRIES + k, axis) - 1);
			look(x + offset(0), z + offset(1));
		});
		heap.add(best, radius);
		places.push(best);
	}
	return places;
}

/** The room as columns: where each begins and ends. */
function columnsOf({ min, max, contains }: PourRoom, over: boolean) {
	const wide = [(max[0] - min[0]) / COLUMNS, (max[2] - min[2]) / COLUMNS] as const;
	const rise = (max[1] - min[1]) / STEPS;
	const floors = new Float64Array(COLUMNS * COLUMNS).fill(Number.POSITIVE_INFINITY);
	const ceilings = new Float64Array(COLUMNS * COLUMNS).fill(Number.NEGATIVE_INFINITY);
	for (let k = 0; k < COLUMNS; k++)
		for (let i = 0; i < COLUMNS; i++) {
			const [x, z] = [min[0] + (i + 0.5) * wide[0], min[2] + (k + 0.5) * wide[1]];
			for (let j = 0; j < STEPS; j++) {
				if (!contains(x, min[1] + (j + 0.5) * rise, z)) continue;
				if (floors[i + COLUMNS * k] === Number.POSITIVE_INFINITY) floors[i + COLUMNS * k] = min[1] + j * rise;
				ceilings[i + COLUMNS * k] = min[1] + (j + 1) * rise;
			}
			// What is open up to the brim has no ceiling where things may stand above it.
			if (over && ceilings[i + COLUMNS * k]! > max[1] - 3 * rise) ceilings[i + COLUMNS * k] = Number.POSITIVE_INFINITY;
		}
	/** From the height at which a ball lies on the floor to that at which it touches the ceiling; undefined where it would be in a wall. */
	return (x: number, z: number, radius: number): readonly [number, number] | undefined => {
		let low = Number.NEGATIVE_INFINITY;
		let high = Number.POSITIVE_INFINITY;
		const [i0, i1] = [x - radius, x + radius].map((at) => Math.floor((at - min[0]) / wide[0])) as [number, number];
		const [k0, k1] = [z - radius, z + radius].map((at) => Math.floor((at - min[2]) / wide[1])) as [number, number];
		for (let k = k0; k <= k1; k++)
			for (let i = i0; i <= i1; i++) {
				// To the nearest point of the column: a ball is never in a wall.
				const dx = outside(x, min[0] + i * wide[0], min[0] + (i + 1) * wide[0]);
				const dz = outside(z, min[2] + k * wide[1], min[2] + (k + 1) * wide[1]);
				const left = radius * radius - dx * dx - dz * dz;
				if (left <= 0) continue;
				if (i < 0 || k < 0 || i >= COLUMNS || k >= COLUMNS || floors[i + COLUMNS * k] === Number.POSITIVE_INFINITY) return undefined;
				// How far it reaches up and down from its middle there.
				const half = Math.sqrt(left);
				if (floors[i + COLUMNS * k]! + half > low) low = floors[i + COLUMNS * k]! + half;
				if (ceilings[i + COLUMNS * k]! - half < high) high = ceilings[i + COLUMNS * k]! - half;
			}
		return [low, high];
	};
}

/** How far a place lies outside of a stretch. */
const outside = (at: number, from: number, to: number): number => (at < from ? from - at : at > to ? at - to : 0);

interface Cell {
	/** x, y, z, radius of each ball. */
	balls: number[];
	/** Below this nothing may go: what lay there is forgotten. */
	base: number;
}

/** What has been poured already, by level cells as wide as the largest ball. */
function makeHeap(widest: number) {
	const wide = 2 * widest;
	const cells = new Map<number, Cell>();
	/** No room is as many cells wide. */
	const keyOf = (i: number, k: number) => (i + 0x8000) * 0x10000 + (k + 0x8000);
	return {
		/** The lowest height from `floor` on at which a ball lies on all others. */
		top(x: number, z: number, radius: number, floor: number): number {
			let y = floor;
			const [i, k] = [Math.floor(x / wide), Math.floor(z / wide)];
			for (let b = k - 1; b <= k + 1; b++)
				for (let a = i - 1; a <= i + 1; a++) {
					const cell = cells.get(keyOf(a, b));
					if (!cell) continue;
					if (cell.base + radius > y) y = cell.base + radius;
					const { balls } = cell;
					for (let n = 0; n < balls.length; n += 4) {
						const [dx, dz, sum] = [balls[n]! - x, balls[n + 2]! - z, balls[n + 3]! + radius];
						const left = sum * sum - dx * dx - dz * dz;
						const rise = y - balls[n + 1]!;
						// Only what lifts it any higher needs the root.
						if (left > 0 && (rise < 0 || left > rise * rise)) y = balls[n + 1]! + Math.sqrt(left);
					}
				}
			return y;
		},
		add([x, y, z]: Vec3, radius: number): void {
			const [i, k] = [Math.floor(x / wide), Math.floor(z / wide)];
			const cell = cells.get(keyOf(i, k)) ?? { balls: [], base: Number.NEGATIVE_INFINITY };
			if (cell.balls.length === 0) cells.set(keyOf(i, k), cell);
			cell.balls.push(x, y, z, radius);
			if (cell.balls.length > 4 * MOST_IN_CELL) forgetDeep(cell, 4 * wide);
		},
	};
}

/** Drops balls that lie so deep that nothing gets to them any more: the search stays as quick in a tall heap. */
function forgetDeep(cell: Cell, depth: number): void {
	const { balls } = cell;
	let highest = Number.NEGATIVE_INFINITY;
	for (let n = 0; n < balls.length; n += 4) highest = Math.max(highest, balls[n + 1]! + balls[n + 3]!);
	const kept: number[] = [];
	for (let n = 0; n < balls.length; n += 4) {
		const top = balls[n + 1]! + balls[n + 3]!;
		if (top < highest - depth) cell.base = Math.max(cell.base, top);
		else kept.push(...balls.slice(n, n + 4));
	}
	cell.balls = kept;
}
