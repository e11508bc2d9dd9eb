import type { FrameStore } from "../cache";
import { type Progress, report } from "../common";
import { type EngineFactory, overlapsAt, type SimScene } from "../simulation";

/** How deep things reach into each other at some frames of a take. */
export interface OverlapSeries {
	/** Evenly spread from the first stored frame to the last. */
	readonly frames: readonly number[];
	/** Of the deepest pair, metres; 0 where none reaches deeper than rounding. */
	readonly deepest: readonly number[];
}

/**
 * Measures overlaps at `samples` frames of a take: each costs about as much as starting the simulation. Pieces that are
 * still bonded at the frame do not count, nor does what has crumbled. `scene`: of the take's own shot.
 */
export async function overlapSeries(
	scene: SimScene,
	factory: EngineFactory,
	store: FrameStore,
	samples: number,
	progress: Progress = {},
): Promise<OverlapSeries> {
	const stored = store.chunks.flatMap(({ firstFrame, frames }) => Array.from({ length: frames }, (_, n) => firstFrame + n));
	const count = Math.min(samples, stored.length);
	const frames = Array.from({ length: count }, (_, n) => stored[Math.round((n * (stored.length - 1)) / Math.max(1, count - 1))]!);
	const deepest: number[] = [];
	for (const [n, frame] of frames.entries()) {
		await report(progress, n / frames.length, `Measuring frame ${frame}`);
		const overlaps = await overlapsAt(scene, factory, store, frame);
		deepest.push(overlaps.reduce((most, { depth }) => Math.max(most, depth), 0));
	}
	return { frames, deepest };
}
