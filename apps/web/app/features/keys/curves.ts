import { localPose, numberAt } from "@rubble/core/animation";
import type { Vec3 } from "@rubble/core/maths";
import type { Easing, Id, Key, KeyChannel, Shot, Ticks } from "@rubble/core/shot";

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

/** Lines of what is keyed of an object: its place in metres, and its numbers. */
export function linesOf(shot: Shot, id: Id): Line[] {
	const item = shot.objects[id];
	if (!item) return [];
	const place = item.keys.translation;
	const lines: Line[] =
		place.length > 0
			? PLACE.map(([label, colour], part) => ({
					id: `translation.${part}`,
					label,
					unit: "m",
					colour,
					channel: "translation" as const,
					part,
					points: place.map(({ tick, value, easing, slope }) => ({ tick, value: value[part]!, easing, slope: slope?.[part] })),
					at: (tick) => localPose(item, tick).translation[part]!,
				}))
			: [];
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

/** A point of a line: which line, which key. */
export interface Picked {
	readonly line: string;
	readonly index: number;
}

export interface Change {
	/** Ticks to add. */
	readonly ticks?: number;
	/** What is added to the picked parts of the values. */
	readonly by?: number;
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
	return keys.map((key, index) => {
		const own = picked.filter((one) => one.index === index);
		if (own.length === 0) return key;
		const next = { ...key, tick: Math.max(0, key.tick + (change.ticks ?? 0)), easing: change.easing ?? key.easing };
		if (change.by !== undefined) next.value = added(key.value, own, change.by);
		if (change.slope === null) delete (next as { slope?: unknown }).slope;
		else if (change.slope !== undefined) next.slope = typeof key.value === "number" ? change.slope : sloped(key, own, change.slope);
		return next;
	});
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

const added = (value: unknown, own: readonly { readonly part: number }[], by: number): unknown =>
	typeof value === "number" ? value + by : (value as Vec3).map((x, part) => (own.some((one) => one.part === part) ? x + by : x));

const sloped = ({ slope }: Key<unknown>, own: readonly { readonly part: number }[], wanted: number): number[] =>
	((slope as Vec3 | undefined) ?? [0, 0, 0]).map((x, part) => (own.some((one) => one.part === part) ? wanted : x));

/** The keys of a channel as the document holds them. */
export const keysOf = (shot: Shot, id: Id, channel: KeyChannel): readonly Key<unknown>[] => {
	const { keys } = shot.objects[id]!;
	return channel === "translation" || channel === "rotation" ? keys[channel] : (keys.numbers?.[channel.slice("numbers.".length)] ?? []);
};
