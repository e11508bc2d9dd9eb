import { addObject, freeName, type Shot, setBody, together } from "../../shot";
import { Kind, type SimScene } from "../scene";
import type { Check, Finding } from "./types";

/** Bodies under gravity in a world in which nothing holds still, and that hang from nothing: they fall for ever. */
export const nothingBelow: Check = {
	id: "nothing-below",
	find: ({ shot, scene }): Finding[] => {
		if (!scene) return [];
		return worldsOf(scene).flatMap((world): Finding[] => {
			const members = [...scene.kind.keys()].filter((i) => scene.world[i] === world);
			const active = members.filter((i) => scene.kind[i] === Kind.Active);
			if (active.length === 0 || active.length < members.length || !pulls(scene, world)) return [];
			if (scene.joints.some(({ a, b }) => b < 0 && scene.world[a] === world)) return [];
			return [
				{
					check: "nothing-below",
					level: "warning",
					about: active.slice(0, 1).map((i) => scene.ids[i]!),
					message: `${world === 0 ? "Nothing" : `In ${worldName(shot, world)} nothing`} holds still or is keyed, so what is active falls for ever.`,
					fixes: [addGround(shot, world)],
				},
			];
		});
	},
};

/** Endless ground for what is in a world, as a fix. `height`: metres. */
export function addGround(shot: Shot, world: number, height = 0): Finding["fixes"][number] {
	const id = shot.objects.ground ? `ground-${Object.keys(shot.objects).length}` : "ground";
	const ground = { id, name: freeName(shot, "Ground"), translation: [0, height, 0] as const };
	return {
		label: "Add ground",
		command: together("Add ground", [
			addObject({ ...ground, source: { kind: "shape", shape: "ground", parameters: {} }, material: "sand" }),
			setBody([id], { kind: "passive", ...(world > 0 && { world: worldIds(shot)[world - 1]! }) }),
		]),
	};
}

export const worldIds = (shot: { readonly worlds: Readonly<Record<string, unknown>> }): string[] => Object.keys(shot.worlds).sort();
export const worldName = (shot: Parameters<Check["find"]>[0]["shot"], world: number): string =>
	world === 0 ? "the main world" : `“${shot.worlds[worldIds(shot)[world - 1]!]?.name}”`;

/** The worlds in which there are bodies. */
export const worldsOf = (scene: SimScene): number[] => [...new Set(scene.world)].sort((a, b) => a - b);

/** Whether a world has gravity. */
export const pulls = (scene: SimScene, world: number): boolean => [0, 1, 2].some((k) => scene.gravity[3 * world + k] !== 0);
