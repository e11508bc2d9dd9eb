import { layerAt, numberAt, uncorrectedPose } from "@rubble/core/animation";
import { degrees, eulerNear, fromEuler, type Quat, radians, type Vec3 } from "@rubble/core/maths";
import {
	type Command,
	dropKeysAfter,
	type Easing,
	type Key,
	type KeyChannel,
	keyedOf,
	keysIn,
	type Shot,
	setKey,
	setNumberKey,
	type Ticks,
	together,
} from "@rubble/core/shot";

/** One line of the curve editor: a part of a channel of keys. */
export interface Line {
	readonly id: string;
	readonly label: string;
	readonly unit: string;
	/** A colour of the theme. */
	readonly colour: string;
	readonly channel: KeyChannel;
	/** Which number of the channel's values. */
	readonly part: number;
	readonly points: readonly { readonly tick: Ticks; readonly value: number; readonly easing: Easing; readonly slope: number | undefined }[];
	readonly at: (tick: Ticks) => number;
}

const PLACE = [
	["x", "var(--rust)"],
	["height", "var(--kelp)"],
	["z", "var(--sea)"],
] as const;

/** Lines of what is keyed of an object: its place in metres, its turns, and its numbers; or of one of its corrections. */
export function linesOf(shot: Shot, id: string, layer?: number): Line[] {
	const item = keyedOf(shot, id);
	const found = layer === undefined ? item?.keys : item?.keys.layers?.[layer];
	if (!item || !found) return [];
	const { translation: place, rotation } = found;
	const poseAt = (tick: Ticks) => (layer === undefined ? uncorrectedPose(item, tick) : layerAt(found, tick));
	const channelOf = (list: "translation" | "rotation"): KeyChannel => (layer === undefined ? list : `layers.${layer}.${list}`);
	const lines: Line[] =
		place.length > 0
			? PLACE.map(([label, colour], part) => ({
					id: `translation.${part}`,
					label,
					unit: "m",
					colour,
					channel: channelOf("translation"),
					part,
					points: place.map(({ tick, value, easing, slope }) => ({ tick, value: value[part]!, easing, slope: slope?.[part] })),
					at: (tick) => poseAt(tick).translation[part]!,
				}))
			: [];
	const turns = unwound(rotation);
	if (turns.length > 0)
		TURNS.forEach(([label, colour], part) => {
			lines.push({
				id: `rotation.${part}`,
				label,
				unit: "°",
				colour,
				channel: channelOf("rotation"),
				part,
				points: rotation.map(({ tick, easing }, i) => ({ tick, value: degrees(turns[i]![part]!), easing, slope: undefined })),
				at: (tick) => degrees(eulerNear(poseAt(tick).rotation, turnsNear(rotation, turns, tick))[part]!),
			});
		});
	if (layer !== undefined) return lines;
	for (const [name, keys] of Object.entries(item.keys.numbers ?? {}))
		lines.push({
			id: `numbers.${name}`,
			label: name,
			unit: "",
			colour: "var(--dusk)",
			channel: `numbers.${name}`,
			part: 0,
			points: keys.map(({ tick, value, easing, slope }) => ({ tick, value, easing, slope })),
			at: (tick) => numberAt(item, name, tick) ?? 0,
		});
	return lines;
}

const TURNS = [
	["turn x", "var(--ochre)"],
	["turn up", "var(--dusk)"],
	["turn z", "var(--slate)"],
] as const;

/** Turns of all keys about x, up and z, each near the one before: curves without flips. Radians. */
function unwound(keys: readonly Key<Quat>[]): Vec3[] {
	const turns: Vec3[] = [];
	for (const { value } of keys) turns.push(eulerNear(value, turns.at(-1) ?? [0, 0, 0]));
	return turns;
}

/** What the turns should be near to at a tick: on the way from key to key. */
function turnsNear(keys: readonly Key<Quat>[], turns: readonly Vec3[], tick: Ticks): Vec3 {
	const after = keys.findIndex((key) => key.tick > tick);
	if (after === 0) return turns[0]!;
	if (after < 0) return turns.at(-1)!;
	const [a, b] = [keys[after - 1]!, keys[after]!];
	const t = (tick - a.tick) / (b.tick - a.tick);
	return turns[after]!.map((turn, k) => turns[after - 1]![k]! + t * (turn - turns[after - 1]![k]!)) as unknown as Vec3;
}

/** A point of a line: which line, which key. */
export interface Picked {
	readonly line: string;
	readonly index: number;
}

