import type { BodyState, Engine } from "./engine";
import { Held, Kind, type SimScene, stepSeconds, Wake } from "./scene";
import { keyedNow } from "./takeBack";

export interface Touched {
	readonly body: number;
	readonly by: number;
	/** Approach speed, or the speed that the impulse gives, m/s. */
	readonly speed: number;
}

/**
 * Held bodies that the last step's touches wake. A touch counts where the other body came on at the least speed, or
 * where its impulse would set the held body moving at that speed: that is how a blow goes on through neighbours that
 * had no speed before it. The weight of something that merely leans on it for one step is taken off the impulse.
 * Where a least force is set, one that presses so hard wakes it too, at any speed. Keyed strikers exert no force on what is held, so for them the approach speed decides, once they meet within the step.
 */
export function findTouched(scene: SimScene, engine: Engine, held: Uint8Array, before: BodyState): Touched[] {
	const dt = stepSeconds(scene);
	const gravity = Math.sqrt(scene.settings.gravity.reduce((sum, g) => sum + g * g, 0));
	const found = new Map<number, Touched>();
	const note = (body: number, by: number, speed: number, force = 0) => {
		if ((speed < scene.wakeSpeed[body]! || speed <= 0) && force < scene.wakeForce[body]!) return;
		const known = found.get(body);
		if (!known || speed > known.speed) found.set(body, { body, by, speed });
	};
	const counts = (body: number, by: number) => scene.wakeBy[body]?.[by] !== 0;
	const waits = (i: number) => held[i] === Held.Waits && scene.wake[i] === Wake.Touched;
	const { contacts } = engine;
	for (let k = 0; k < contacts.count; k++)
		for (const [body, by] of [
			[contacts.a[k]!, contacts.b[k]!],
			[contacts.b[k]!, contacts.a[k]!],
		] as const) {
			if (!waits(body) || scene.kind[by] !== Kind.Active || !counts(body, by)) continue;
			const approach = engine.touch(by, body, before)?.approach ?? 0;
			const leaning = 2 * scene.mass[by]! * gravity * dt;
			note(body, by, Math.max(approach, (contacts.impulse[k]! - leaning) / scene.mass[body]!), contacts.impulse[k]! / dt);
		}
	for (const by of keyedNow({ scene, held }))
		engine.nearKeyed(by, (body, { approach, distance }) => {
			if (body !== by && waits(body) && counts(body, by) && distance <= approach * dt) note(body, by, approach);
		});
	return [...found.values()].sort((a, b) => a.body - b.body);
}
