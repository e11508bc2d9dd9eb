import { find, unite } from "../mesh";
import type { BodyState, Engine } from "./engine";
import { Kind, type SimScene } from "./scene";

/**
 * Helps piles to come to rest. The contact solver leaves a few pieces of a heap wriggling on the spot, which keeps
 * everything they touch awake for ever. A body that has stayed within a small radius of one place for half a second,
 * and is slow, loses most of its speed at the end of each frame: wriggling dies out and the library puts the heap to
 * sleep, while anything that really starts to fall is out of the radius within a few frames. Only velocities of slow
 * bodies are touched, between steps, so that what is hit while it rests takes the whole blow.
 *
 * Tried on 200 pieces of a 2 m³ block, 10 s after the fall: without it 4–13 J are left and 190 bodies awake; with a
 * limit on speed alone some seeds rest and others keep one piece that shakes; with the library's own damping a resting
 * body lost two thirds of a blow in the frame it was hit.
 */
/** What is left of a resting body's speed after a second. */
const LEFT_PER_SECOND = 1e-10;
/** Faster bodies are not touched: of the spin, rad/s, so many times as much as of the speed, m/s. */
const SPIN_TO_SPEED = 10;
/** Shares of its thickness and of its size that a resting body may move (thin shards rock by their length), and the least and most in metres. */
const RADIUS_SHARE = 0.25;
const SIZE_SHARE = 0.02;
const LEAST_RADIUS = 0.001;
const MOST_RADIUS = 0.02;
/** Cosine of half the angle that a resting body may turn: 0.12 rad. */
const LEAST_ALIGNMENT = 0.9982;

/** Where each body has stayed, and for how long. Part of the checkpoint. */
export interface RestState {
	/** 7 per body: the place (position, quaternion) that it has not left since. */
	readonly anchor: Float32Array;
	/** 1 per body: frames at that place, up to 255. */
	readonly frames: Uint8Array;
}

/** Whole heaps sleep after so many times as long on the spot. */
const SLEEP_AFTER = 2;

export const makeRestState = (count: number): RestState => ({ anchor: new Float32Array(7 * count), frames: new Uint8Array(count) });

export const copyRest = ({ anchor, frames }: RestState): RestState => ({ anchor: anchor.slice(), frames: frames.slice() });

/** Call once a frame, after the state was read. */
export function settleStill(scene: SimScene, engine: Engine, state: BodyState, rest: RestState): void {
	const resting: number[] = [];
	for (let i = 0; i < scene.count; i++) {
		// What hangs is slow where it turns round, and shall go on swinging.
		if (scene.kind[i] !== Kind.Active || state.awake[i] !== 1 || scene.jointed[i] === 1) continue;
		const patience = framesOf(scene, scene.restAfter[i]!, 1);
		const was = rest.frames[i]!;
		if (was > 0 && isNear(scene, state, rest.anchor, i)) {
			rest.frames[i] = Math.min(255, was + 1);
			if (was + 1 >= patience && isSlow(scene, state, i)) resting.push(i);
			continue;
		}
		rest.anchor.set(state.position.subarray(3 * i, 3 * i + 3), 7 * i);
		rest.anchor.set(state.rotation.subarray(4 * i, 4 * i + 4), 7 * i + 3);
		rest.frames[i] = 1;
	}
	const left = keptShare(scene.settings.timeScale / scene.settings.fps);
	for (const i of resting)
		for (let k = 3 * i; k < 3 * i + 3; k++) {
			state.velocity[k]! *= left;
			state.spin[k]! *= left;
		}
	engine.setVelocities(resting, state);
	// Of what moves as one only the first one's speed counts: all have that of the whole again, as a run that goes on from here reads them.
	if (resting.some((i) => engine.membersOf(engine.carrier[i]!).length > 1)) engine.readState(state);
}

