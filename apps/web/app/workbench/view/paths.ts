import { lastStored, POSE_STRIDE } from "@rubble/core/cache";
import { selectedBodies } from "../store/selectors";
import type { WorkbenchState } from "../store/store";

/** More paths than this would hide the picture. */
const MOST = 120;

/** The ways of the picked bodies through the stored frames, of the first ones where none is picked; pairs of line ends in the world. */
export function pathLines(state: Pick<WorkbenchState, "shot" | "bodies" | "selection" | "take" | "frames">): Float32Array {
	const { take, frames, shot } = state;
	if (!take || frames.chunks.length === 0) return new Float32Array(0);
	const picked = selectedBodies(state);
	const shown = new Set(
		(picked.length > 0 ? picked : state.bodies.filter(({ settings }) => settings.kind === "active")).slice(0, MOST).map(({ id }) => id),
	);
	const rows = take.take.bodies.flatMap(({ id }, i) => (shown.has(id) ? [i] : []));
	const last = lastStored(frames, shot.settings.firstFrame);
	const lines: number[] = [];
	for (const row of rows) {
		let before: readonly [number, number, number] | undefined;
		for (const chunk of frames.chunks)
			for (let f = 0; f < chunk.frames && chunk.firstFrame + f <= last; f++) {
				const at = (f * chunk.bodies + row) * POSE_STRIDE;
				const here = [chunk.poses[at]!, chunk.poses[at + 1]!, chunk.poses[at + 2]!] as const;
				if (before?.some((value, k) => Math.abs(value - here[k]!) > 1e-5)) lines.push(...before, ...here);
				before = here;
			}
	}
	return Float32Array.from(lines);
}
