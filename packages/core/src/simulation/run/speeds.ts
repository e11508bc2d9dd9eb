import { middleThickness, type SimScene, stepSeconds } from "../scene";
import { keyedNow } from "../takeBack";
import type { Run } from "./run";

/** Bodies that cross more than this share of their thickness in a step, or of that of most things, are swept; and those that go so far, m. */
const SWEEP_SHARE = 0.4;
const SWEEP_FROM = 0.05;

/** What goes farther than this in a step is swept, m. */
export const sweepsFrom = (scene: SimScene): number =>
	Math.min(SWEEP_FROM, SWEEP_SHARE * (middleThickness(scene) ?? Number.POSITIVE_INFINITY));

/** Lets the engine look ahead for bodies that would cross much of their own thickness, or of what is thin, in one step. */
export function sweepFast(run: Run): void {
	const { scene, engine, before } = run;
	const dt = stepSeconds(scene);
	const fall = Math.abs(scene.gravity[1]!) * dt * dt;
	for (let i = 0; i < scene.count; i++) {
		if (before.awake[i] !== 1) continue;
		const way = lengthAt(before.velocity, i) * dt;
		engine.setSweep(i, way > SWEEP_SHARE * scene.thickness[i]! || way > run.sweepFrom ? 1.1 * way + fall : 0);
	}
	for (const i of keyedNow(run)) {
		engine.setSweep(i, 1.5 * lengthAt(before.velocity, i) * dt + 0.01);
	}
}

/** Blows make light things faster than what hits them, twice as fast at most; the rest is room. */
const ROOM_FOR_BLOWS = 3;

/** Tells the engine how fast things may get in the coming step. */
export function allowSpeeds({ scene, engine, before, pushes }: Run): void {
	const dt = stepSeconds(scene);
	const length2 = (of: ArrayLike<number>, k: number) => of[3 * k]! ** 2 + of[3 * k + 1]! ** 2 + of[3 * k + 2]! ** 2;
	let fastest2 = 0;
	for (let i = 0; i < scene.count; i++)
		fastest2 = Math.max(fastest2, before.awake[i] === 1 ? length2(before.velocity, i) : 0, length2(scene.velocity, i));
	for (const i of scene.animated) fastest2 = Math.max(fastest2, length2(before.velocity, i));
	let push2 = 0;
	for (let k = 0; k < pushes.count; k++) push2 = Math.max(push2, length2(pushes.forces, k) / scene.mass[pushes.list[k]!]! ** 2);
	engine.allowSpeed(ROOM_FOR_BLOWS * (Math.sqrt(fastest2) + Math.sqrt(push2) * dt));
}

/** Of the i-th vector of 3 numbers. */
export const lengthAt = (of: ArrayLike<number>, i: number): number =>
	Math.sqrt(of[3 * i]! ** 2 + of[3 * i + 1]! ** 2 + of[3 * i + 2]! ** 2);
