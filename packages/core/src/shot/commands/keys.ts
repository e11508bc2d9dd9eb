import type { Draft } from "immer";
import { plainCopy } from "../../common";
import type { Quat, Vec3 } from "../../maths";
import type { Command } from "../edit";
import { keyedOf } from "../keyed";
import type { Easing, Id, Key, ObjectKeys, Shot, Ticks } from "../types";
import { type Placement, placeObject } from "./objects";

/** The keys of an object, of a piece or of a copy. */
const keysOf = (shot: Draft<Shot>, id: string): Draft<ObjectKeys> | undefined => keyedOf(shot as Shot, id)?.keys as Draft<ObjectKeys>;

/** The keys of an object, or those of one of its corrections. */
const listsOf = (
	shot: Draft<Shot>,
	id: Id,
	layer: number | undefined,
): Pick<Draft<ObjectKeys>, "translation" | "rotation" | "numbers"> | undefined =>
	layer === undefined ? keysOf(shot, id) : keysOf(shot, id)?.layers?.[layer];

/**
 * Keys where an object is at a tick; a key that stands there already is replaced. Without an easing it goes on like its
 * neighbour. `layer`: what a correction moves and turns by instead.
 */
export const setKey = (
	id: Id,
	tick: Ticks,
	at: { translation?: Vec3 | undefined; rotation?: Quat | undefined },
	easing?: Easing,
	layer?: number,
): Command => ({
	name: layer === undefined ? "Set key" : "Correct",
	apply: (shot) => {
		const keys = listsOf(shot, id, layer);
		if (!keys) return;
		if (at.translation)
			keys.translation = withKey(keys.translation, {
				tick,
				value: [...at.translation],
				easing: easing ?? easingAt(keys.translation, tick),
			});
		if (at.rotation)
			keys.rotation = withKey(keys.rotation, { tick, value: [...at.rotation], easing: easing ?? easingAt(keys.rotation, tick) });
	},
});

/** Places an object; what of it is keyed gets a key at this tick instead, since its keys alone say where it is. */
export const poseObject = (id: Id, tick: Ticks, { translation, rotation, scale }: Placement): Command => ({
	name: scale ? "Size" : rotation ? "Turn" : "Move",
	apply: (shot) => {
		const keys = keysOf(shot, id);
		if (!keys) return;
		const key: { translation?: Vec3; rotation?: Quat } = {};
		const rest: { -readonly [K in keyof Placement]: Placement[K] } = {};
		if (translation) (keys.translation.length > 0 ? key : rest).translation = translation;
		if (rotation) (keys.rotation.length > 0 ? key : rest).rotation = rotation;
		if (scale) rest.scale = scale;
		setKey(id, tick, key).apply(shot);
		placeObject(id, rest).apply(shot);
	},
});

/** Keys a number of an object, such as a force's `strength`. */
export const setNumberKey = (id: Id, name: string, tick: Ticks, value: number): Command => ({
	name: `Key ${name}`,
	apply: (shot) => {
		const keys = keysOf(shot, id);
		if (!keys) return;
		const former = keys.numbers?.[name] ?? [];
		keys.numbers = { ...keys.numbers, [name]: withKey(former, { tick, value, easing: easingAt(former, tick) }) };
	},
});

/** Sets the main world's gravity: a key at this tick where it is keyed, or shall be; a key that stands there already is replaced. */
export const setGravity = (gravity: Vec3, tick: Ticks, key = false): Command => ({
	name: key ? "Key gravity" : "Set gravity",
	apply: ({ settings }) => {
		const former = settings.gravityKeys ?? [];
		if (!key && former.length === 0) settings.gravity = [...gravity];
		else settings.gravityKeys = withKey(former, { tick, value: [...gravity], easing: easingAt(former, tick) });
	},
});

/** Without a key at this tick; steady again without any. */
export const removeGravityKey = (tick: Ticks): Command => ({
	name: "Remove gravity's key",
	apply: ({ settings }) => {
		const rest = settings.gravityKeys?.filter((key) => key.tick !== tick) ?? [];
		if (rest.length > 0) settings.gravityKeys = rest;
		else delete settings.gravityKeys;
	},
});

export const moveGravityKey = (from: Ticks, to: Ticks): Command => ({
	name: "Move gravity's key",
	apply: ({ settings }) => {
		const moved = settings.gravityKeys?.find((key) => key.tick === from);
		if (!moved || from === to) return;
		settings.gravityKeys = withKey(
			settings.gravityKeys!.filter((key) => key !== moved),
			{ ...moved, tick: to },
		);
	},
});

/** A list of keys of an object: of its place, of its turn, of a number by its name, or of a correction by its place in their order. */
export type KeyChannel = "translation" | "rotation" | `numbers.${string}` | `layers.${number}.${"translation" | "rotation"}`;

/** What a channel is of: a correction or the keys themselves, and which list of them. */
function partsOf(channel: KeyChannel): { readonly layer: number | undefined; readonly list: string } {
	const [, layer, list] = /^layers\.(\d+)\.(.*)$/.exec(channel) ?? [];
	return layer === undefined ? { layer: undefined, list: channel } : { layer: Number(layer), list: list! };
}

