import type { BodyState } from "../engine";
import type { FrameLog } from "../recorder";
import { Held, Kind, stepSeconds } from "../scene";
import type { Run } from "./run";

/** Slower contacts are no blows but load. m/s */
const HIT_SPEED = 0.25;

/** Notes the blows of the last step, each pair of objects by the hardest. */
export function logContacts({ scene, engine, held, before }: Run, log: FrameLog): void {
	const { contacts } = engine;
	const dt = stepSeconds(scene);
	const weighed = (i: number): number =>
		scene.kind[i] === Kind.Active && held[i] !== Held.Waits ? scene.mass[i]! : Number.POSITIVE_INFINITY;
	for (let k = 0; k < contacts.count; k++) {
		const a = contacts.a[k]!;
		const b = contacts.b[k]!;
		const impulse = contacts.impulse[k]!;
		// Bodies that wake by touch report every contact; count them by the same measure as the others.
		if (impulse < 4 * Math.min(weighed(a), weighed(b)) * 9.81 * dt) continue;
		if (relativeSpeed(before, a, b) < HIT_SPEED) continue;
		const [one, other] = [scene.owner[a]!, scene.owner[b]!];
		const pair = Math.min(one, other) * scene.count + Math.max(one, other);
		if (impulse > (log.contacts.get(pair) ?? 0)) log.contacts.set(pair, impulse);
	}
}

const relativeSpeed = ({ velocity: v }: BodyState, a: number, b: number): number =>
	Math.sqrt((v[3 * a]! - v[3 * b]!) ** 2 + (v[3 * a + 1]! - v[3 * b + 1]!) ** 2 + (v[3 * a + 2]! - v[3 * b + 2]!) ** 2);

/** Notes what has fallen out of the scene in the last step. */
export function noteLost({ scene, after, lost, floor }: Run, log: FrameLog): void {
	for (let i = 0; i < scene.count; i++) {
		if (after.awake[i] !== 1 || lost[i] === 1 || after.position[3 * i + 1]! > floor) continue;
		lost[i] = 1;
		log.lost.push({ body: i, height: after.position[3 * i + 1]! });
	}
}
