import type { Ticks } from "../../shot";
import type { Engine } from "../engine";
import { centreOfMass } from "../pushes";
import type { FrameLog } from "../recorder";
import { Held, handOver, Wake } from "../scene";
import type { Touched } from "../touched";
import type { Run } from "./run";

/** What is bonded to what wakes, wakes too. */
export function withGroups<T extends { readonly body: number }>(engine: Engine, held: Uint8Array, woken: readonly T[]): T[] {
	const all = new Map(woken.map((one) => [one.body, one]));
	for (const one of woken)
		for (const body of engine.membersOf(engine.carrier[one.body]!))
			if (!all.has(body) && held[body] === Held.Waits) all.set(body, { ...one, body });
	return [...all.values()].sort((a, b) => a.body - b.body);
}

/** From now on it moves by itself, with what its keys had where it has keys. */
function setFree({ scene, held, born, start, step }: Run, body: number, tick: Ticks): void {
	held[body] = 0;
	born[body] = step;
	if (scene.followers.includes(body)) handOver(scene, body, tick, start);
}

/** Lets go what wakes by frame or by a region. */
export function releaseDue(run: Run, tick: Ticks, log: FrameLog): void {
	const { scene, engine, held, after } = run;
	const due: { body: number; speed: number }[] = [];
	for (let i = 0; i < scene.count; i++) {
		if (held[i] !== Held.Waits || scene.wakeTick[i]! > tick) continue;
		if (scene.wake[i] === Wake.Frame) due.push({ body: i, speed: 0 });
		else if (scene.wake[i] === Wake.Region) {
			const region = scene.regions[scene.wakeRegion[i]!]!;
			const place = centreOfMass(scene, after, i);
			if (!region.contains(tick, place)) continue;
			const speed = region.speedAt(tick, place);
			if (speed >= scene.wakeSpeed[i]!) due.push({ body: i, speed });
		}
	}
	if (due.length === 0) return;
	const all = withGroups(engine, held, due);
	for (const { body, speed } of all) {
		setFree(run, body, tick);
		log.woken.push({ body, by: -1, speed });
	}
	engine.release(
		all.map(({ body }) => body),
		run.start,
	);
	engine.readState(after);
}

/** Lets go what has been touched in the step at hand, which is to be done again. */
export function freeTouched(run: Run, touched: readonly Touched[], tick: Ticks, log: FrameLog): void {
	for (const { body, by, speed } of touched) {
		setFree(run, body, tick);
		log.woken.push({ body, by, speed });
		// From here on it is remembered like everything that moves: it starts with its own velocity, if any.
		run.before.awake[body] = 1;
		for (let k = 0; k < 3; k++) {
			run.before.velocity[3 * body + k] = run.start.velocity[3 * body + k]!;
			run.before.spin[3 * body + k] = run.start.spin[3 * body + k]!;
		}
	}
	run.engine.release(
		touched.map(({ body }) => body),
		run.start,
	);
}
