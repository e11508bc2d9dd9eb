import type { BodyState, Engine } from "./engine";
import { Kind, type SimScene, stepSeconds } from "./scene";

/** A ball's radius is one and a half times what `thickness` says (2 V / A = ⅔ r). */
const RADIUS_OF_THICKNESS = 1.5;

/**
 * Rolling resistance: on what it touches a body turns against a moment c m g r, its own weight on its own radius, so
 * that a ball on level ground slows down by 5/7 c g, and begins to roll on a slope of c. Call after a step, with its state.
 */
export function resistRolling(scene: SimScene, engine: Engine, state: BodyState): void {
	const dt = stepSeconds(scene);
	const slowed: number[] = [];
	for (let i = 0; i < scene.count; i++) {
		if (scene.kind[i] !== Kind.Active || scene.rolling[i]! <= 0 || state.awake[i] !== 1) continue;
		const spin = state.spin.subarray(3 * i, 3 * i + 3);
		const speed = Math.sqrt(spin[0]! ** 2 + spin[1]! ** 2 + spin[2]! ** 2);
		if (speed === 0 || !engine.touches(i)) continue;
		const g = scene.gravity.subarray(3 * scene.world[i]!, 3 * scene.world[i]! + 3);
		const weight = scene.mass[i]! * Math.sqrt(g[0]! ** 2 + g[1]! ** 2 + g[2]! ** 2);
		const moment = scene.rolling[i]! * weight * RADIUS_OF_THICKNESS * scene.thickness[i]!;
		const inertia = (scene.inertia[3 * i]! + scene.inertia[3 * i + 1]! + scene.inertia[3 * i + 2]!) / 3;
		const left = Math.max(0, 1 - (moment * dt) / (inertia * speed));
		for (let k = 0; k < 3; k++) spin[k]! *= left;
		slowed.push(i);
	}
	if (slowed.length > 0) engine.setVelocities(slowed, state);
}
