import { compose, IDENTITY, inverse, type Quat, rotate, slerp, squad, type Vec3, vec3 } from "../maths";
import {
	type Easing,
	type Id,
	type Key,
	type Keyed,
	type KeyLayer,
	type Shot,
	type ShotSettings,
	TICKS_PER_SECOND,
	type Ticks,
} from "../shot";

/** A place and a turn in the world or relative to a parent. */
export interface Pose {
	readonly translation: Vec3;
	readonly rotation: Quat;
}

/** Whether it moves or turns by keys. */
export const isKeyed = ({ keys }: Pick<Keyed, "keys">): boolean =>
	hasKeys(keys) || (keys.layers?.some((layer) => !layer.muted && hasKeys(layer)) ?? false);

const hasKeys = ({ translation, rotation }: Pick<KeyLayer, "translation" | "rotation">): boolean =>
	translation.length + rotation.length > 0;

/** A keyed number of an object at a tick; undefined where it has no keys. */
export const numberAt = (item: Keyed, name: string, tick: Ticks): number | undefined =>
	evaluateKeys(item.keys.numbers?.[name] ?? [], tick, NUMBERS);

/** The main world's gravity at a tick, m/s². */
export const gravityAt = ({ gravity, gravityKeys = [] }: ShotSettings, tick: Ticks): Vec3 =>
	evaluateKeys(gravityKeys, tick, VECTORS) ?? gravity;

/** The pose relative to its parent, of a piece or copy to its object: its keys where it has any, else where it stands, and the corrections over them. */
export const localPose = (item: Keyed, tick: Ticks): Pose => correct(uncorrectedPose(item, tick), item.keys.layers ?? [], tick);

/** The same without its corrections. */
export const uncorrectedPose = (item: Keyed, tick: Ticks): Pose => ({
	translation: evaluateKeys(item.keys.translation, tick, VECTORS) ?? item.translation,
	rotation: evaluateKeys(item.keys.rotation, tick, TURNS) ?? item.rotation,
});

/** What a correction moves and turns by at a tick, muted or not. */
export const layerAt = ({ translation, rotation }: Pick<KeyLayer, "translation" | "rotation">, tick: Ticks): Pose => ({
	translation: evaluateKeys(translation, tick, VECTORS) ?? vec3.ZERO,
	rotation: evaluateKeys(rotation, tick, TURNS) ?? IDENTITY,
});

const correct = (pose: Pose, layers: readonly KeyLayer[], tick: Ticks): Pose =>
	layers
		.filter(({ muted }) => !muted)
		.map((layer) => layerAt(layer, tick))
		.reduce((at, by) => ({ translation: vec3.add(at.translation, by.translation), rotation: compose(by.rotation, at.rotation) }), pose);

/** What a correction has to move and turn by at a tick, so that the object is where it is wanted. */
export function correctionFor(item: Keyed, layer: number, tick: Ticks, wanted: Partial<Pose>): Partial<Pose> {
	const layers = item.keys.layers ?? [];
	const before = correct(uncorrectedPose(item, tick), layers.slice(0, layer), tick);
	const after = correct({ translation: vec3.ZERO, rotation: IDENTITY }, layers.slice(layer + 1), tick);
	return {
		...(wanted.translation && {
			translation: vec3.subtract(vec3.subtract(wanted.translation, before.translation), after.translation),
		}),
		...(wanted.rotation && {
			rotation: compose(compose(inverse(after.rotation), wanted.rotation), inverse(before.rotation)),
		}),
	};
}

/** The object's pose in the world at a tick; parents' scale moves children, turning included. */
export function worldPose(shot: Shot, id: Id, tick: Ticks): Pose {
	const item = shot.objects[id]!;
	const local = localPose(item, tick);
	if (item.parent === null) return local;
	const parent = worldPose(shot, item.parent, tick);
	const parentScale = worldScale(shot, item.parent);
	return {
		translation: vec3.add(parent.translation, rotate(parent.rotation, vec3.multiply(local.translation, parentScale))),
		rotation: compose(parent.rotation, local.rotation),
	};
}

/** The scale that the object's mesh is evaluated at. `shearProblem` tells where this is not exact. */
export function worldScale(shot: Shot, id: Id): Vec3 {
	const item = shot.objects[id]!;
	return item.parent === null ? item.scale : vec3.multiply(worldScale(shot, item.parent), item.scale);
}

