import type { Draft } from "immer";
import type { Quat, Vec3 } from "../../maths";
import type { Command } from "../edit";
import type { Easing, Id, Key, Ticks } from "../types";

/** Keys where an object is at a tick; a key that stands there already is replaced. */
export const setKey = (id: Id, tick: Ticks, at: { translation?: Vec3; rotation?: Quat }, easing: Easing = "linear"): Command => ({
	name: "Set key",
	apply: (shot) => {
		const keys = shot.objects[id]?.keys;
		if (!keys) return;
		if (at.translation) keys.translation = withKey(keys.translation, { tick, value: [...at.translation], easing });
		if (at.rotation) keys.rotation = withKey(keys.rotation, { tick, value: [...at.rotation], easing });
	},
});

export const removeKey = (id: Id, tick: Ticks): Command => ({
	name: "Remove key",
	apply: (shot) => {
		const keys = shot.objects[id]?.keys;
		if (!keys) return;
		keys.translation = keys.translation.filter((key) => key.tick !== tick);
		keys.rotation = keys.rotation.filter((key) => key.tick !== tick);
	},
});

export const moveKey = (id: Id, from: Ticks, to: Ticks): Command => ({
	name: "Move key",
	apply: (shot) => {
		const keys = shot.objects[id]?.keys;
		if (!keys || from === to) return;
		for (const channel of ["translation", "rotation"] as const) {
			const list = keys[channel] as Draft<Key<unknown>>[];
			const moved = list.find((key) => key.tick === from);
			if (moved)
				(keys[channel] as Draft<Key<unknown>>[]) = withKey(
					list.filter((key) => key !== moved),
					{ ...moved, tick: to },
				);
		}
	},
});

export const setEasing = (id: Id, easing: Easing): Command => ({
	name: `Make keys ${easing}`,
	apply: (shot) => {
		const keys = shot.objects[id]?.keys;
		if (!keys) return;
		for (const key of [...keys.translation, ...keys.rotation]) key.easing = easing;
	},
});

function withKey<K extends { tick: Ticks }>(keys: readonly K[], key: K): K[] {
	return [...keys.filter((other) => other.tick !== key.tick), key].sort((a, b) => a.tick - b.tick);
}
