import type { Progress } from "@rubble/core/common";

export type LongWork = "build" | "run" | "bake";
interface Signal {
	aborted: boolean;
}

const signals: Record<LongWork, Signal> = { build: { aborted: false }, run: { aborted: false }, bake: { aborted: false } };

/** Begins work of this kind; what was under way of it ends. */
export function begin(what: LongWork): Signal {
	signals[what].aborted = true;
	signals[what] = { aborted: false };
	return signals[what];
}

export const signalOf = (what: LongWork): Signal => signals[what];

export const cancel = (what: LongWork): void => {
	signals[what].aborted = true;
};

/** Lets messages in (a cancel, above all) every few milliseconds of long work. */
export function letMessagesIn(signal: Signal, tell: (fraction: number, what: string) => void): Progress {
	let last = performance.now();
	return {
		signal,
		onProgress: (fraction, what) => {
			const now = performance.now();
			if (now - last < 30) return;
			last = now;
			tell(fraction, what);
			return new Promise((resolve) => {
				const { port1, port2 } = new MessageChannel();
				port1.onmessage = () => {
					port1.close();
					resolve();
				};
				port2.postMessage(0);
			});
		},
	};
}
