import fc from "fast-check";
import {
	addChunk,
	type Chunk,
	decodeChunk,
	dropFrom,
	encodeChunk,
	type FrameStore,
	LOAD_STRIDE,
	lastStored,
	POSE_STRIDE,
	posesAt,
} from ".";

const floats = (length: number) =>
	fc.array(fc.float({ noNaN: true }), { minLength: length, maxLength: length }).map((list) => Float32Array.from(list));
const chunkOf = (firstFrame: number, frames: number, bodies: number, joints: number): fc.Arbitrary<Chunk> =>
	fc
		.record({
			poses: floats(frames * bodies * POSE_STRIDE),
			energy: floats(frames),
			loads: floats(frames * joints * LOAD_STRIDE),
			at: fc.array(fc.nat(frames - 1), { maxLength: 20 }),
		})
		.map(({ poses, energy, loads, at }) => ({
			firstFrame,
			frames,
			bodies,
			poses,
			energy,
			joints,
			loads,
			contacts: Uint32Array.from({ length: frames }, (_, i) => i * 3),
			awake: Uint32Array.from({ length: frames }, (_, i) => i),
			events: {
				frame: Int32Array.from(
					[...at].sort((a, b) => a - b),
					(i) => firstFrame + i,
				),
				kind: Uint8Array.from(at, (i) => i % 3),
				a: Int32Array.from(at, (i) => i),
				b: Int32Array.from(at, () => -1),
				value: Float32Array.from(at, (i) => i / 7),
				place: Float32Array.from(at.flatMap((i) => (i % 3 === 0 ? Array(3).fill(Number.NaN) : [i, -i, i / 3]))),
			},
		}));

test("any chunk comes back from its bytes as it was", () => {
	fc.assert(
		fc.property(
			fc.integer({ min: -50, max: 900 }),
			fc.integer({ min: 1, max: 24 }),
			fc.integer({ min: 0, max: 9 }),
			fc.integer({ min: 0, max: 3 }),
			(first, frames, bodies, joints) =>
				fc.assert(
					fc.property(chunkOf(first, frames, bodies, joints), (chunk) => {
						const bytes = encodeChunk(chunk);
						expect(decodeChunk(bytes)).toEqual(chunk);
						expect(encodeChunk(decodeChunk(bytes))).toEqual(bytes);
					}),
					{ numRuns: 3 },
				),
		),
		{ numRuns: 25 },
	);
});

test("chunks of before places of events were known are read without them", () => {
	const chunk = fc.sample(chunkOf(1, 6, 2, 1), 1)[0]!;
	const count = chunk.events.frame.length;
	const now = encodeChunk(chunk);
	const places = now.length - 13 * count;
	const then = new Uint8Array([...now.slice(0, places), ...now.slice(places + 12 * count)]);
	new DataView(then.buffer).setUint32(4, 1, true);
	expect(decodeChunk(then)).toEqual({ ...chunk, events: { ...chunk.events, place: new Float32Array(3 * count).fill(Number.NaN) } });
});

test("damaged chunks are told apart", () => {
	const [chunk] = fc.sample(chunkOf(1, 4, 2, 1), 1);
	const bytes = encodeChunk(chunk!);
	expect(() => decodeChunk(bytes.slice(0, -3))).toThrow(/cut short/);
	expect(() => decodeChunk(new Uint8Array(64))).toThrow(/no frame chunk/);
	expect(() => decodeChunk(new Uint8Array(3))).toThrow(/no frame chunk/);
});

test("frames are found, dropped and replaced from any frame on", () => {
	const [a, b, again] = [
		fc.sample(chunkOf(1, 24, 2, 1), 1)[0]!,
		fc.sample(chunkOf(25, 24, 2, 1), 1)[0]!,
		fc.sample(chunkOf(11, 5, 2, 1), 1)[0]!,
	];
	let store: FrameStore = addChunk(addChunk({ bodies: 2, chunks: [] }, a), b);
	expect(lastStored(store, 1)).toBe(48);
	expect(posesAt(store, 25)).toEqual(b.poses.subarray(0, 14));
	expect(posesAt(store, 49)).toBeUndefined();
	expect(lastStored(dropFrom(store, 30), 1)).toBe(29);
	store = addChunk(store, again);
	expect(lastStored(store, 1)).toBe(15);
	expect(posesAt(store, 10)).toEqual(a.poses.subarray(9 * 14, 10 * 14));
	expect(posesAt(store, 11)).toEqual(again.poses.subarray(0, 14));
	expect(store.chunks[0]!.events.frame.every((frame) => frame <= 10)).toBe(true);
});
