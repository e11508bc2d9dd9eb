import { moves, type Pose, worldPose } from "../animation";
import { type BakeError, type BakeOptions, bake } from "../bake";
import { poseInside } from "../bodies";
import type { FrameStore } from "../cache";
import { plainCopy } from "../common";
import { quatAt, tripleAt } from "../maths";
import { type Command, type Id, isBodiless, type Key, type Shot, tickOfFrame } from "../shot";

export interface BakedKeys {
	readonly command: Command;
	readonly objects: readonly Id[];
	/** Objects that are meant but cannot have keys of their own: broken ones and copies. */
	readonly left: readonly Id[];
	readonly error: BakeError;
}

/**
 * Keys from a take on whole objects: from then on they follow their keys, which can be edited, and push what still
 * simulates. What they were is remembered, for `unbake`. Objects that are baked already are baked anew.
 */
export function bakeKeys(
	shot: Shot,
	takeBodies: readonly { readonly id: string }[],
	store: FrameStore,
	objects: readonly Id[],
	range: { readonly firstFrame: number; readonly lastFrame: number },
	options: BakeOptions,
	take: string,
): BakedKeys {
	const index = new Map(takeBodies.map(({ id }, i) => [id, i]));
	const meant = objects.filter((id) => shot.objects[id] && !isBodiless(shot.objects[id]!));
	const whole = meant.filter((id) => index.has(id));
	const { tracks, error } = bake(
		store,
		range.firstFrame,
		range.lastFrame,
		whole.map((id) => index.get(id)!),
		options,
	);
	const made = whole.map((id, n) => {
		const { frames, translations, rotations } = tracks[n]!;
		const { parent } = shot.objects[id]!;
		const keys = Array.from(frames, (frame, k) => {
			const tick = tickOfFrame(shot.settings, frame);
			const pose: Pose = { translation: tripleAt(translations, k), rotation: quatAt(rotations, k) };
			return { tick, pose: parent === null ? pose : poseInside(worldPose(shot, parent, tick), pose) };
		});
		return {
			id,
			translation: keys.map(({ tick, pose }): Key<Pose["translation"]> => ({ tick, value: pose.translation, easing: "linear" })),
			rotation: keys.map(({ tick, pose }): Key<Pose["rotation"]> => ({ tick, value: pose.rotation, easing: "linear" })),
		};
	});
	return {
		objects: whole,
		left: meant.filter((id) => !index.has(id) && !moves(shot, id)),
		error,
		command: {
			name: whole.length === 1 ? `Bake ${shot.objects[whole[0]!]!.name}` : `Bake ${whole.length} objects`,
			apply: (draft) => {
				for (const { id, translation, rotation } of made) {
					const item = draft.objects[id]!;
					const body = draft.bodies[id];
					item.baked ??= {
						take,
						body: body ? plainCopy(body) : null,
						keys: plainCopy(item.keys),
						translation: [...item.translation],
						rotation: [...item.rotation],
					};
					item.baked.take = take;
					item.keys.translation = translation.map(plainCopy) as never;
					item.keys.rotation = rotation.map(plainCopy) as never;
					// What was corrected before is in the take already.
					delete item.keys.layers;
					const { wake: _, backAt: __, ...rest } = body ?? {};
					draft.bodies[id] = { ...rest, kind: "animated" } as never;
				}
			},
		},
	};
}

/** What it was before it was baked: its own keys, its place, its body. */
export const unbake = (objects: readonly Id[]): Command => ({
	name: "Delete bake",
	apply: (shot) => {
		for (const id of objects) {
			const item = shot.objects[id];
			if (!item?.baked) continue;
			const { body, keys, translation, rotation } = item.baked;
			Object.assign(item, { keys, translation, rotation });
			if (body) shot.bodies[id] = body;
			else delete shot.bodies[id];
			delete item.baked;
		}
	},
});
