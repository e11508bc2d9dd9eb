import { moves, type Pose } from "../animation";
import { type BakeError, type BakeOptions, bake } from "../bake";
import { keyedInside } from "../bodies";
import type { FrameStore } from "../cache";
import { bad, good, type Outcome, plainCopy } from "../common";
import { quatAt, tripleAt } from "../maths";
import { type Command, dropMotion, type Id, isBodiless, type Key, objectOf, type Shot, tickOfFrame } from "../shot";

export interface BakedKeys {
	readonly command: Command;
	/** Objects, pieces and copies that follow keys from now on. */
	readonly baked: readonly string[];
	/** Objects that are meant, but that the take knows nothing of. */
	readonly left: readonly Id[];
	readonly error: BakeError;
}

/** A shot holds its keys in its document, which is saved with every edit: more are for files. */
const MOST_KEYS = 100_000;

/**
 * Keys from a take on objects, pieces and copies: from then on they follow their keys, which can be edited, and push what
 * still simulates. What they were is remembered, for `unbake`. What is baked already is baked anew. `picked`: ids of bodies
 * and of objects, of which all that is in the take is meant.
 */
export function bakeKeys(
	shot: Shot,
	takeBodies: readonly { readonly id: string }[],
	store: FrameStore,
	picked: readonly string[],
	range: { readonly firstFrame: number; readonly lastFrame: number },
	options: BakeOptions,
	take: string,
): Outcome<BakedKeys> {
	const wanted = new Set(picked);
	const indices = [...takeBodies.keys()].filter((i) => {
		const { id } = takeBodies[i]!;
		const object = objectOf(shot, id);
		return object !== undefined && (wanted.has(id) || wanted.has(object));
	});
	const ids = indices.map((i) => takeBodies[i]!.id);
	const known = new Set(ids.map((id) => objectOf(shot, id)));
	const { tracks, error } = bake(store, range.firstFrame, range.lastFrame, indices, options);
	if (error.keys > MOST_KEYS)
		return bad(
			`These would be ${error.keys.toLocaleString("en")} keys, and a shot holds at most ${MOST_KEYS.toLocaleString("en")}. Pick fewer things, allow a larger tolerance, or write them into a file.`,
		);
	const made = ids.map((id, n) => {
		const { frames, translations, rotations } = tracks[n]!;
		const keys = Array.from(frames, (frame, k) => {
			const tick = tickOfFrame(shot.settings, frame);
			return { tick, pose: keyedInside(shot, id, { translation: tripleAt(translations, k), rotation: quatAt(rotations, k) }, tick) };
		});
		return {
			id,
			translation: keys.map(({ tick, pose }): Key<Pose["translation"]> => ({ tick, value: pose.translation, easing: "linear" })),
			rotation: keys.map(({ tick, pose }): Key<Pose["rotation"]> => ({ tick, value: pose.rotation, easing: "linear" })),
		};
	});
	return good({
		baked: ids,
		left: picked.filter((id) => shot.objects[id] && !isBodiless(shot.objects[id]) && !known.has(id) && !moves(shot, id)),
		error,
		command: {
			name: ids.length === 1 ? "Bake it to keys" : `Bake ${ids.length} to keys`,
			apply: (draft) => {
				for (const { id, ...keys } of made) {
					const item = draft.objects[id];
					const bodies = item ? draft.bodies : draft.overrides;
					const body = bodies[id];
					const before = body ? plainCopy(body) : null;
					const list = plainCopy(keys) as never as { translation: []; rotation: [] };
					if (item) {
						item.baked ??= {
							take,
							body: before,
							keys: plainCopy(item.keys),
							translation: [...item.translation],
							rotation: [...item.rotation],
						};
						item.baked.take = take;
						Object.assign(item.keys, list);
						// What was corrected before is in the take already.
						delete item.keys.layers;
					} else {
						draft.motions ??= {};
						const known = draft.motions[id];
						draft.motions[id] = {
							translation: [...keys.translation[0]!.value],
							rotation: [...keys.rotation[0]!.value],
							keys: list,
							baked: { take, body: known ? known.baked.body : before },
						};
					}
					const { wake: _, backAt: __, ...rest } = body ?? {};
					bodies[id] = { ...rest, kind: "animated" } as never;
				}
			},
		},
	});
}

/** Everything that follows keys from a take, and which take. */
export const bakedThings = ({ objects, motions = {} }: Shot): { readonly id: string; readonly take: string }[] => [
	...Object.entries(objects).flatMap(([id, { baked }]) => (baked ? [{ id, take: baked.take }] : [])),
	...Object.entries(motions).map(([id, { baked }]) => ({ id, take: baked.take })),
];

/** What they were before they were baked: their own keys, places and bodies. */
export const unbake = (ids: readonly string[]): Command => ({
	name: "Delete bake",
	apply: (shot) => {
		for (const id of ids) {
			const item = shot.objects[id];
			const before = (item ?? shot.motions?.[id])?.baked;
			if (!before) continue;
			const bodies = item ? shot.bodies : shot.overrides;
			if (before.body) bodies[id] = before.body;
			else delete bodies[id];
			if (item?.baked) {
				const { keys, translation, rotation } = item.baked;
				Object.assign(item, { keys, translation, rotation });
				delete item.baked;
			} else dropMotion(shot, id);
		}
	},
});
