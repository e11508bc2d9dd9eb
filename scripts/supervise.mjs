// Keeps processes alive: starts each again when it dies, waits longer after each death, and ends all when it ends itself.
import { setTimeout as sleep } from "node:timers/promises";
import { say } from "./environment.mjs";

/** How a process ends that it is no use to start again; see apps/web/server/life.ts. */
export const NO_USE = 78;

/** Waits before a process is started again: doubled with each death, up to the most. ms */
const FIRST_WAIT = 500;
const MOST_WAIT = Number(process.env.RUBBLE_MOST_WAIT ?? 30_000);
/** Who has lived for so long begins anew with short waits. ms */
const WELL = 60_000;

/**
 * `start()` gives a child process; `ready()` resolves once it does its work. `onUseless(code)` is called where starting it again is no use.
 * @returns what stops it, and a promise of its first readiness.
 */
export function supervise(
	name,
	start,
	{ ready = async () => undefined, onUseless = () => undefined, signal: endSignal = "SIGTERM", patience = 15_000 } = {},
) {
	let child;
	let wanted = true;
	let wait = FIRST_WAIT;
	let ended = Promise.resolve();
	let wake = () => undefined;
	const begin = () => {
		const since = Date.now();
		child = start();
		ended = new Promise((resolve) => {
			let over = false;
			const end = (how, code) => {
				if (over) return;
				over = true;
				resolve();
				if (!wanted) return;
				if (code === NO_USE) {
					wanted = false;
					onUseless(code);
					return;
				}
				if (Date.now() - since > WELL) wait = FIRST_WAIT;
				say(`${name} ended (${how}); it is started again in ${wait / 1000} s`);
				const pause = new AbortController();
				wake = () => pause.abort();
				sleep(wait, undefined, { signal: pause.signal }).then(
					() => wanted && begin(),
					() => undefined,
				);
				wait = Math.min(MOST_WAIT, 2 * wait);
			};
			// A program that cannot be started at all tells by an error, and ends never.
			child.once("error", (error) => end(error.message));
			child.once("exit", (code, by) => end(by ? `by ${by}` : `exit code ${code}`, code));
		});
	};
	begin();
	return {
		get process() {
			return child;
		},
		ready: ready(),
		async stop() {
			wanted = false;
			wake();
			if (child.exitCode !== null || child.signalCode !== null) return;
			child.kill(endSignal);
			const late = setTimeout(() => child.kill("SIGKILL"), patience);
			await ended;
			clearTimeout(late);
		},
	};
}
