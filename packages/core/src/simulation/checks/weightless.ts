import { setSettings } from "../../shot";
import { Kind } from "../scene";
import { pulls, worldsOf } from "./nothingBelow";
import type { Check, Finding } from "./types";

/** No gravity, no force, no keys and no start velocity: a run in which nothing has a reason to move. */
export const weightless: Check = {
	id: "weightless",
	find: ({ scene }): Finding[] => {
		if (!scene || scene.forces.length > 0 || scene.animated.length > 0 || scene.followers.length > 0) return [];
		const active = [...scene.kind.keys()].filter((i) => scene.kind[i] === Kind.Active);
		if (active.length === 0 || worldsOf(scene).some((world) => pulls(scene, world))) return [];
		if (scene.velocity.some((v) => v !== 0) || scene.spin.some((w) => w !== 0)) return [];
		return [
			{
				check: "weightless",
				level: "warning",
				about: active.slice(0, 1).map((i) => scene.ids[i]!),
				message: "There is no gravity, no force and no start velocity: nothing has a reason to move.",
				fixes: [{ label: "Gravity as on Earth", command: setSettings({ gravity: [0, -9.81, 0] }) }],
			},
		];
	},
};
