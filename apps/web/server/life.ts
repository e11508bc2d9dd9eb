/** How a process ends that it is no use to start again: something must be set otherwise first. See sysexits(3): EX_CONFIG. */
export const NO_USE = 78;

/** Whatever started this process and speaks to it has gone: nobody would end it any more. */
export function endWithParent(end: () => void): void {
	if (!process.channel) return;
	process.once("disconnect", end);
	// What is waited for must not keep it alive for ever.
	process.once("disconnect", () => setTimeout(() => process.exit(1), 10_000).unref());
}
