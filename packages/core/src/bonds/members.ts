import { type Body, matchesRule, parseRule, rowOf, ruleFacts } from "../bodies";
import type { Shot } from "../shot";

/** Active bodies that a rule means. */
export function membersOf(shot: Shot, bodies: readonly Body[], rule: string): number[] {
	const parsed = rule.trim() === "" ? undefined : parseRule(rule);
	if (parsed && !parsed.ok) return [];
	return bodies.flatMap((body, i) =>
		body.settings.kind === "active" && (!parsed || matchesRule(parsed.value, ruleFacts(shot, rowOf(body)))) ? [i] : [],
	);
}
