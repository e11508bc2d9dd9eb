import { type FrameStore, POSE_STRIDE, posesAt } from "../cache";
import { angleBetween, type Quat, quatAt, slerp, tripleAt, type Vec3, vec3 } from "../maths";

/** Keys of one body. Poses are of the body's frame in the world. */
export interface Track {
	/** Index into the take's bodies; −1 where it is not in the take. */
	readonly body: number;
	/** 1 per key: the frame it stands at. */
	readonly frames: Int32Array;
	/** 3 per key, metres. */
	readonly translations: Float32Array;
	/** 4 per key, x y z w, each on the near side of the one before. */
	readonly rotations: Float32Array;
}

export interface BakeError {
	/** metres, the largest distance between the keys' motion and the cache */
	readonly position: number;
	/** radians, likewise */
	readonly rotation: number;
	/** Keys in all tracks, and what every frame would have needed. */
	readonly keys: number;
	readonly fullKeys: number;
}

export type BakeOptions =
	/** A key at every Nth frame, and at the last. */
	| { readonly way: "every"; readonly frames: number }
	/** As few keys as stay within both tolerances: metres and radians. */
	| { readonly way: "reduced"; readonly position: number; readonly rotation: number };

export interface Baked {
	readonly firstFrame: number;
	readonly lastFrame: number;
	readonly tracks: readonly Track[];
	/** Measured afterwards at every frame, against the cache. */
	readonly error: BakeError;
}

/** Turns stored frames into keys. Between keys, positions go straight and rotations turn evenly (slerp). */
export function bake(store: FrameStore, firstFrame: number, lastFrame: number, bodies: readonly number[], options: BakeOptions): Baked {
	const frames: Float32Array[] = [];
	for (let frame = firstFrame; frame <= lastFrame; frame++) {
		const poses = posesAt(store, frame);
		if (!poses) throw new Error(`bake: frame ${frame} is not stored`);
		frames.push(poses);
	}
	const tracks: Track[] = [];
	let position = 0;
	let rotation = 0;
	for (const body of bodies) {
		const motion = readMotion(frames, body);
		const kept = keysOf(motion, options);
		const error = measure(motion, kept);
		position = Math.max(position, error.position);
		rotation = Math.max(rotation, error.rotation);
		tracks.push(makeTrack(body, firstFrame, motion, kept));
	}
	return {
		firstFrame,
		lastFrame,
		tracks,
		error: {
			position,
			rotation,
			keys: tracks.reduce((sum, track) => sum + track.frames.length, 0),
			fullKeys: bodies.length * frames.length,
		},
	};
}

/** Where a track is at a frame: held before its first key and after its last, between them straight and evenly turning. */
export function poseAt({ frames, translations, rotations }: Track, frame: number): { translation: Vec3; rotation: Quat } {
	const key = (k: number): { translation: Vec3; rotation: Quat } => ({
		translation: tripleAt(translations, k),
		rotation: quatAt(rotations, k),
	});
	const last = frames.length - 1;
	if (frame <= frames[0]!) return key(0);
	if (frame >= frames[last]!) return key(last);
	let [low, high] = [0, last];
	while (high - low > 1) {
		const middle = (low + high) >> 1;
		if (frames[middle]! <= frame) low = middle;
		else high = middle;
	}
	const [a, b] = [key(low), key(high)];
	if (frames[low] === frame) return a;
	const t = (frame - frames[low]!) / (frames[high]! - frames[low]!);
	return { translation: vec3.mix(a.translation, b.translation, t), rotation: slerp(a.rotation, b.rotation, t) };
}

/** Keys of something that moves by itself, not in a take; reduced likewise. */
export function bakeMotion(
	firstFrame: number,
	lastFrame: number,
	pose: (frame: number) => { readonly translation: Vec3; readonly rotation: Quat },
	options: BakeOptions,
): Track {
	const frames: Float32Array[] = [];
	for (let frame = firstFrame; frame <= lastFrame; frame++) {
		const { translation, rotation } = pose(frame);
		frames.push(Float32Array.of(...translation, ...rotation));
	}
	const motion = readMotion(frames, 0);
	return makeTrack(-1, firstFrame, motion, keysOf(motion, options));
}

