import { numberAt, type Pose, worldPose } from "../animation";
import { curveAt, inverse, rotate, type Vec3, vec3 } from "../maths";
import { type ForceSource, frameOfTick, type Id, optionDefaults, type Shot, secondsOfTick, type Ticks } from "../shot";
import type { CommonOptions } from "./specs";
import type { FieldPoint, Force } from "./types";

/** What a force is asked about. World axes. */
export interface PushedBody {
	/** Of its centre of mass, metres. */
	readonly place: Vec3;
	/** m/s */
	readonly velocity: Vec3;
	/** kg */
	readonly mass: number;
	/** Surface, m². */
	readonly area: number;
	/** Frames since it woke. */
	readonly age: number;
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
	const byForce = common.by === "force";
	const out = new Float64Array(3);
	const at: FieldPoint = { x: 0, y: 0, z: 0, vx: 0, vy: 0, vz: 0, seconds: 0, dt: 0, mass: 1, area: 0 };
	let pose: Pose = { translation: vec3.ZERO, rotation: [0, 0, 0, 1] };
	let back = pose.rotation;
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
			back = inverse(pose.rotation);
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
		add(sum, { place, velocity, mass, area, age }) {
			if (ages === "between" && (age < youngest || age >= oldest)) return;
			[at.x, at.y, at.z] = rotate(back, vec3.subtract(place, pose.translation));
			[at.vx, at.vy, at.vz] = rotate(back, velocity);
			at.mass = mass;
			at.area = area;
			const share =
				reach === "falloff" ? curveAt(falloff, distance ? distance(at) : Math.sqrt(at.x * at.x + at.y * at.y + at.z * at.z)) : 1;
			if (share === 0) return;
			out.fill(0);
			field(out, at, strength * share, common.strength === 0 ? share : (share * strength) / common.strength);
			const scale = byForce ? 1 / mass : 1;
			const [x, y, z] = axes === "own" ? [out[0]! * shareX, out[1]! * shareY, out[2]! * shareZ] : [out[0]!, out[1]!, out[2]!];
			const turned = rotate(pose.rotation, [x, y, z]);
			for (let k = 0; k < 3; k++) sum[k]! += turned[k]! * scale;
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
