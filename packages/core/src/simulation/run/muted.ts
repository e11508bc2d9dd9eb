import { inGrace } from "../bonded";
import { overlapTolerance } from "../overlaps";
import { Kind } from "../scene";
import type { Run } from "./run";

/** Two bodies that do not push each other until they have parted, and how deep they were in each other, µm. */
export type MutedPair = readonly [a: number, b: number, depth: number];

/** Pairs that do not push each other in the coming step: what overlapped from the start, what came apart a moment ago, and these. */
export function muteFor(run: Run, pairs: readonly (readonly [number, number])[]): void {
	const grace = inGrace(run, run.bonded);
	const count = run.muted.length + grace.length + pairs.length;
	if (count === 0 && !run.someMuted) return;
	run.engine.mute([...run.muted, ...grace, ...pairs]);
	run.someMuted = count > 0;
}

/** Hulls of pieces that are not convex reach into their neighbours: they do not push each other until they have parted once. */
export function muteOverlaps(run: Run, broke: readonly { readonly a: number; readonly b: number }[]): void {
	const { engine, scene } = run;
	for (const { a, b } of broke) {
		if (scene.kind[b] !== Kind.Active || engine.carrier[a] === engine.carrier[b]) continue;
		const depth = -(engine.separation(a, b, 0) ?? 0);
		// What only shares a face presses on from the beginning: muted, it would never part.
		if (depth > overlapTolerance(scene, a, b)) run.muted.push([a, b, micrometres(depth)]);
	}
}

/**
 * What has sunk into each other by this share of the thinner one's thickness since it was muted pushes again. With all of its thickness
 * joints of an arch lay up to 28 mm in its bricks for good.
 */
const SUNK_SHARE = 0.05;

/** Before a step: has what sinks into each other push each other again. */
export function unmuteSunk(run: Run): void {
	const { engine, scene, muted } = run;
	if (muted.length === 0) return;
	run.muted = muted.filter(([a, b, depth]) => {
		if (engine.carrier[a] === engine.carrier[b]) return true;
		const most = 1e-6 * depth + SUNK_SHARE * Math.min(scene.thickness[a]!, scene.thickness[b]!);
		return -(engine.separation(a, b, 0) ?? 0) <= most;
	});
}

/** After a frame: forgets pairs that have parted. */
export function unmuteParted(run: Run): void {
	if (run.muted.length === 0) return;
	const { engine } = run;
	const still = run.muted.filter(([a, b]) => engine.carrier[a] === engine.carrier[b] || (engine.separation(a, b, 0) ?? 1) < 0);
	if (still.length === run.muted.length) return;
	run.muted = still;
	if (!run.hasBonds) engine.mute(still);
}

export const micrometres = (metres: number): number => Math.round(1e6 * metres);
