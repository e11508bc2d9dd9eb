import { frameFacts } from "./selectors";
import { run, stopRun } from "./session";
import { useWorkbench } from "./store";

/** Edits that come within this time are run together. ms */
const PAUSE = 500;

/**
 * While `follows` is set, whatever makes frames out of date is run, once edits pause; a run that it has begun itself
 * gives way to the next, others are left to end. Returns how to leave it.
 */
export function followEdits(): () => void {
	let timer: ReturnType<typeof setTimeout> | undefined;
	/** Something has changed that has not been run. */
	let pending = false;
	let own = false;
	const go = (): void => {
		timer = undefined;
		const state = useWorkbench.getState();
		if (!pending || !state.follows) return;
		if (state.run) {
			if (own) stopRun();
			return; // Its end calls again.
		}
		pending = false;
		if (frameFacts(state).stale > state.shot.settings.lastFrame) return;
		own = true;
		void run().finally(() => {
			own = false;
		});
	};
	const wait = (pause: number): void => {
		clearTimeout(timer);
		timer = setTimeout(go, pause);
	};
	const stop = useWorkbench.subscribe((now, before) => {
		if (!now.follows) {
			pending = false;
			return;
		}
		// Frames have hashes of all that shapes them: looks, names and cameras run nothing.
		if (now.frameHashes !== before.frameHashes || !before.follows) {
			pending = true;
			wait(PAUSE);
		} else if (before.run && !now.run && pending && timer === undefined) wait(0);
	});
	return () => {
		stop();
		clearTimeout(timer);
	};
}
