import type { Outcome } from "@rubble/core/common";

/** Ends the command with one line for the user. */
export class Failure extends Error {}

/** The value, or a failure with all its problems in one line. */
export function unwrap<T>(outcome: Outcome<T>): T {
	if (outcome.ok) return outcome.value;
	throw new Failure(outcome.problems.map(({ message }) => message).join(" "));
}