/** A sentence where a parent's uneven scale would shear this turned object; else undefined. */
export function shearProblem(shot: Shot, id: Id): string | undefined {
	const item = shot.objects[id]!;
	if (item.parent === null) return undefined;
	const s = worldScale(shot, item.parent);
	const even = Math.abs(s[0] - s[1]) < 1e-9 * Math.abs(s[0]) && Math.abs(s[1] - s[2]) < 1e-9 * Math.abs(s[1]);
	const turned =
		Math.abs(item.rotation[3]) < 1 - 1e-9 || [item.keys, ...(item.keys.layers ?? [])].some(({ rotation }) => rotation.length > 0);
	return even || !turned
		? undefined
		: `“${item.name}” is turned under a parent that is scaled unevenly, which would shear it. Scale the object itself, or make its parent's scale even.`;
}

/** Whether this object or one of its parents moves by keys. */
export function moves(shot: Shot, id: Id): boolean {
	const item = shot.objects[id]!;
	return isKeyed(item) || (item.parent !== null && moves(shot, item.parent));
}

/** How values of a kind lie between keys. */
interface Blend<T> {
	readonly between: (a: T, b: T, t: number) => T;
	/** On a smooth curve through all keys: from key `i` to the next, at `t` of the way. */
	readonly curved: (keys: readonly Key<T>[], i: number, t: number) => T;
}

function evaluateKeys<T>(keys: readonly Key<T>[], tick: Ticks, { between, curved }: Blend<T>): T | undefined {
	if (keys.length === 0) return undefined;
	if (tick <= keys[0]!.tick) return keys[0]!.value;
	for (let i = 1; i < keys.length; i++) {
		const right = keys[i]!;
		if (tick >= right.tick) continue;
		const left = keys[i - 1]!;
		const t = (tick - left.tick) / (right.tick - left.tick);
		return left.easing === "curved" ? curved(keys, i - 1, t) : between(left.value, right.value, ease(left.easing, t));
	}
	return keys[keys.length - 1]!.value;
}

/** `eased` is the smoothstep 3t² − 2t³: no speed at either key. */
function ease(easing: Easing, t: number): number {
	if (easing === "stepped") return 0;
	return easing === "eased" ? t * t * (3 - 2 * t) : t;
}

type Scalar = Pick<Key<number>, "tick" | "value" | "slope">;

/** The slope of a curved value at a key, per tick: its own, or the limited mean of those beside it (Fritsch and Carlson 1980). */
function slopeOf(keys: readonly Scalar[], i: number): number {
	const own = keys[i]!.slope;
	if (own !== undefined) return own / TICKS_PER_SECOND;
	const between = (k: number): number | undefined =>
		k < 0 || k + 1 >= keys.length ? undefined : (keys[k + 1]!.value - keys[k]!.value) / (keys[k + 1]!.tick - keys[k]!.tick);
	const [before, after] = [between(i - 1), between(i)];
	if (before === undefined || after === undefined) return 0;
	return before * after <= 0 ? 0 : (2 * before * after) / (before + after);
}

/** The cubic with the slopes of both keys. */
function hermite(keys: readonly Scalar[], i: number, t: number): number {
	const [a, b] = [keys[i]!, keys[i + 1]!];
	const span = b.tick - a.tick;
	const [t2, t3] = [t * t, t * t * t];
	return (
		(2 * t3 - 3 * t2 + 1) * a.value +
		(t3 - 2 * t2 + t) * span * slopeOf(keys, i) +
		(3 * t2 - 2 * t3) * b.value +
		(t3 - t2) * span * slopeOf(keys, i + 1)
	);
}

const NUMBERS: Blend<number> = { between: (a, b, t) => a + (b - a) * t, curved: hermite };

const VECTORS: Blend<Vec3> = {
	between: vec3.mix,
	curved: (keys, i, t) => {
		const along = (k: 0 | 1 | 2) =>
			hermite(
				keys.map(({ tick, value, slope }) => ({ tick, value: value[k], slope: slope?.[k] })),
				i,
				t,
			);
		return [along(0), along(1), along(2)];
	},
};

/** Turns run on a spherical spline through their keys, with no jump of their speed (Shoemake 1987, squad). */
const TURNS: Blend<Quat> = {
	between: slerp,
	curved: (keys, i, t) =>
		squad(
			keys.map(({ value }) => value),
			i,
			t,
		),
};
