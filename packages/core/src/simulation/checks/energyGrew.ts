import { POSE_STRIDE } from "../../cache";
import { formatQuantity, setSettings } from "../../shot";
import { Kind } from "../scene";
import type { Check, Finding } from "./types";

/** Share of what has been lost so far, and joules, by which energy may seem to grow. */
const SHARE = 0.05;
/** The same where things are bonded: what is held still keeps a part of a blow for a moment, and gives it to what comes off. */
const BONDED_SHARE = 0.15;
/** So many frames long what is bonded may keep it: a beam of steel gives a ball back a third of what it took from it, a frame later. */
const KEPT_FRAMES = 4;
/** And so many seconds connectors: a taut row of planks throws back what falls on it, as a rope does. */
const KEPT_SECONDS = 0.5;
const LEAST = 1;

/** Energy that nothing can have put in: no keys, no forces, one gravity. Speed and height of all bodies are added up. */
export const energyGrew: Check = {
	id: "energy-grew",
	find: ({ shot, scene, run }): Finding[] => {
		if (!scene || !run || run.bodies !== scene.shown) return [];
		if (shot.settings.gravityKeys) return [];
		if (scene.animated.length + scene.followers.length + scene.forces.length > 0 || scene.world.some((world) => world > 0)) return [];
		// Springs and motors hold and give energy.
		if (scene.joints.some(({ kind, options }) => kind === "spring" || (options.motor ?? "none") !== "none")) return [];
		const share = scene.bonds.count > 0 ? BONDED_SHARE : SHARE;
		// What is let go brings its start velocity; what falls out of the scene is gone.
		if (scene.velocity.some((v, i) => v !== 0 && scene.wake[Math.floor(i / 3)] !== 0)) return [];
		const [gx, gy, gz] = shot.settings.gravity;
		const energies: number[] = [];
		for (const chunk of run.chunks)
			for (let f = 0; f < chunk.frames; f++) {
				let energy = chunk.energy[f]!;
				for (let i = 0; i < chunk.bodies; i++) {
					if (scene.kind[i] !== Kind.Active) continue;
					const at = (f * chunk.bodies + i) * POSE_STRIDE;
					energy -= scene.mass[i]! * (gx * chunk.poses[at]! + gy * chunk.poses[at + 1]! + gz * chunk.poses[at + 2]!);
				}
				energies.push(energy);
			}
		const first = energies[0]!;
		const kept = scene.joints.length > 0 ? Math.ceil(KEPT_SECONDS * shot.settings.fps) : scene.bonds.count > 0 ? KEPT_FRAMES : 1;
		let least = Infinity;
		let worst = { frame: 0, grew: 0 };
		for (const [f, energy] of energies.entries()) {
			// What it has not come back to within that time is gone.
			if (f >= kept - 1) least = Math.min(least, Math.max(...energies.slice(f - kept + 1, f + 1)));
			const grew = energy - least;
			if (grew > worst.grew && grew > LEAST + share * Math.max(0, first - least) && grew > 0.01 * Math.abs(first))
				worst = { frame: run.chunks[0]!.firstFrame + f, grew };
		}
		if (worst.grew === 0) return [];
		const steps = shot.settings.stepsPerSecond;
		return [
			{
				check: "energy-grew",
				level: "warning",
				about: [],
				message: `${formatQuantity(worst.grew, "energy", 3)} came from nowhere until frame ${worst.frame}: something was pushed out of an overlap.`,
				fixes: steps < 600 ? [{ label: "Twice the substeps", command: setSettings({ stepsPerSecond: steps * 2 }) }] : [],
			},
		];
	},
};
