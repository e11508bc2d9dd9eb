import { BODY_DEFAULTS, type BodySettings, type FullBodySettings, type Id, type Shot } from "../shot";
import type { Body } from "./build";
import { crackOf } from "./look";
import { matchesRule, parseRule, type RuleFacts, type RuleTree } from "./rule";

/** Resolves settings: defaults ← material ← object ← rules in their order ← override on the single id. */
export interface Resolver {
	readonly resolve: (body: Pick<Body, "id" | "object" | "source">, facts: (settings: FullBodySettings) => RuleFacts) => FullBodySettings;
}

export function makeResolver(shot: Shot): Resolver {
	const rules = shot.bodyRules.flatMap(({ rule, settings }) => {
		const parsed = parseRule(rule);
		return parsed.ok ? [{ tree: parsed.value, settings }] : [];
	});
	// Thousands of copies have the same settings: they share one record.
	const bases = new Map<string, FullBodySettings>();
	const baseOf = (object: Id, material: Id): FullBodySettings => {
		const key = `${object} ${material}`;
		const known = bases.get(key);
		if (known) return known;
		const { density, friction, bounce } = shot.materials[material]!;
		const crack = crackOf(shot, object);
		const base = {
			...BODY_DEFAULTS,
			density,
			friction,
			bounce,
			// Parts that a crack holds together until it is through.
			...(crack && { wake: { when: "frame", frame: crack.last + 1 } }),
			...defined(shot.bodies[object]),
		} as FullBodySettings;
		bases.set(key, base);
		return base;
	};
	return {
		resolve({ id, object, source }, facts) {
			const base = baseOf(object, shot.objects[source]!.material);
			const ruled = rules.length > 0 ? applyRules(base, rules, facts(base)) : base;
			const single = id === object ? undefined : shot.overrides[id];
			return single ? { ...ruled, ...defined(single) } : ruled;
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