export interface Change {
	/** Ticks to add. */
	readonly ticks?: number;
	/** What is added to the picked parts of the values; degrees for turns. */
	readonly by?: number;
	/** Times of picked keys are spread from `from` by this factor, their values from the mean of the picked ones. */
	readonly spread?: { readonly time: number; readonly from: Ticks; readonly value: number };
	/** Picked values go half way to the middle of their neighbours. */
	readonly smooth?: true;
	readonly easing?: Easing;
	/** Per second; `null` takes a slope of one's own away. */
	readonly slope?: number | null;
}

/** The keys of a channel after its picked points were changed. Keys that come to lie on one tick become one. */
export function changedKeys(
	keys: readonly Key<unknown>[],
	picked: readonly { readonly part: number; readonly index: number }[],
	change: Change,
): Key<unknown>[] {
	const turning = keys.length > 0 && Array.isArray(keys[0]!.value) && keys[0]!.value.length === 4;
	const all = turning
		? unwound(keys as readonly Key<Quat>[]).map((turns) => turns.map(degrees))
		: keys.map(({ value }) => [value].flat() as number[]);
	const means = [0, 1, 2].map((part) => {
		const own = picked.filter((one) => one.part === part).map(({ index }) => all[index]![part]!);
		return own.reduce((sum, value) => sum + value, 0) / Math.max(1, own.length);
	});
	/** The value of a part after the change. */
	const changed = (index: number, part: number): number => {
		const value = all[index]![part]!;
		if (change.smooth) {
			const [before, after] = [all[index - 1], all[index + 1]];
			return before && after ? 0.5 * value + 0.25 * (before[part]! + after[part]!) : value;
		}
		return (change.spread ? means[part]! + change.spread.value * (value - means[part]!) : value) + (change.by ?? 0);
	};
	return keys.map((key, index) => {
		const own = picked.filter((one) => one.index === index);
		if (own.length === 0) return key;
		const late = change.spread ? Math.round(change.spread.from + change.spread.time * (key.tick - change.spread.from)) : key.tick;
		const next = { ...key, tick: Math.max(0, late + (change.ticks ?? 0)), easing: change.easing ?? key.easing };
		if (change.by !== undefined || change.spread || change.smooth) {
			const parts = all[index]!.map((value, part) => (own.some((one) => one.part === part) ? changed(index, part) : value));
			next.value = turning ? fromEuler(parts.map(radians) as unknown as Vec3) : typeof key.value === "number" ? parts[0] : parts;
		}
		if (turning) return next;
		if (change.slope === null) delete (next as { slope?: unknown }).slope;
		else if (change.slope !== undefined) next.slope = typeof key.value === "number" ? change.slope : sloped(key, own, change.slope);
		return next;
	});
}

/** What stays from a tick on as it is then: its place, turn and numbers get a key there, where later ones would go on, and those go. */
export function stopAt(shot: Shot, id: string, tick: Ticks, layer?: number): Command {
	const item = keyedOf(shot, id)!;
	const pose = layer === undefined ? uncorrectedPose(item, tick) : layerAt(item.keys.layers![layer]!, tick);
	const channels = [...new Set(linesOf(shot, id, layer).map(({ channel }) => channel))];
	const goingOn = channels.filter((channel) => keysIn(item.keys, channel).some((key) => key.tick > tick));
	const held = goingOn.map((channel) => {
		if (channel.endsWith("translation")) return setKey(id, tick, { translation: pose.translation }, undefined, layer);
		if (channel.endsWith("rotation")) return setKey(id, tick, { rotation: pose.rotation }, undefined, layer);
		const name = channel.slice("numbers.".length);
		return setNumberKey(id, name, tick, numberAt(item, name, tick)!);
	});
	return together("Stop here", [...held, ...goingOn.map((channel) => dropKeysAfter(id, channel, tick))]);
}

/** How far picked keys may go in time: they keep their order and a gap to those that are not picked. Ticks. */
export function roomFor(keys: readonly { readonly tick: Ticks }[], picked: ReadonlySet<number>, ticks: number, gap: number): number {
	let room = ticks;
	keys.forEach(({ tick }, i) => {
		if (!picked.has(i)) return;
		room = Math.max(room, 0 - tick);
		const [before, after] = [keys[i - 1], keys[i + 1]];
		if (before && !picked.has(i - 1)) room = Math.max(room, before.tick + gap - tick);
		if (after && !picked.has(i + 1)) room = Math.min(room, after.tick - gap - tick);
	});
	return room;
}

const sloped = ({ slope }: Key<unknown>, own: readonly { readonly part: number }[], wanted: number): number[] =>
	((slope as Vec3 | undefined) ?? [0, 0, 0]).map((x, part) => (own.some((one) => one.part === part) ? wanted : x));
