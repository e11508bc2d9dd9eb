import { worldPose } from "@rubble/core/animation";
import { crackOf, poseInObject, poseOutside } from "@rubble/core/bodies";
import { crumbledAt, lastStored, POSE_STRIDE, posesAt } from "@rubble/core/cache";
import { rotate, type Vec3, vec3 } from "@rubble/core/maths";
import { type Id, type Shot, tickOfFrame } from "@rubble/core/shot";
import type { WorkbenchState } from "../store/store";
import type { Bodies } from "./bodies";

/** What must be known to put things in their places. */
export type PosedState = Pick<
	WorkbenchState,
	"shot" | "bodies" | "crumbs" | "drawings" | "take" | "frames" | "frame" | "explode" | "settling" | "alone"
>;

interface TakeIndex {
	readonly take: unknown;
	/** By id. */
	readonly numbers: ReadonlyMap<string, number>;
	/** 1 per body of the shot; −1 where the take does not have it. */
	readonly index: Int32Array;
}

/** The number of each body in the take, made once for a pair of lists. */
const indices = new WeakMap<object, TakeIndex>();
function takeIndex({ bodies, take }: PosedState): TakeIndex {
	const cached = indices.get(bodies);
	if (cached && cached.take === take?.take.bodies) return cached;
	const numbers = new Map(take?.take.bodies.map(({ id }, i) => [id, i]));
	const made = { take: take?.take.bodies, numbers, index: Int32Array.from(bodies, ({ id }) => numbers.get(id) ?? -1) };
	indices.set(bodies, made);
	return made;
}

/**
 * Puts every body where it stands at the frame: stored poses where there are some, else where the set-up has it. At
 * the first frame the set-up itself is shown, so that edits are seen at once; keyed things always stand at their keys.
 */
export function applyPoses(bodies: Bodies, state: PosedState): void {
	const { shot, frame, frames, explode } = state;
	const { settings } = shot;
	const tick = tickOfFrame(settings, frame);
	const last = lastStored(frames, settings.firstFrame);
	const poses = frame > settings.firstFrame ? posesAt(frames, Math.min(frame, last)) : undefined;
	const { index, numbers } = takeIndex(state);
	const crumbled = crumbledAt(frames);
	const isGone = (k: number) => poses !== undefined && (crumbled.get(k) ?? Number.POSITIVE_INFINITY) <= frame;
	const settling = state.settling && new Map(state.settling.ids.map((id, i) => [id, i]));
	const alone = state.alone && new Set(state.alone);
	for (const { object } of Object.values(shot.fractures)) {
		const crack = crackOf(shot, object);
		if (crack) bodies.setCrack(object, crack.at(frame));
	}
	const objects = new Map<Id, ReturnType<typeof worldPose>>();
	const placed = (object: Id) => {
		const known = objects.get(object);
		if (known) return known;
		const pose = worldPose(shot, object, tick);
		objects.set(object, pose);
		return pose;
	};
	for (let i = 0; i < state.bodies.length; i++) {
		const body = state.bodies[i]!;
		if (body.endless || !shot.objects[body.object]) continue;
		if (alone && !alone.has(body.id) && !alone.has(body.object)) {
			bodies.hide(body.id);
			continue;
		}
		if (isGone(index[i]!)) {
			bodies.hide(body.id);
			continue;
		}
		const push = explode > 0 && body.piece >= 0 ? pushOf(shot, body.object, body.offset, explode) : undefined;
		const lies = settling?.get(body.id);
		if (lies !== undefined) {
			bodies.setPose(body.id, state.settling!.poses, lies * POSE_STRIDE, state.settling!.poses, lies * POSE_STRIDE + 3, push);
			continue;
		}
		const k = index[i]!;
		if (poses && k >= 0 && body.settings.kind !== "animated" && (k + 1) * POSE_STRIDE <= poses.length) {
			bodies.setPose(body.id, poses, k * POSE_STRIDE, poses, k * POSE_STRIDE + 3, push);
			continue;
		}
		const pose = poseOutside(placed(body.object), poseInObject(shot, body, tick));
		bodies.setPose(body.id, pose.translation, 0, pose.rotation, 0, push);
	}
	for (const { id, crumbOf } of state.crumbs) {
		const k = numbers.get(id) ?? -1;
		if (poses && k >= 0 && isGone(numbers.get(crumbOf) ?? -1) && !(alone && !alone.has(crumbOf)))
			bodies.setPose(id, poses, k * POSE_STRIDE, poses, k * POSE_STRIDE + 3, undefined);
		else bodies.hide(id);
	}
}

/** How far the explode slider moves a piece: out from its object's middle, in the object's axes at the start. */
const pushOf = (shot: Shot, object: Id, offset: readonly [number, number, number], explode: number): Vec3 =>
	vec3.scale(rotate(shot.objects[object]!.rotation, offset), explode);

/** Speeds of the take's bodies at a frame, m/s; empty where two frames are not stored. */
export function speedsAt({ shot, frames, frame }: Pick<PosedState, "shot" | "frames" | "frame">): Float32Array {
	const first = shot.settings.firstFrame;
	const now = posesAt(frames, Math.max(frame, first + 1));
	const before = posesAt(frames, Math.max(frame, first + 1) - 1);
	if (!now || !before) return new Float32Array(0);
	const speeds = new Float32Array(now.length / POSE_STRIDE);
	for (let i = 0; i < speeds.length; i++) {
		const at = i * POSE_STRIDE;
		speeds[i] = Math.hypot(now[at]! - before[at]!, now[at + 1]! - before[at + 1]!, now[at + 2]! - before[at + 2]!) * shot.settings.fps;
	}
	return speeds;
}
