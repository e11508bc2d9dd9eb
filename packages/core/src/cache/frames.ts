import { type Chunk, EventKind, LOAD_STRIDE, POSE_STRIDE } from "./chunk";

/** The frames of a take as they come in: chunks by the frame they begin at. */
export interface FrameStore {
	readonly bodies: number;
	readonly chunks: readonly Chunk[];
}

/** Adds a chunk; stored frames from its first one on are dropped, since they followed from something else. */
export function addChunk(store: FrameStore, chunk: Chunk): FrameStore {
	const kept = dropFrom(store, chunk.firstFrame);
	return { bodies: chunk.bodies, chunks: [...kept.chunks, chunk] };
}

/** All chunks of a take, in their order. */
export const storeOf = (bodies: number, chunks: readonly Chunk[]): FrameStore =>
	chunks.reduce<FrameStore>(addChunk, { bodies, chunks: [] });

export function dropFrom(store: FrameStore, frame: number): FrameStore {
	return { ...store, chunks: store.chunks.filter((chunk) => chunk.firstFrame < frame).map((chunk) => cutChunk(chunk, frame)) };
}

function cutChunk(chunk: Chunk, end: number): Chunk {
	const frames = Math.min(chunk.frames, end - chunk.firstFrame);
	if (frames === chunk.frames) return chunk;
	const keep = chunk.events.frame.findIndex((frame) => frame >= end);
	const count = keep < 0 ? chunk.events.frame.length : keep;
	return {
		...chunk,
		frames,
		poses: chunk.poses.slice(0, frames * chunk.bodies * POSE_STRIDE),
		contacts: chunk.contacts.slice(0, frames),
		awake: chunk.awake.slice(0, frames),
		energy: chunk.energy.slice(0, frames),
		loads: chunk.loads.slice(0, frames * chunk.joints * LOAD_STRIDE),
		events: {
			frame: chunk.events.frame.slice(0, count),
			kind: chunk.events.kind.slice(0, count),
			a: chunk.events.a.slice(0, count),
			b: chunk.events.b.slice(0, count),
			value: chunk.events.value.slice(0, count),
			place: chunk.events.place.slice(0, 3 * count),
		},
	};
}

/** The last frame that is stored without a hole; `first − 1` where there is none. */
export function lastStored(store: FrameStore, first: number): number {
	let end = first;
	for (const chunk of store.chunks) {
		if (chunk.firstFrame !== end) break;
		end += chunk.frames;
	}
	return end - 1;
}

/** Poses of all bodies at a frame, 7 per body; undefined where it is not stored. Not a copy. */
export function posesAt(store: FrameStore, frame: number): Float32Array | undefined {
	const chunk = store.chunks.find((c) => frame >= c.firstFrame && frame < c.firstFrame + c.frames);
	if (!chunk) return undefined;
	const size = chunk.bodies * POSE_STRIDE;
	const start = (frame - chunk.firstFrame) * size;
	return chunk.poses.subarray(start, start + size);
}

/** By body: the first frame in which it moved by itself because something woke it. Those that were free from the start are not in it. */
export const wokenAt = (store: FrameStore): ReadonlyMap<number, number> => firstEvents(store, EventKind.Wake);

/** By body: the first frame in which it has crumbled, to dust or to stones. */
export const crumbledAt = (store: FrameStore): ReadonlyMap<number, number> => firstEvents(store, EventKind.Dust, EventKind.Crumbled);

/** By body: the first frame in which it has fallen out of the scene. */
export const lostAt = (store: FrameStore): ReadonlyMap<number, number> => firstEvents(store, EventKind.Lost);

/**
 * By body: the hardest that each was hit until a frame, N s. Takes keep the strongest contacts of each frame, so the
 * soft ones of a large pile are not among them.
 */
export function hardestBlows(store: FrameStore): (body: number, frame: number) => number {
	const known = blows.get(store) ?? findBlows(store);
	blows.set(store, known);
	return (body, frame) => {
		const climbs = known.get(body) ?? [];
		let hardest = 0;
		for (const climb of climbs) {
			if (climb.frame > frame) break;
			hardest = climb.impulse;
		}
		return hardest;
	};
}

const blows = new WeakMap<FrameStore, ReadonlyMap<number, readonly Blow[]>>();

interface Blow {
	readonly frame: number;
	/** N s */
	readonly impulse: number;
}

/** By body: each blow that was harder than all before it. */
function findBlows(store: FrameStore): ReadonlyMap<number, readonly Blow[]> {
	const climbs = new Map<number, Blow[]>();
	for (const { events } of store.chunks)
		events.kind.forEach((kind, e) => {
			if (kind !== EventKind.Contact) return;
			for (const body of [events.a[e]!, events.b[e]!]) {
				const own = climbs.get(body) ?? [];
				if (own.length === 0) climbs.set(body, own);
				if (events.value[e]! > (own.at(-1)?.impulse ?? 0)) own.push({ frame: events.frame[e]!, impulse: events.value[e]! });
			}
		});
	return climbs;
}

/** What was found for a store, by kinds: it never changes, and the view asks at every frame. */
const found = new WeakMap<FrameStore, Map<string, Map<number, number>>>();

function firstEvents(store: FrameStore, ...wanted: readonly number[]): Map<number, number> {
	const kinds = found.get(store) ?? new Map<string, Map<number, number>>();
	found.set(store, kinds);
	const known = kinds.get(wanted.join());
	if (known) return known;
	const first = new Map<number, number>();
	for (const { events } of store.chunks)
		events.kind.forEach((kind, e) => {
			if (wanted.includes(kind) && !first.has(events.a[e]!)) first.set(events.a[e]!, events.frame[e]!);
		});
	kinds.set(wanted.join(), first);
	return first;
}