interface Motion {
	readonly translations: readonly Vec3[];
	readonly rotations: readonly Quat[];
}

function readMotion(frames: readonly Float32Array[], body: number): Motion {
	const translations: Vec3[] = [];
	const rotations: Quat[] = [];
	for (const poses of frames) {
		const at = body * POSE_STRIDE;
		translations.push([poses[at]!, poses[at + 1]!, poses[at + 2]!]);
		const q: Quat = [poses[at + 3]!, poses[at + 4]!, poses[at + 5]!, poses[at + 6]!];
		const last = rotations[rotations.length - 1];
		const far = last !== undefined && last[0] * q[0] + last[1] * q[1] + last[2] * q[2] + last[3] * q[3] < 0;
		// q and −q are one rotation; keys that switch between them would spin in other programs.
		rotations.push(far ? [-q[0], -q[1], -q[2], -q[3]] : q);
	}
	return { translations, rotations };
}

const keysOf = (motion: Motion, options: BakeOptions): number[] =>
	options.way === "every" ? everyNth(motion.translations.length, options.frames) : reduce(motion, options.position, options.rotation);

function everyNth(count: number, n: number): number[] {
	const kept: number[] = [];
	for (let i = 0; i < count; i += Math.max(1, Math.round(n))) kept.push(i);
	if (kept[kept.length - 1] !== count - 1) kept.push(count - 1);
	return kept;
}

/**
 * Keeps the ends and splits at the worst frame until every frame is within both tolerances (Ramer 1972, Douglas &
 * Peucker 1973, on position and rotation at once, each measured in its tolerance).
 */
function reduce(motion: Motion, position: number, rotation: number): number[] {
	const last = motion.translations.length - 1;
	const keep = new Set([0, last]);
	const spans: [number, number][] = [[0, last]];
	for (let span = spans.pop(); span; span = spans.pop()) {
		const [a, b] = span;
		let worst = 1;
		let at = -1;
		for (let i = a + 1; i < b; i++) {
			const error = errorAt(motion, a, b, i);
			const ratio = Math.max(error.position / position, error.rotation / rotation);
			if (ratio > worst) {
				worst = ratio;
				at = i;
			}
		}
		if (at < 0) continue;
		keep.add(at);
		spans.push([a, at], [at, b]);
	}
	const kept = [...keep].sort((x, y) => x - y);
	// A body that never moves needs one key.
	return kept.length === 2 && still(motion, position, rotation) ? [0] : kept;
}

const still = (motion: Motion, position: number, rotation: number): boolean =>
	motion.translations.every((_, i) => {
		const error = errorAt(motion, 0, 0, i);
		return error.position <= position && error.rotation <= rotation;
	});

function errorAt({ translations, rotations }: Motion, a: number, b: number, i: number): { position: number; rotation: number } {
	const t = b > a ? (i - a) / (b - a) : 0;
	const at = vec3.mix(translations[a]!, translations[b]!, t);
	return {
		position: vec3.length(vec3.subtract(at, translations[i]!)),
		rotation: angleBetween(slerp(rotations[a]!, rotations[b]!, t), rotations[i]!),
	};
}

function measure(motion: Motion, kept: readonly number[]): { position: number; rotation: number } {
	let position = 0;
	let rotation = 0;
	let k = 0;
	for (let i = 0; i < motion.translations.length; i++) {
		while (k + 1 < kept.length - 1 && kept[k + 1]! <= i) k++;
		const error = errorAt(motion, kept[k]!, kept[Math.min(k + 1, kept.length - 1)]!, i);
		position = Math.max(position, error.position);
		rotation = Math.max(rotation, error.rotation);
	}
	return { position, rotation };
}

const makeTrack = (body: number, firstFrame: number, motion: Motion, kept: readonly number[]): Track => ({
	body,
	frames: Int32Array.from(kept, (i) => firstFrame + i),
	translations: Float32Array.from(kept.flatMap((i) => [...motion.translations[i]!])),
	rotations: Float32Array.from(kept.flatMap((i) => [...motion.rotations[i]!])),
});
