/** Parts of the work on a frame that are told apart. */
export type RunPart = "engine" | "bonds" | "connectors" | "forces" | "storing";

/** Is told when a part begins and ends. One within another stops the outer one meanwhile. What it does changes nothing in the run. */
export interface Stopwatch {
	readonly begin: (part: RunPart) => void;
	readonly end: () => void;
}

export const NO_STOPWATCH: Stopwatch = { begin: () => undefined, end: () => undefined };

/** Does the work as a part of the frame. */
export function timed<T>(watch: Stopwatch, part: RunPart, work: () => T): T {
	watch.begin(part);
	try {
		return work();
	} finally {
		watch.end();
	}
}
