/** What engines and libraries say when they stumble; nobody can do anything with it. */
const RAW =
	/^(?:Cannot |Invalid |Maximum call|null |undefined |Out of memory|unreachable|memory access|table index|divide by zero|integer overflow)|is not (?:a function|defined|iterable)|of undefined|of null|ownership of|recursive use|borrowed|outside the bounds|is detached/i;

/** Whether an error is one of ours, whose message is a sentence for a person. */
const isOurs = (error: unknown): error is Error =>
	error instanceof Error &&
	!(error instanceof TypeError || error instanceof RangeError || error instanceof WebAssembly.RuntimeError) &&
	!RAW.test(error.message);

export const FAILED =
	"This could not be done: the program itself failed at it. The shot is as it was. Try again; where it happens again, undo the last step or reload the page.";

/** What goes wrong in a thread, as what a person is told; the rest stands in the browser's console. */
export function told(error: unknown): Error {
	if (isOurs(error)) return error;
	console.warn(error);
	return new Error(FAILED);
}

/** The one boundary of a thread: nothing raw comes out of its functions. */
export function guarded<T extends object>(functions: T): T {
	const all = Object.entries(functions as Record<string, (...given: unknown[]) => unknown>).map(([name, work]) => [
		name,
		async (...given: unknown[]) => {
			try {
				return await work(...given);
			} catch (error) {
				throw told(error);
			}
		},
	]);
	return Object.fromEntries(all) as T;
}
