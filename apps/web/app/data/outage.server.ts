import { setTimeout } from "node:timers/promises";

/** What PostgreSQL or the network call an error by, and what caused it. */
export const codesOf = (error: unknown): string[] =>
	[error, (error as { cause?: unknown } | undefined)?.cause].map((one) => String((one as { code?: unknown } | undefined)?.code ?? ""));

/** Whether the trouble is the database's and may be over soon. */
export const isPassing = (error: unknown): boolean =>
	codesOf(error).some((code) => /^(ECONN|ETIMEDOUT|EPIPE|57P|08|53|25006)/.test(code)) ||
	/Connection terminated|timeout|not queryable|not currently accepting connections/i.test(
		`${error} ${(error as { cause?: unknown } | undefined)?.cause ?? ""}`,
	);

/** Asks a database that may be away for some seconds, again and again for about 16 s. Only what may be asked twice. */
export async function throughOutages<T>(ask: () => Promise<T>): Promise<T> {
	for (let wait = 250; ; wait *= 2) {
		try {
			return await ask();
		} catch (error) {
			if (!isPassing(error) || wait > 8000) throw error;
			await setTimeout(wait);
		}
	}
}
