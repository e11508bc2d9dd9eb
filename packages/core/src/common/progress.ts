/**
 * How every long function of the core reports and can be stopped.
 * `onProgress` may return a promise; long functions await it, which is where a worker lets messages in.
 */
export interface Progress {
	readonly signal?: { readonly aborted: boolean } | undefined;
	/** `fraction` runs from 0 to 1. */
	readonly onProgress?: ((fraction: number, what: string) => void | Promise<void>) | undefined;
}

/** Thrown when the signal of a long function was raised; nothing was changed. */
export class Cancelled extends Error {
	override readonly name = "Cancelled";
	constructor() {
		super("cancelled");
	}
}

/** Reports, lets others run, and throws `Cancelled` where that was asked for. */
export async function report(progress: Progress, fraction: number, what: string): Promise<void> {
	if (progress.onProgress) await progress.onProgress(fraction, what);
	if (progress.signal?.aborted) throw new Cancelled();
}
