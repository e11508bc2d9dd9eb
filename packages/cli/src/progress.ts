import type { Progress } from "@rubble/core/common";

/** A line that is overwritten on a terminal; nothing where the output is piped. */
export function terminalProgress(): Progress & { readonly done: () => void } {
	if (!process.stderr.isTTY) return { done: () => undefined };
	let last = 0;
	return {
		onProgress: (fraction, what) => {
			const now = Date.now();
			if (now - last < 80) return;
			last = now;
			process.stderr.write(`\r\x1b[K${String(Math.round(fraction * 100)).padStart(3)} % ${what}`);
		},
		done: () => process.stderr.write("\r\x1b[K"),
	};
}
