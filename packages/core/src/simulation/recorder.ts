import { type Chunk, EventKind, POSE_STRIDE } from "../cache";
import { tripleAt, type Vec3, vec3 } from "../maths";
import type { Ticks } from "../shot";
import type { BreakEvent } from "./bonded";
import { carriedPlace } from "./carriedPlace";
import type { Crumbled } from "./crumble";
import type { BodyState } from "./engine";
import type { Borne, JointBreak } from "./joints";
import { Kind, type SimScene } from "./scene";

interface RecordedEvent {
	readonly frame: number;
	readonly kind: number;
	readonly a: number;
	readonly b: number;
	readonly value: number;
	/** See `FrameEvents.place`. */
	readonly place: Vec3;
}

/** Collects frames until they are taken as a chunk. */
export interface Recorder {
	readonly scene: SimScene;
	firstFrame: number;
	poses: Float32Array[];
	contacts: number[];
	awake: number[];
	energy: number[];
	loads: Float32Array[];
	events: RecordedEvent[];
}

/** Contacts are counted in full; of the single ones the strongest of each frame are kept. */
const CONTACTS_KEPT = 24;

export const makeRecorder = (scene: SimScene, firstFrame: number): Recorder => ({
	scene,
	firstFrame,
	poses: [],
	contacts: [],
	awake: [],
	energy: [],
	loads: [],
	events: [],
});

/** What happened during one frame, gathered over its steps. */
export interface FrameLog {
	/** When it ends. */
	readonly tick: Ticks;
	/** By pair (a × count + b): the strongest impulse of its contacts, N s. */
	readonly contacts: Map<number, number>;
	readonly woken: { body: number; by: number; speed: number }[];
	readonly lost: { body: number; height: number }[];
	readonly broken: BreakEvent[];
	readonly crumbled: Crumbled[];
	readonly parted: JointBreak[];
	/** By joint: the most that it bore, N and N m. */
	readonly borne: Map<number, Borne>;
	/** Steps that were cut off while things still gave way: the last that did, and how many there had been. */
	readonly repeated: { body: number; by: number; times: number }[];
}
export const makeFrameLog = (tick: Ticks): FrameLog => ({
	tick,
	contacts: new Map(),
	woken: [],
	lost: [],
	broken: [],
	crumbled: [],
	parted: [],
	borne: new Map(),
	repeated: [],
});

/** `loads`: 2 per joint, N and N m. */
export function recordFrame(
	recorder: Recorder,
	frame: number,
	state: BodyState,
	poses: Float32Array,
	loads: Float64Array,
	log: FrameLog,
): void {
	const { count, shown, owner, joints, bonds } = recorder.scene;
	const note = (kind: number, a: number, b: number, value: number, place: Vec3 = between(recorder.scene, poses, a, b)) =>
		recorder.events.push({ frame, kind, a, b, value, place });
	recorder.poses.push(poses.subarray(0, POSE_STRIDE * shown));
	const own = (i: number) => owner[i] ?? -1;
	recorder.contacts.push(log.contacts.size);
	recorder.awake.push(state.awake.reduce((sum, awake) => sum + awake, 0));
	recorder.energy.push(kineticEnergy(recorder.scene, state));
	recorder.loads.push(Float32Array.from(loads));
	for (const { body, by, speed } of log.woken) note(EventKind.Wake, body, own(by), speed);
	for (const { body, height } of log.lost) note(EventKind.Lost, body, -1, height);
	for (const { a, b, mode, stress, bond } of log.broken) {
		const face = tripleAt(bonds.centre, bond);
		note(
			EventKind.Pulled + mode,
			a,
			b,
			stress,
			vec3.mix(carriedPlace(recorder.scene, poses, a, face), carriedPlace(recorder.scene, poses, b, face), 0.5),
		);
	}
	for (const { joint, load } of log.parted) {
		const { a, b, from } = joints[joint]!;
		note(EventKind.Parted, a, b, load, carriedPlace(recorder.scene, poses, a, from));
	}
	for (const { body, by, times } of log.repeated) note(EventKind.Repeated, body, own(by), times);
	for (const { body, toStones } of log.crumbled) note(toStones ? EventKind.Crumbled : EventKind.Dust, body, -1, recorder.scene.mass[body]!);
	const strongest = [...log.contacts].sort((x, y) => y[1] - x[1] || x[0] - y[0]).slice(0, CONTACTS_KEPT);
	for (const [pair, impulse] of strongest) note(EventKind.Contact, Math.floor(pair / count), pair % count, impulse);
}

