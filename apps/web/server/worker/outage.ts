import { setTimeout } from "node:timers/promises";

/** Whether the trouble is the database's and may be over soon. */
export const isPassing = (error: unknown): boolean => {
	const codes = [error, (error as { cause?: unknown }).cause].map((one) => (one as { code?: string } | undefined)?.code ?? "");
	return (
		codes.some((code) => /^(ECONN|ETIMEDOUT|EPIPE|57P|08|53)/.test(code)) ||
		/Connection terminated|timeout|not queryable/i.test(`${error} ${(error as { cause?: unknown }).cause ?? ""}`)
	);
};

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
