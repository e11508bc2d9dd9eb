/** Something wrong with what a user gave us: what, where, and what to do, in one or two sentences. */
export interface Problem {
	readonly message: string;
}

/** Failures are values at the edges: user input never throws, it comes back with its problems. */
export type Outcome<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problems: readonly Problem[] };

export const good = <T>(value: T): Outcome<T> => ({ ok: true, value });
export const bad = (...messages: string[]): Outcome<never> => ({
	ok: false,
	problems: messages.map((message) => ({ message })),
});
