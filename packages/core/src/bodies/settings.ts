import { BODY_DEFAULTS, type BodySettings, type FullBodySettings, type Id, type Shot } from "../shot";
import { matchesRule, parseRule, type RuleFacts, type RuleTree } from "./rule";

/** Resolves settings: defaults ← material ← object ← rules in their order ← override on the single id. */
export interface Resolver {
	readonly resolve: (object: Id, derived: string, facts: (settings: FullBodySettings) => RuleFacts) => FullBodySettings;
}

export function makeResolver(shot: Shot): Resolver {
	const rules = shot.bodyRules.flatMap(({ rule, settings }) => {
		const parsed = parseRule(rule);
		return parsed.ok ? [{ tree: parsed.value, settings }] : [];
	});
	return {
		resolve(object, derived, facts) {
			const material = shot.materials[shot.objects[object]!.material]!;
			const base = {
				...BODY_DEFAULTS,
				density: material.density,
				friction: material.friction,
				bounce: material.bounce,
				...defined(shot.bodies[object]),
			} as FullBodySettings;
			const ruled = rules.length > 0 ? applyRules(base, rules, facts(base)) : base;
			return derived === object ? ruled : { ...ruled, ...defined(shot.overrides[derived]) };
		},
	};
}

function applyRules(
	base: FullBodySettings,
	rules: readonly { tree: RuleTree; settings: BodySettings }[],
	facts: RuleFacts,
): FullBodySettings {
	return Object.assign({}, base, ...rules.filter((rule) => matchesRule(rule.tree, facts)).map((rule) => defined(rule.settings)));
}

const defined = (settings: BodySettings | undefined): BodySettings =>
	Object.fromEntries(Object.entries(settings ?? {}).filter(([, value]) => value !== undefined));
