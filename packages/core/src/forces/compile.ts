import { numberAt, type Pose, worldPose } from "../animation";
import { inverse, makeCurve, rotate, vec3 } from "../maths";
import { type ForceSource, frameOfTick, type Id, optionDefaults, type Shot, secondsOfTick, type Ticks } from "../shot";
import type { CommonOptions } from "./specs";
import type { FieldPoint, Force } from "./types";

/** What a force is asked about, in world axes. One record is used for all bodies: 32,000 of them are asked in each substep. */
export interface PushedBody {
	/** Of its centre of mass, metres. */
	x: number;
	y: number;
	z: number;
	/** m/s */
	vx: number;
	vy: number;
	vz: number;
	/** kg */
	mass: number;
	/** Surface, m². */
	area: number;
	/** Frames since it woke. */
	age: number;
}

/** A force of a shot, ready to act. */
export interface LiveForce {
	readonly id: Id;
	/** The rule that says on whom it acts; empty: on all. */
	readonly on: string;
	/** Sets it to a tick; false where it does not act then. `dt`: length of the step, simulated seconds. */
	readonly begin: (tick: Ticks, dt: number) => boolean;
	/** Adds the acceleration of a body to `sum` (x, y, z), m/s², world axes. */
	readonly add: (sum: Float64Array, body: PushedBody) => void;
}

/** Makes a force of the shot ready; `force` is what its source names. */
export function compileForce(shot: Shot, id: Id, force: Force): LiveForce {
	const item = shot.objects[id]!;
	const options = { ...optionDefaults(force), ...(item.source as ForceSource).options };
	const common = options as unknown as CommonOptions;
	const { reach, falloff, axes, shareX, shareY, shareZ, frames, from, until, ages, youngest, oldest } = common;
	const falls = makeCurve(falloff);
	const byForce = common.by === "force";
	const out = new Float64Array(3);
	const at: FieldPoint = { x: 0, y: 0, z: 0, vx: 0, vy: 0, vz: 0, seconds: 0, dt: 0, mass: 1, area: 0 };
	let pose: Pose = { translation: vec3.ZERO, rotation: [0, 0, 0, 1] };
	/** Rows: the force's own axes in the world. */
	const axis = new Float64Array([1, 0, 0, 0, 1, 0, 0, 0, 1]);
	const [sx, sy, sz] = axes === "own" ? [shareX, shareY, shareZ] : [1, 1, 1];
	let strength = 0;
	let places = placesAt(shot, id, force, options, 0, pose);
	let field = force.field(options, places);
	let distance = force.distanceOf?.(places);
	return {
		id,
		on: typeof options.on === "string" ? options.on : "",
		begin(tick, dt) {
			// Ticks of steps are rounded: a frame begins a hair early.
			const frame = frameOfTick(shot.settings, tick) + 1e-6;
			if (item.hidden || (frames === "between" && (frame < from || frame >= until + 1))) return false;
			strength = numberAt(item, "strength", tick) ?? common.strength;
			if (strength === 0 && !force.alwaysActs) return false;
			pose = worldPose(shot, id, tick);
			for (let k = 0; k < 3; k++) axis.set(rotate(pose.rotation, [k === 0 ? 1 : 0, k === 1 ? 1 : 0, k === 2 ? 1 : 0]), 3 * k);
			at.seconds = secondsOfTick(tick) * shot.settings.timeScale;
			at.dt = dt;
			// Beacons that it goes through may move too.
			const next = placesAt(shot, id, force, options, tick, pose);
			if (next.some((value, i) => value !== places[i])) {
				places = next;
				field = force.field(options, places);
				distance = force.distanceOf?.(places);
			}
			return true;
		},
		add(sum, body) {
			if (ages === "between" && (body.age < youngest || body.age >= oldest)) return;
			const { translation } = pose;
			const [x, y, z] = [body.x - translation[0], body.y - translation[1], body.z - translation[2]];
			const a = axis;
			at.x = a[0]! * x + a[1]! * y + a[2]! * z;
			at.y = a[3]! * x + a[4]! * y + a[5]! * z;
			at.z = a[6]! * x + a[7]! * y + a[8]! * z;
			at.vx = a[0]! * body.vx + a[1]! * body.vy + a[2]! * body.vz;
			at.vy = a[3]! * body.vx + a[4]! * body.vy + a[5]! * body.vz;
			at.vz = a[6]! * body.vx + a[7]! * body.vy + a[8]! * body.vz;
			at.mass = body.mass;
			at.area = body.area;
			const share = reach === "falloff" ? falls(distance ? distance(at) : Math.sqrt(at.x * at.x + at.y * at.y + at.z * at.z)) : 1;
			if (share === 0) return;
			out.fill(0);
			field(out, at, strength * share, common.strength === 0 ? share : (share * strength) / common.strength);
			const scale = byForce ? 1 / body.mass : 1;
			const [ox, oy, oz] = [out[0]! * sx * scale, out[1]! * sy * scale, out[2]! * sz * scale];
			for (let k = 0; k < 3; k++) sum[k]! += a[k]! * ox + a[3 + k]! * oy + a[6 + k]! * oz;
		},
	};
}

/** Places of the objects that options name, in the force's own axes. */
function placesAt(
	shot: Shot,
	id: Id,
	force: Force,
	options: Readonly<Record<string, unknown>>,
	tick: Ticks,
	{ translation, rotation }: Pose,
): number[] {
	const back = inverse(rotation);
	return Object.entries(force.options).flatMap(([name, spec]) =>
		spec.kind === "places"
			? ((options[name] ?? []) as readonly Id[])
					.filter((other) => other !== id && shot.objects[other])
					.flatMap((other) => [...rotate(back, vec3.subtract(worldPose(shot, other, tick).translation, translation))])
			: [],
	);
}
