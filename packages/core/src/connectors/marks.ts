import { cos, fromAxisAngle, radians, rotate, sin, type Vec3, vec3 } from "../maths";
import type { Joint } from "./types";

type Line = readonly [Vec3, Vec3];

/** Lines that show how a joint stands and how far it lets its first body go, in the world at the first frame, metres. */
export interface JointMarks {
	/** They stay with what holds it, its second body: its axis, and its stops. */
	readonly held: readonly Line[];
	/** They go with its first body: where that is between the stops. */
	readonly moving: readonly Line[];
}

const NONE: JointMarks = { held: [], moving: [] };
/** An arc is drawn in lines of at most so many degrees. */
const ARC = 6;
/** Half of a stop across a slider, as a share of the size. */
const STOP = 0.2;
/** Generators of a cone. */
const RIBS = 4;

/** `middle`: of its first body; `size`: how large they are, metres. */
export function jointMarks(joint: Joint, middle: Vec3, size: number): JointMarks {
	switch (joint.kind) {
		case "hinge":
			return hinge(joint, middle, size);
		case "slider":
			return slider(joint, size);
		case "pin":
			return joint.options.limits === "cone" ? cone(joint, middle, size) : NONE;
		case "spring":
			return joint.options.acts === "axes" ? { held: axes(joint).map((axis) => along(joint.to, axis, 0, size / 2)), moving: [] } : NONE;
		default:
			return NONE;
	}
}

const along = (from: Vec3, axis: Vec3, least: number, most: number): Line => [
	vec3.add(from, vec3.scale(axis, least)),
	vec3.add(from, vec3.scale(axis, most)),
];

const axes = ({ turn }: Joint): [Vec3, Vec3, Vec3] => [rotate(turn, [1, 0, 0]), rotate(turn, [0, 1, 0]), rotate(turn, [0, 0, 1])];

/** Where a turn about an axis takes what points outwards, by degrees. */
const turned = (axis: Vec3, out: Vec3, angle: number): Vec3 => rotate(fromAxisAngle(axis, radians(angle)), out);

/** Its axis; an arc from stop to stop, in which a hand points to the middle of what turns. */
function hinge(joint: Joint, middle: Vec3, size: number): JointMarks {
	const { from, options } = joint;
	const [axis, other] = axes(joint);
	const arm = vec3.subtract(middle, from);
	const across = vec3.subtract(arm, vec3.scale(axis, vec3.dot(arm, axis)));
	const out = vec3.length(across) > 1e-6 * size ? vec3.normalize(across) : other;
	const held = [along(from, axis, -size / 2, size / 2)];
	if (options.limits !== "between") return { held, moving: [] };
	const [least, most] = [options.least!, options.most!];
	const point = (angle: number): Vec3 => vec3.add(from, vec3.scale(turned(axis, out, angle), size));
	const count = Math.max(1, Math.ceil((most - least) / ARC));
	for (let k = 0; k < count; k++)
		held.push([point(least + ((most - least) * k) / count), point(least + ((most - least) * (k + 1)) / count)]);
	held.push([from, point(least)], [from, point(most)]);
	return { held, moving: [along(from, out, 0, size)] };
}

/** The way from stop to stop, and the stops across it; or the axis alone. */
function slider(joint: Joint, size: number): JointMarks {
	const { from, options } = joint;
	const [axis, second, third] = axes(joint);
	if (options.limits !== "between") return { held: [along(from, axis, -size, size)], moving: [] };
	const stops = [options.least!, options.most!].map((way) => vec3.add(from, vec3.scale(axis, way))) as [Vec3, Vec3];
	const across = stops.flatMap((stop) => [second, third].map((one) => along(stop, one, -STOP * size, STOP * size)));
	return { held: [stops, ...across], moving: [] };
}

/** The cone with its ribs, and the axis of what swings in it. */
function cone(joint: Joint, middle: Vec3, size: number): JointMarks {
	const { from, options } = joint;
	const [own, second] = axes(joint);
	// Both ways of its axis mean the same; the one towards what hangs from it is seen.
	const axis = vec3.dot(vec3.subtract(middle, from), own) < 0 ? vec3.scale(own, -1) : own;
	const a = radians(options.cone!);
	const rim = (angle: number): Vec3 =>
		vec3.add(from, vec3.scale(vec3.add(vec3.scale(axis, cos(a)), vec3.scale(turned(axis, second, angle), sin(a))), size));
	const count = 360 / ARC;
	const held = Array.from({ length: count }, (_, k): Line => [rim(k * ARC), rim((k + 1) * ARC)]);
	for (let k = 0; k < RIBS; k++) held.push([from, rim((360 * k) / RIBS)]);
	return { held, moving: [along(from, axis, 0, size)] };
}