/** The keys of a channel; none where it has none. */
export function keysIn({ layers = [], ...keys }: ObjectKeys, channel: KeyChannel): readonly Key<unknown>[] {
	const { layer, list } = partsOf(channel);
	const own = layer === undefined ? keys : layers[layer];
	if (list === "translation" || list === "rotation") return own?.[list] ?? [];
	return keys.numbers?.[list.slice("numbers.".length)] ?? [];
}

/** Without the keys of a channel that come after a tick. */
export const dropKeysAfter = (id: Id, channel: KeyChannel, tick: Ticks): Command => ({
	name: "Delete later keys",
	apply: (shot) => {
		const keys = keysOf(shot, id);
		if (!keys) return;
		const kept = keysIn(keys as ObjectKeys, channel).filter((key) => key.tick <= tick);
		setKeys(id, channel, kept).apply(shot);
	},
});

/** The keys of one channel, all of them; those at one tick are one, the later in the list. */
export const setKeys = (id: Id, channel: KeyChannel, keys: readonly Key<unknown>[]): Command => ({
	name: "Edit keys",
	apply: (shot) => {
		const { layer, list: wanted } = partsOf(channel);
		const all = listsOf(shot, id, layer);
		if (!all) return;
		const byTick = new Map(keys.map((key) => [key.tick, key]));
		const list = [...byTick.values()].sort((a, b) => a.tick - b.tick).map(plainCopy);
		if (wanted === "translation" || wanted === "rotation") all[wanted] = list as never;
		else {
			const name = wanted.slice("numbers.".length);
			all.numbers = { ...all.numbers, [name]: list as never };
			if (list.length === 0) delete all.numbers[name];
		}
	},
});

/** Takes all keys of a motion away, with its corrections: it stands still where it rests. Keyed numbers stay. */
export const dropKeys = (id: Id): Command => ({
	name: "Remove keys",
	apply: (shot) => {
		const keys = keysOf(shot, id);
		if (!keys) return;
		keys.translation = [];
		keys.rotation = [];
		delete keys.layers;
	},
});

export const removeKey = (id: Id, tick: Ticks, layer?: number): Command => ({
	name: "Remove key",
	apply: (shot) => {
		const keys = listsOf(shot, id, layer);
		if (!keys) return;
		keys.translation = keys.translation.filter((key) => key.tick !== tick);
		keys.rotation = keys.rotation.filter((key) => key.tick !== tick);
		for (const [name, list] of Object.entries(keys.numbers ?? {})) {
			const rest = list.filter((key) => key.tick !== tick);
			if (rest.length > 0) keys.numbers![name] = rest;
			else delete keys.numbers![name];
		}
	},
});

export const moveKey = (id: Id, from: Ticks, to: Ticks, layer?: number): Command => ({
	name: "Move key",
	apply: (shot) => {
		const keys = listsOf(shot, id, layer);
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
		for (const [name, list] of Object.entries(keys.numbers ?? {})) {
			const moved = list.find((key) => key.tick === from);
			if (moved)
				keys.numbers![name] = withKey(
					list.filter((key) => key !== moved),
					{ ...moved, tick: to },
				);
		}
	},
});

export const setEasing = (id: Id, easing: Easing, layer?: number): Command => ({
	name: `Make keys ${easing}`,
	apply: (shot) => {
		const keys = listsOf(shot, id, layer);
		if (!keys) return;
		for (const key of [...keys.translation, ...keys.rotation, ...Object.values(keys.numbers ?? {}).flat()]) key.easing = easing;
	},
});

/**
 * A correction over an object's motion. It begins with keys that change nothing at both ends of `between`, so that what
 * is corrected in the midst of them fades in and out.
 */
export const addLayer = (id: Id, name: string, between: readonly [Ticks, Ticks]): Command => ({
	name: "Add correction",
	apply: (shot) => {
		const keys = keysOf(shot, id);
		if (!keys) return;
		const ends = [...new Set(between)];
		keys.layers = [
			...(keys.layers ?? []),
			{
				name,
				muted: false,
				translation: ends.map((tick) => ({ tick, value: [0, 0, 0], easing: "eased" })),
				rotation: ends.map((tick) => ({ tick, value: [0, 0, 0, 1], easing: "eased" })),
			},
		];
	},
});

export const changeLayer = (id: Id, layer: number, change: { readonly name?: string; readonly muted?: boolean }): Command => ({
	name: change.muted === undefined ? "Rename correction" : change.muted ? "Mute correction" : "Apply correction",
	apply: (shot) => {
		const found = keysOf(shot, id)?.layers?.[layer];
		if (found) Object.assign(found, change);
	},
});

export const removeLayer = (id: Id, layer: number): Command => ({
	name: "Remove correction",
	apply: (shot) => {
		const keys = keysOf(shot, id);
		if (!keys?.layers) return;
		keys.layers = keys.layers.filter((_, n) => n !== layer);
		if (keys.layers.length === 0) delete keys.layers;
	},
});

function easingAt(keys: readonly { readonly tick: Ticks; readonly easing: Easing }[], tick: Ticks): Easing {
	return (keys.findLast((key) => key.tick <= tick) ?? keys[0])?.easing ?? "linear";
}

function withKey<K extends { tick: Ticks }>(keys: readonly K[], key: K): K[] {
	return [...keys.filter((other) => other.tick !== key.tick), key].sort((a, b) => a.tick - b.tick);
}
