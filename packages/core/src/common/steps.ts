/** A long computation that can be left between any two of its steps, and gives its result in the end. */
export type Steps<T> = Generator<undefined, T>;

/** All steps in one go. */
export function atOnce<T>(steps: Steps<T>): T {
	for (;;) {
		const { done, value } = steps.next();
		if (done) return value;
	}
}

/**
 * Waits for `pause` after so many steps, so that others have their turn; what it throws ends the work, whose `finally` is run.
 * Without a `pause` in one go, before anything else happens.
 */
export async function inTurns<T>(steps: Steps<T>, pause: (() => Promise<void>) | undefined, every = 1): Promise<T> {
	if (!pause) return atOnce(steps);
	try {
		for (let count = 1; ; count++) {
			const { done, value } = steps.next();
			if (done) return value;
			if (count % every === 0) await pause();
		}
	} finally {
		steps.return(undefined as T);
	}
}
