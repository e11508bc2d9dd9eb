import type { Shot } from "../shot";
import { type Body, rowOf, ruleFacts } from "./build";
import { matchesRule, parseRule } from "./rule";

/** Active bodies that a rule means; all where it is empty, none where it does not read. */
export function membersOf(shot: Shot, bodies: readonly Body[], rule: string): number[] {
	const parsed = rule.trim() === "" ? undefined : parseRule(rule);
	if (parsed && !parsed.ok) return [];
	return bodies.flatMap((body, i) =>
		body.settings.kind === "active" && (!parsed || matchesRule(parsed.value, ruleFacts(shot, rowOf(body)))) ? [i] : [],
	);
}
