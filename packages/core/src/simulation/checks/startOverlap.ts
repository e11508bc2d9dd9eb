import { formatQuantity, objectOf, placeObject } from "../../shot";
import { brokenSolid } from "../brokenSolid";
import { ignoreEachOther } from "../overlaps";
import { Kind, type SimScene } from "../scene";
import type { Check, Finding } from "./types";

/** Bodies that stand in each other before anything has moved. One finding for each pair of objects. */
export const startOverlap: Check = {
	id: "start-overlap",
	find: ({ shot, scene, overlaps }): Finding[] => {
		if (!scene || !overlaps) return [];
		const homeOf = (i: number) => objectOf(shot, scene.ids[i]!)!;
		const groups = new Map<string, { a: number; b: number; depth: number; pairs: number }>();
		for (const { a, b, depth } of overlaps) {
			// Pieces of one solid never stand in each other, only their colliders do a little where they are not convex: that is no
			// mistake of the set-up, and they part by themselves. In a heap that a run has left, contacts are always a little deep.
			const solid = brokenSolid(shot, scene.ids[a]!);
			if (solid !== undefined && solid === brokenSolid(shot, scene.ids[b]!)) continue;
			if (scene.kept[a] === 1 && scene.kept[b] === 1 && !ignoreEachOther(scene, { a, b, depth })) continue;
			const key = [homeOf(a), homeOf(b)].sort().join("|");
			const known = groups.get(key);
			if (!known) groups.set(key, { a, b, depth, pairs: 1 });
			else {
				known.pairs++;
				if (depth > known.depth) Object.assign(known, { a, b, depth });
			}
		}
		return [...groups.values()].map(({ a, b, depth, pairs }) => {
			const [one, other] = [homeOf(a), homeOf(b)];
			const apart = one !== other ? liftFix(shot, scene, a, b, one, other, depth) : [];
			const more = pairs > 1 ? ` (and ${pairs - 1} more pairs)` : "";
			return {
				check: "start-overlap",
				level: "warning" as const,
				about: [scene.ids[a]!, scene.ids[b]!],
				message: `${scene.paths[a]} stands ${formatQuantity(depth, "length", 2)} in ${scene.paths[b]}${more}. ${ignoreEachOther(scene, { a, b, depth }) ? "They will ignore each other until they have parted." : "They will be pushed apart."}`,
				fixes: apart,
			};
		});
	},
};

function liftFix(
	shot: Parameters<Check["find"]>[0]["shot"],
	scene: SimScene,
	a: number,
	b: number,
	one: string,
	other: string,
	depth: number,
) {
	// Lift the one that may move; of two, the upper one.
	const upper = scene.position[3 * a + 1]! >= scene.position[3 * b + 1]! ? [a, one] : [b, other];
	const [, id] = scene.kind[upper[0] as number] === Kind.Passive ? (upper[0] === a ? [b, other] : [a, one]) : upper;
	const item = shot.objects[id as string];
	if (!item || item.keys.translation.length > 0) return [];
	const [x, y, z] = item.translation;
	return [
		{
			label: `Lift ${item.name} ${formatQuantity(depth * 1.02, "length", 2)}`,
			command: placeObject(id as string, { translation: [x, y + depth * 1.02, z] }),
		},
	];
}
