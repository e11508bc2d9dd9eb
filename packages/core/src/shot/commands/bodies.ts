import type { Draft } from "immer";
import type { Command } from "../edit";
import type { BodySettings, Id } from "../types";

/**
 * Settings of objects (ids of the shot) and of single pieces (derived ids, which hold a colon).
 * A field set to `undefined` goes back to what the material or the defaults say.
 */
export const setBody = (ids: readonly string[], settings: BodySettings): Command => ({
	name: `Set ${Object.keys(settings).join(", ")}`,
	apply: (shot) => {
		for (const id of ids) {
			const home = id.includes(":") ? shot.overrides : shot.bodies;
			const next = { ...home[id], ...settings } as Record<string, unknown>;
			for (const field of Object.keys(next)) if (next[field] === undefined) delete next[field];
			if (Object.keys(next).length > 0) home[id] = next as Draft<BodySettings>;
			else delete home[id];
		}
	},
});

export const addBodyRule = (id: Id, rule: string, settings: BodySettings): Command => ({
	name: "Add rule",
	apply: (shot) => {
		shot.bodyRules.push({ id, rule, settings: settings as Draft<BodySettings> });
	},
});

export const removeBodyRule = (id: Id): Command => ({
	name: "Remove rule",
	apply: (shot) => {
		shot.bodyRules = shot.bodyRules.filter((rule) => rule.id !== id);
	},
});
