import { buildBodies } from "../bodies";
import { addChunk, encodeChunk, type FrameStore, posesAt } from "../cache";
import { hashBytes } from "../common";
import { edit, moveKey, renameObject, type Shot, setBody, setKey, setMaterial, setSettings } from "../shot";
import { makeTestWorkshop, shotOf } from "../testing";
import { keyedStrike } from "../testing/keyedStrike";
import {
	type Checkpoint,
	chunkToGoOnFrom,
	decodeCheckpoint,
	encodeCheckpoint,
	frameHashes,
	makeScene,
	makeTake,
	rapierEngine,
	simulate,
	staleFrom,
	type Take,
	takeHash,
	withChunk,
} from ".";

const change = (shot: Shot, ...commands: Parameters<typeof edit>[1][]) => commands.reduce((at, command) => edit(at, command).shot, shot);

const small = (): Shot => shotOf(...keyedStrike);

interface Done {
	take: Take;
	store: FrameStore;
	checkpoints: Map<number, Checkpoint>;
}

async function run(shot: Shot, from?: Checkpoint, stopAfter?: number): Promise<Done> {
	const workshop = await makeTestWorkshop();
	const { bodies } = await buildBodies(workshop, shot);
	const scene = await makeScene(workshop, shot, bodies);
	const done: Done = { take: makeTake("Take 1", shot, scene), store: { bodies: scene.shown, chunks: [] }, checkpoints: new Map() };
	const signal = { aborted: false };
	await simulate(scene, rapierEngine, {
		...(from && { from }),
		signal,
		onProgress: (_, what) => {
			if (what === `Frame ${stopAfter}`) signal.aborted = true;
		},
		onChunk: (chunk, checkpoint) => {
			done.store = addChunk(done.store, chunk);
			done.take = withChunk(done.take, chunk, hashBytes(encodeChunk(chunk)), checkpoint ? hashBytes(encodeCheckpoint(checkpoint)) : null);
			if (checkpoint) done.checkpoints.set(checkpoint.frame, decodeCheckpoint(encodeCheckpoint(checkpoint)));
		},
	});
	return done;
}

test("the same shot gives the same bytes twice", async () => {
	const [one, two] = [await run(small()), await run(small())];
	expect(one.take.chunks).toHaveLength(3);
	expect(takeHash(one.take)).toBe(takeHash(two.take));
});

test("a run that was stopped goes on from its checkpoint to the same bytes", async () => {
	const whole = await run(small());
	const part = await run(small(), undefined, 40);
	// 24 frames with a checkpoint, then the ones that were cut short, without.
	expect(part.take.chunks.map(({ firstFrame, frames, checkpoint }) => [firstFrame, frames, checkpoint !== null])).toEqual([
		[1, 24, true],
		[25, 16, false],
	]);
	const rest = await run(small(), part.checkpoints.get(24)!);
	expect(rest.take.chunks).toEqual(whole.take.chunks.slice(1));
});

test("going on after an edit of a key costs only the frames it changes", async () => {
	const before = small();
	const done = await run(before);
	// The last key lies after the range; the one at tick 2200 is frame 45.
	const after = change(before, moveKey("buoy", 2200, 2300));
	const stale = staleFrom(done.take.frameHashes, frameHashes(after), 1);
	expect(stale).toBe(30); // the frame after the key before, at tick 1400 = frame 29
	const chunk = chunkToGoOnFrom(done.take, frameHashes(after))!;
	expect(chunk.firstFrame + chunk.frames - 1).toBe(24);
	const again = await run(after, done.checkpoints.get(24)!);
	const anew = await run(after);
	expect(again.take.chunks).toEqual(anew.take.chunks.slice(1));
	// And what is before did not change.
	expect(posesAt(anew.store, 29)).toEqual(posesAt(done.store, 29));
	expect(posesAt(anew.store, 40)).not.toEqual(posesAt(done.store, 40));
});

test("stale is exactly what an edit reaches", () => {
	const shot = small();
	const hashes = frameHashes(shot);
	const stale = (...commands: Parameters<typeof edit>[1][]) => staleFrom(hashes, frameHashes(change(shot, ...commands)), 1);
	expect(stale(renameObject("buoy", "Old buoy"))).toBe(73);
	expect(stale(setSettings({ lastFrame: 60 }))).toBe(61);
	expect(stale(setSettings({ solverIterations: 6 }))).toBe(1);
	expect(stale(setSettings({ stepsPerSecond: 240 }))).toBe(1);
	expect(stale(setBody(["breakwater"], { friction: 0.2 }))).toBe(1);
	expect(stale(setMaterial(["breakwater"], "granite"))).toBe(1);
	expect(stale(setKey("buoy", 3000, { translation: [0, 5, 0] }))).toBe(46);
	expect(stale(setBody(["breakwater"], { wake: { when: "frame", frame: 30 } }))).toBe(1);
	const woken = change(shot, setBody(["breakwater"], { wake: { when: "frame", frame: 30 } }));
	expect(
		staleFrom(frameHashes(woken), frameHashes(change(woken, setBody(["breakwater"], { wake: { when: "frame", frame: 40 } }))), 1),
	).toBe(30);
});

test("checkpoints survive writing and reading, and damaged ones are told apart", async () => {
	const done = await run({ ...small(), settings: { ...small().settings, lastFrame: 24 } });
	const bytes = encodeCheckpoint(done.checkpoints.get(24)!);
	expect(encodeCheckpoint(decodeCheckpoint(bytes))).toEqual(bytes);
	expect(() => decodeCheckpoint(bytes.slice(0, 100))).toThrow(/cut short/);
	expect(() => decodeCheckpoint(new Uint8Array(200))).toThrow(/no checkpoint/);
});
