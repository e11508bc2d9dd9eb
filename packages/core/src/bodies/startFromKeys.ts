import { localPose, type Speed, speedAt } from "../animation";
import type { Vec3 } from "../maths";
import { type Command, dropKeys, type Id, placeObject, type Shot, setBody, type Ticks, together } from "../shot";
import type { BodyRow } from "./build";
import { bodyPose } from "./pose";

const DIGITS = 6;

/**
 * Makes start velocities and spins of an object's keys, as they are at a tick, and takes the keys away: it stands where they had
 * it at the first frame. What turns gives each of its pieces a velocity of its own. `bodies`: all of the object.
 */
export function startFromKeys(shot: Shot, object: Id, bodies: readonly BodyRow[], tick: Ticks): Command {
	const alike = new Map<string, { ids: string[]; speed: Speed }>();
	for (const body of bodies) {
		const speed = speedAt(shot.settings, (at) => bodyPose(shot, body, at), body.centre, tick);
		const settings = { velocity: rounded(speed.velocity), spin: rounded(speed.spin) };
		const key = JSON.stringify(settings);
		alike.set(key, { ids: [...(alike.get(key)?.ids ?? []), body.id], speed: settings });
	}
	return together("Start from keys", [
		...[...alike.values()].map(({ ids, speed }) => setBody(alike.size === 1 ? [object] : ids, speed)),
		placeObject(object, localPose(shot.objects[object]!, 0)),
		dropKeys(object),
	]);
}

const rounded = (v: Vec3): Vec3 => v.map((x) => Number(x.toFixed(DIGITS)) + 0) as unknown as Vec3;
