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

/** A stopwatch that adds up what each part takes by a clock, in the clock's unit; the core has none of its own. */
export function adding(clock: () => number): Stopwatch & { readonly take: () => Readonly<Record<RunPart, number>> } {
	const nothing = (): Record<RunPart, number> => ({ engine: 0, bonds: 0, connectors: 0, forces: 0, storing: 0 });
	let spent = nothing();
	/** Parts that have begun, the innermost last; only that one's time goes on. */
	const open: RunPart[] = [];
	let turned = 0;
	const turn = (): void => {
		const now = clock();
		const inner = open[open.length - 1];
		if (inner) spent[inner] += now - turned;
		turned = now;
	};
	return {
		begin(part) {
			turn();
			open.push(part);
		},
		end() {
			turn();
			open.pop();
		},
		/** What has been added since it was last taken. */
		take() {
			const sum = spent;
			spent = nothing();
			return sum;
		},
	};
}