/**
 * Puts heaps to sleep in which nothing has left its place for a second. The library does so only when every member is
 * slow, and one member that shakes on the spot is never slow; it must sleep together with all it touches, or be woken
 * by them. Call once a frame, after `settleStill`; looks at the heaps twice a second.
 */
export function sleepStill(scene: SimScene, engine: Engine, state: BodyState, rest: RestState, frame: number): void {
	const perSecond = scene.settings.fps / scene.settings.timeScale;
	if (frame % Math.max(1, Math.round(perSecond / 2)) !== 0) return;
	const heap = Int32Array.from({ length: scene.count }, (_, i) => i);
	const restless = new Set<number>();
	for (let i = 0; i < scene.count; i++) {
		const first = engine.membersOf(engine.carrier[i]!)[0]!;
		if (first !== i) unite(heap, i, first);
	}
	for (const { a, b } of scene.joints) if (b >= 0 && scene.kind[a] === Kind.Active && scene.kind[b] === Kind.Active) unite(heap, a, b);
	for (let i = 0; i < scene.count; i++)
		if (state.awake[i] === 1)
			engine.neighbours(i, (other) => {
				if (scene.kind[other] === Kind.Active) unite(heap, i, other);
				// What a keyed body is near may be pushed at any moment.
				else if (scene.kind[other] === Kind.Animated) restless.add(i);
			});
	const still: number[] = [];
	for (let i = 0; i < scene.count; i++)
		if (state.awake[i] === 1 && (scene.restSpeed[i] === 0 || rest.frames[i]! < framesOf(scene, SLEEP_AFTER * scene.restAfter[i]!, 2)))
			restless.add(i);
	const busy = new Set([...restless].map((i) => find(heap, i)));
	for (let i = 0; i < scene.count; i++) if (state.awake[i] === 1 && !busy.has(find(heap, i))) still.push(i);
	engine.sleep(still);
}

/** So many seconds as frames; as many at least, and as a byte can count at most. */
const framesOf = ({ settings }: SimScene, seconds: number, least: number): number =>
	Math.min(250, Math.max(least, Math.round((seconds * settings.fps) / settings.timeScale)));

/** LEFT_PER_SECOND to the power of `seconds`, by halving: the built-in power differs between engines. */
function keptShare(seconds: number): number {
	let share = 1;
	let base = LEFT_PER_SECOND;
	let rest = seconds;
	for (let bit = 0; bit < 24; bit++) {
		base = Math.sqrt(base);
		rest *= 2;
		if (rest >= 1) {
			share *= base;
			rest -= 1;
		}
	}
	return share;
}

function isSlow({ restSpeed }: SimScene, { velocity: v, spin: w }: BodyState, i: number): boolean {
	const [speed, spin] = [restSpeed[i]!, SPIN_TO_SPEED * restSpeed[i]!];
	return (
		v[3 * i]! ** 2 + v[3 * i + 1]! ** 2 + v[3 * i + 2]! ** 2 < speed * speed &&
		w[3 * i]! ** 2 + w[3 * i + 1]! ** 2 + w[3 * i + 2]! ** 2 < spin * spin
	);
}

function isNear(scene: SimScene, { position: p, rotation: q }: BodyState, anchor: Float32Array, i: number): boolean {
	const radius = Math.min(MOST_RADIUS, Math.max(LEAST_RADIUS, RADIUS_SHARE * scene.thickness[i]!, SIZE_SHARE * scene.size[i]!));
	const dx = p[3 * i]! - anchor[7 * i]!;
	const dy = p[3 * i + 1]! - anchor[7 * i + 1]!;
	const dz = p[3 * i + 2]! - anchor[7 * i + 2]!;
	if (dx * dx + dy * dy + dz * dz > radius * radius) return false;
	let alignment = 0;
	for (let k = 0; k < 4; k++) alignment += q[4 * i + k]! * anchor[7 * i + 3 + k]!;
	return Math.abs(alignment) > LEAST_ALIGNMENT;
}
