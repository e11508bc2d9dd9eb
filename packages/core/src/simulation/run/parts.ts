import { type SimScene, stepSeconds } from "../scene";
import { keyedNow } from "../takeBack";
import type { Run } from "./run";
import { lengthAt } from "./speeds";

/**
 * Blows are followed in at most so many parts of a step; but not where there are connectors: they jerk when steps become shorter all at
 * once, and gave 4.6 kJ to the chain of a buoy of 2,400 kg.
 */
export const MOST_BLOW_PARTS = 4;
/** And where something light is squeezed. */
export const MOST_SQUEEZED_PARTS = 8;
/**
 * A blow that was divided and is not over goes on in so many parts of a step, and in more where it asks for them. In whole steps it ended
 * too soon: 300 kg at 8 m/s broke 65 bonds of a wall of bricks, not 116, and stuck in it.
 */
const GOES_ON_IN = 2;

/** Has the coming steps be so short that so many of them make up one of `whole`. */
export function setParts(run: Run, whole: SimScene, parts: number): void {
	if ((run.scene.parts ?? 1) === parts) return;
	run.scene = parts === 1 ? whole : { ...whole, parts };
	run.engine.setStep(stepSeconds(run.scene));
}

/** In how many parts the coming step is done, so that nothing crosses more than its own thickness in one: a power of two. */
export function partsOf(run: Run): number {
	const { scene, after } = run;
	const most = scene.settings.mostParts ?? 1;
	const forBlow = run.bonded.state.pressed.size > 0 ? Math.min(run.lastParts, GOES_ON_IN) : 1;
	if (most <= 1) return forBlow;
	const dt = stepSeconds(scene);
	// Connectors jerk when steps become shorter: where there are any, all are as short as they may be.
	let thicknesses = scene.joints.length > 0 ? Number.POSITIVE_INFINITY : 0;
	const note = (i: number) => {
		// Of its fastest point: the ends of what spins go farther than its middle.
		const speed = lengthAt(after.velocity, i) + 0.5 * scene.size[i]! * lengthAt(after.spin, i);
		if (scene.thickness[i]! > 0) thicknesses = Math.max(thicknesses, (speed * dt) / scene.thickness[i]!);
	};
	for (let i = 0; i < scene.count; i++) if (after.awake[i] === 1) note(i);
	for (const i of keyedNow(run)) note(i);
	let parts = forBlow;
	while (parts < thicknesses && 2 * parts <= most) parts *= 2;
	return parts;
}
