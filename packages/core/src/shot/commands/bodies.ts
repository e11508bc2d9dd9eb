import type { Draft } from "immer";
import { plainCopy } from "../../common";
import type { Command } from "../edit";
import { objectOf } from "../names";
import type { BodySettings, Id, Shot } from "../types";

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

/**
 * Gives objects and pieces what has been set for another one, instead of what had been set for them. Pieces of an object that
 * is meant lose what they had of their own, unless they follow keys. Materials and rules go on to hold.
 */
export const copyBody = (from: string, ids: readonly string[]): Command => ({
	name: "Copy settings",
	apply: (shot) => {
		const home = objectOf(shot as Shot, from);
		if (home === undefined) return;
		const settings = plainCopy({ ...shot.bodies[home], ...shot.overrides[from] });
		const meant = new Set(ids.filter((id) => id !== from));
		for (const piece of Object.keys(shot.overrides))
			if (meant.has(objectOf(shot as Shot, piece) ?? "") && !shot.motions?.[piece]) delete shot.overrides[piece];
		for (const id of meant) (id.includes(":") ? shot.overrides : shot.bodies)[id] = plainCopy(settings) as Draft<BodySettings>;
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