const NOWHERE: Vec3 = [Number.NaN, Number.NaN, Number.NaN];

/** Half way between the places of those of two bodies that move by themselves. */
function between({ kind }: SimScene, poses: Float32Array, a: number, b: number): Vec3 {
	const places = [a, b].filter((i) => i >= 0 && kind[i] === Kind.Active).map((i) => tripleAt(poses.subarray(POSE_STRIDE * i), 0));
	return places.length === 0 ? NOWHERE : vec3.scale(places.reduce(vec3.add), 1 / places.length);
}

export function takeChunk(recorder: Recorder): Chunk {
	const frames = recorder.poses.length;
	const { events } = recorder;
	const chunk: Chunk = {
		firstFrame: recorder.firstFrame,
		frames,
		bodies: recorder.scene.shown,
		poses: oneAfterTheOther(recorder.poses),
		contacts: Uint32Array.from(recorder.contacts),
		awake: Uint32Array.from(recorder.awake),
		energy: Float32Array.from(recorder.energy),
		joints: recorder.scene.joints.length,
		loads: oneAfterTheOther(recorder.loads),
		events: {
			frame: Int32Array.from(events, (event) => event.frame),
			kind: Uint8Array.from(events, (event) => event.kind),
			a: Int32Array.from(events, (event) => event.a),
			b: Int32Array.from(events, (event) => event.b),
			value: Float32Array.from(events, (event) => event.value),
			place: Float32Array.from(events.flatMap(({ place }) => place)),
		},
	};
	Object.assign(recorder, makeRecorder(recorder.scene, recorder.firstFrame + frames));
	return chunk;
}

/** Frames of the same length as one array. */
function oneAfterTheOther(frames: readonly Float32Array[]): Float32Array {
	const size = frames[0]?.length ?? 0;
	const all = new Float32Array(frames.length * size);
	for (const [i, frame] of frames.entries()) all.set(frame, i * size);
	return all;
}

/** ½ m v² + ½ ω·Iω of everything that moves by itself, J. */
export function kineticEnergy(scene: SimScene, state: BodyState): number {
	let sum = 0;
	for (let i = 0; i < scene.count; i++) {
		if (scene.kind[i] !== Kind.Active || state.awake[i] !== 1) continue;
		const [vx, vy, vz] = [state.velocity[3 * i]!, state.velocity[3 * i + 1]!, state.velocity[3 * i + 2]!];
		sum += (scene.mass[i]! * (vx * vx + vy * vy + vz * vz)) / 2;
		// Into the principal frame: first the body's axes, then the axes of its inertia.
		let w = turnBack(state.rotation, 4 * i, state.spin[3 * i]!, state.spin[3 * i + 1]!, state.spin[3 * i + 2]!);
		w = turnBack(scene.inertiaFrame, 4 * i, ...w);
		for (let k = 0; k < 3; k++) sum += (scene.inertia[3 * i + k]! * w[k]! * w[k]!) / 2;
	}
	return sum;
}

function turnBack(q: ArrayLike<number>, at: number, vx: number, vy: number, vz: number): [number, number, number] {
	const [x, y, z, w] = [-q[at]!, -q[at + 1]!, -q[at + 2]!, q[at + 3]!];
	const tx = 2 * (y * vz - z * vy);
	const ty = 2 * (z * vx - x * vz);
	const tz = 2 * (x * vy - y * vx);
	return [vx + w * tx + y * tz - z * ty, vy + w * ty + z * tx - x * tz, vz + w * tz + x * ty - y * tx];
}
