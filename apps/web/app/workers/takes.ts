import type { BakeOptions } from "@rubble/core/bake";
import { encodePlaces, keepPlaces, picturesOf, withPlaces } from "@rubble/core/bodies";
import {
	addChunk,
	type Chunk,
	crumbledAt,
	decodeChunk,
	dropFrom,
	encodeChunk,
	type FrameEvents,
	type FrameStore,
	lastStored,
	posesAt,
	storeOf,
} from "@rubble/core/cache";
import { hashBytes, type Progress, report } from "@rubble/core/common";
import { type ExportRange, exportTake, type FileOrder, forecastSize, TAKE_FORMATS, writeTake } from "@rubble/core/formats";
import type { Bounds } from "@rubble/core/mesh";
import { type AssetRef, edit, type Shot } from "@rubble/core/shot";
import {
	absentAt,
	type Checkpoint,
	decodeCheckpoint,
	encodeCheckpoint,
	frameHashes,
	goOnFrom,
	hashesOver,
	makeTake,
	rapierEngine,
	separate,
	simulate,
	type Take,
	whatHolds,
	withChunk,
} from "@rubble/core/simulation";
import {
	bakeKeys,
	carryOver,
	DEEPEST,
	joinEvents,
	motionBounds,
	type OverlapSeries,
	overlapSeries,
	RestWatch,
	settleShot,
	takeSeries,
} from "@rubble/core/takes";
import { transfer } from "comlink";
import type { BegunTake } from "~/data/takes.server";
import { assetUrl } from "./assetUrl";
import { bodiesAndPlaces, bodiesOfTake, builtAside, drawAside, sceneAside, sceneFor } from "./building";
import type { BakedFile, BakeForecast, KeptFrame, KeysFromTake, LoadedTake, RunEvents, RunResult, TakeScene } from "./messages";
import { fetchBytes, getJson, keepAsset, putAsset, Refused, send, sendJson } from "./network";
import { begin, letMessagesIn } from "./progress";
import { watchEngine } from "./watchedEngine";

/** The take on show, and its frames. */
const memory: { take?: { id: string; name: string; locked: boolean; take: Take }; store: FrameStore } = {
	store: { bodies: 0, chunks: [] },
};

/** A take and its frames, whichever is on show. */
async function readTake(url: string): Promise<LoadedTake | null> {
	const stored = (await getJson(url)) as Omit<LoadedTake, "chunks"> | null;
	if (!stored) return null;
	const chunks = await Promise.all(
		stored.take.chunks.map(async ({ firstFrame, hash }) =>
			decodeChunk(await fetchBytes(`/api/takes/${stored.id}/chunks/${firstFrame}?hash=${hash}`)),
		),
	);
	return { ...stored, chunks };
}

/** Takes up the shot's take that was on show last, or this one. */
export async function loadTake(shotId: string, id?: string): Promise<LoadedTake | null> {
	const loaded = await readTake(id === undefined ? `/api/shots/${shotId}/takes?shown` : `/api/takes/${id}`);
	delete memory.take;
	memory.store = { bodies: 0, chunks: [] };
	if (!loaded) return null;
	const { chunks, ...stored } = loaded;
	memory.take = stored;
	memory.store = storeOf(stored.take.bodies.length, chunks);
	return loaded;
}

/** Everything that a take's picture needs; what is on show stays as it is. */
export async function takeScene(id: string): Promise<TakeScene> {
	const loaded = (await readTake(`/api/takes/${id}`))!;
	const store = storeOf(loaded.take.bodies.length, loaded.chunks);
	return { ...loaded, ...(await drawAside(loaded.take.snapshot)), series: takeSeries(store) };
}

/** Frames of a take at which overlaps are measured. */
const OVERLAP_SAMPLES = 24;

export async function measureOverlaps(id: string, onProgress: (fraction: number, what: string) => void): Promise<OverlapSeries> {
	const progress = letMessagesIn(begin("build"), onProgress);
	const { take, chunks } = (await readTake(`/api/takes/${id}`))!;
	const { scene } = await sceneAside(take.snapshot, progress);
	return overlapSeries(scene, rapierEngine, storeOf(take.bodies.length, chunks), OVERLAP_SAMPLES, progress);
}

export async function whereThingsGo(): Promise<Bounds | undefined> {
	const { take, store } = memory;
	return take && motionBounds(await bodiesOfTake(take.take.snapshot), take.take.bodies, store);
}

/** Tells the worker what was changed of the take on show. */
export function noteTake(facts: { readonly name: string; readonly locked: boolean }): void {
	if (memory.take) memory.take = { ...memory.take, ...facts };
}

/** Begins a run into the take on show, or into a new one where there is none, it is locked, or a new one is wanted. */
async function beginRun(shotId: string, take: Take, fresh: string | undefined): Promise<BegunTake> {
	const shown = memory.take;
	if (shown && !shown.locked && fresh === undefined) return (await sendJson(`/api/takes/${shown.id}`, "PUT", take)) as BegunTake;
	return (await sendJson(`/api/shots/${shotId}/takes`, "POST", { take, name: fresh ?? "Take 1" })) as BegunTake;
}

export async function run(
	shotId: string,
	shot: Shot,
	/** The name of a new take to run into; the one on show where absent. */
	fresh: string | undefined,
	onProgress: RunEvents["onProgress"],
	onStart: RunEvents["onStart"],
	onChunk: RunEvents["onChunk"],
): Promise<RunResult> {
	const started = performance.now();
	const signal = begin("run");
	const progress = letMessagesIn(signal, onProgress);
	const { built, scene } = await sceneFor(shot, progress);
	if (built.problems.length > 0) throw new Error(built.problems[0]!.message);
	if (scene.count === 0) throw new Error("Nothing takes part in the simulation yet. Make something active in Weigh.");
	const hashes = hashesOver(memory.take?.take, frameHashes(shot));
	const { firstFrame, lastFrame } = shot.settings;
	// What still holds of the last run is kept; the run goes on at the last checkpoint before the first stale frame.
	const { kept, checkpoint, begun } = whatHolds(memory.take?.take, hashes, firstFrame);
	const from = checkpoint === null ? undefined : decodeCheckpoint(await fetchBytes(`/api/assets/${checkpoint}`));
	const begunTake = {
		...makeTake(memory.take?.name ?? "Take 1", shot, scene),
		// What is kept of a take that went on from another one still begins as that.
		...(kept.length > 0 && memory.take?.take.wentOn && { wentOn: memory.take.take.wentOn }),
		chunks: kept,
		frameHashes: hashes.slice(0, begun - firstFrame),
	};
	const keeper = await keepChunks(shotId, begunTake, fresh, begun, onStart, onChunk);
	const watched = watchRun(signal, begun - 1, onProgress);
	if (begun > lastFrame) return { finished: true, frame: lastFrame, frames: 0, milliseconds: performance.now() - started };
	const result = await simulate(scene, watched.factory, {
		...watched.progress,
		stopwatch: watched.stopwatch,
		...(from && { from }),
		onChunk: (chunk, checkpoint) => keeper.add(chunk, checkpoint),
	});
	await keeper.done();
	return { finished: result.finished, frame: result.frame, frames: result.frame - begun + 1, milliseconds: performance.now() - started };
}

/**
 * Goes on from a stored frame of the take on show with the shot as it is now, into a new take. The frames up to there are
 * taken over; those since the last checkpoint are made once more, to know how fast everything was.
 */
export async function goOn(
	shotId: string,
	shot: Shot,
	frame: number,
	fresh: string,
	onProgress: RunEvents["onProgress"],
	onStart: RunEvents["onStart"],
	onChunk: RunEvents["onChunk"],
): Promise<RunResult> {
	const started = performance.now();
	const signal = begin("run");
	const progress = letMessagesIn(signal, onProgress);
	const shown = memory.take;
	if (!shown || !posesAt(memory.store, frame)) throw new Error(`Frame ${frame} is not stored.`);
	const { snapshot, chunks, frameHashes: known } = shown.take;
	const { firstFrame } = snapshot.settings;
	if (snapshot.settings.fps !== shot.settings.fps || firstFrame !== shot.settings.firstFrame)
		throw new Error("The first frame and the frame rate must be what they were.");
	const { built, scene } = await sceneFor(shot, progress);
	if (built.problems.length > 0) throw new Error(built.problems[0]!.message);
	const old = (await sceneAside(snapshot, progress)).scene;
	const before = chunks.filter((chunk) => chunk.firstFrame + chunk.frames - 1 <= frame && chunk.checkpoint !== null).at(-1);
	let there = before && decodeCheckpoint(await fetchBytes(`/api/assets/${before.checkpoint}`));
	const made: Chunk[] = [];
	if (there?.frame !== frame)
		await simulate(old, rapierEngine, {
			...progress,
			until: frame,
			...(there && { from: there }),
			onChunk: (chunk, checkpoint) => {
				made.push(chunk);
				there = checkpoint;
			},
		});
	if (!there) throw new Error("cancelled");
	const state = await goOnFrom(old, there, scene, rapierEngine);
	if (!state.ok) throw new Error(state.problems[0]!.message);
	const begun = made[0]?.firstFrame ?? frame + 1;
	const kept = chunks.filter((chunk) => chunk.firstFrame < begun);
	const begunTake: Take = {
		...makeTake(fresh, shot, scene),
		wentOn: { take: shown.name, frame },
		// Checkpoints of the old set-up are no use to this one.
		chunks: kept.map((chunk) => ({ ...chunk, checkpoint: null })),
		frameHashes: known.slice(0, frame - firstFrame + 1),
	};
	const keeper = await keepChunks(shotId, begunTake, fresh, begun, onStart, onChunk);
	for (const chunk of made) keeper.add(chunk, undefined);
	const watched = watchRun(signal, frame, onProgress);
	const result = await simulate(scene, watched.factory, {
		...watched.progress,
		stopwatch: watched.stopwatch,
		from: there,
		state: state.value,
		onChunk: (chunk, checkpoint) => keeper.add(chunk, checkpoint),
	});
	await keeper.done();
	return { finished: result.finished, frame: result.frame, frames: result.frame - frame, milliseconds: performance.now() - started };
}

/** The motion of the take on show on the bodies of the shot as it is now, as a new take. Nothing is simulated. */
export async function carry(
	shotId: string,
	shot: Shot,
	fresh: string,
	onStart: RunEvents["onStart"],
	onChunk: RunEvents["onChunk"],
): Promise<{ readonly carried: number; readonly left: number }> {
	if (!memory.take || memory.store.chunks.length === 0) throw new Error("There are no frames yet. Run the shot first.");
	const { snapshot, bodies } = memory.take.take;
	const { fps, firstFrame } = snapshot.settings;
	if (fps !== shot.settings.fps || firstFrame !== shot.settings.firstFrame)
		throw new Error(`The take begins at frame ${firstFrame} with ${fps} frames a second; the shot must do so too.`);
	const coarse = { shot: snapshot, bodies: (await builtAside(snapshot)).bodies, ids: bodies.map(({ id }) => id), store: memory.store };
	const { built, scene } = await sceneFor(
		shot,
		letMessagesIn(begin("run"), () => undefined),
	);
	const made = carryOver(coarse, { shot, bodies: built.bodies, scene });
	if (!made.ok) throw new Error(made.problems[0]!.message);
	const keeper = await keepChunks(shotId, { ...makeTake(fresh, shot, scene), frameHashes: [] }, fresh, firstFrame, onStart, onChunk);
	// Without checkpoints: a run begins at the first frame, and makes them true.
	for (const chunk of made.value.store.chunks) keeper.add(chunk, undefined);
	await keeper.done();
	return { carried: made.value.carried, left: made.value.left };
}

/** The engine and the progress of a run that tells what it costs. `before`: the frame before its first. */
function watchRun(signal: Parameters<typeof letMessagesIn>[0], before: number, onProgress: RunEvents["onProgress"]) {
	const watch = watchEngine(before);
	return {
		factory: watch.factory,
		stopwatch: watch.stopwatch,
		progress: letMessagesIn(signal, (fraction, what) => onProgress(fraction, what, watch.read(Number(/^Frame (-?\d+)/.exec(what)?.[1])))),
	};
}

/** Chunks that are shown as they come and stored in order beside the work that makes them; a failure comes up at the end. */
interface Keeper {
	readonly add: (chunk: Chunk, checkpoint: Checkpoint | undefined) => void;
	/** Once all is shown and stored. */
	readonly done: () => Promise<void>;
}

/** Begins a take whose frames from `begun` on are about to be made. */
async function keepChunks(
	shotId: string,
	begunTake: Take,
	fresh: string | undefined,
	begun: number,
	onStart: RunEvents["onStart"],
	onChunk: RunEvents["onChunk"],
): Promise<Keeper> {
	const { id, name, run } = await beginRun(shotId, begunTake, fresh);
	const hashes = hashesOver(begunTake, frameHashes(begunTake.snapshot));
	let take: Take = begunTake;
	const show = (next: Take) => {
		take = next;
		memory.take = { id, name, locked: false, take };
	};
	show({ ...take, name });
	memory.store = { bodies: take.bodies.length, chunks: dropFrom(memory.store, begun).chunks };
	await onStart(id, name, take, begun);
	let saving: Promise<unknown> = Promise.resolve();
	/** Why the server takes no more frames of this run. */
	let refused: Refused | undefined;
	let telling: Promise<unknown> = Promise.resolve();
	return {
		add(chunk, checkpoint) {
			if (refused) throw refused;
			const bytes = encodeChunk(chunk);
			const hash = hashBytes(bytes);
			const state = checkpoint && encodeCheckpoint(checkpoint);
			const stateHash = state ? hashBytes(state) : null;
			show(withChunk(take, chunk, hash, stateHash, hashes));
			memory.store = addChunk(memory.store, chunk);
			telling = Promise.all([telling, onChunk(chunk, take)]);
			saving = saving.then(async () => {
				if (state) await putAsset(stateHash!, state);
				await send(
					`/api/takes/${id}/chunks/${chunk.firstFrame}?run=${run}&frames=${chunk.frames}&hash=${hash}${stateHash ? `&checkpoint=${stateHash}` : ""}`,
					"PUT",
					bytes as Uint8Array<ArrayBuffer>,
					"application/octet-stream",
				);
			});
			saving.catch((error) => {
				if (error instanceof Refused && error.status === 409) refused = error;
			});
		},
		async done() {
			await telling;
			try {
				await saving;
			} catch (error) {
				if (error === refused) throw error;
				throw new Error(`The frames are made, but could not be saved: ${(error as Error).message}. They stay until you leave the page.`);
			}
		},
	};
}

/** Bodies where a frame of the take on show has them, as the shot's start. */
export async function keepFrame(shot: Shot, frame: number, chosen: readonly string[]): Promise<KeptFrame> {
	if (!memory.take) throw new Error("There are no frames yet. Run the shot first.");
	const poses = posesAt(memory.store, frame);
	if (!poses) throw new Error(`Frame ${frame} is not stored.`);
	const { scene } = await sceneAside(memory.take.take.snapshot);
	const parted = await separate(scene, rapierEngine, poses, frame, DEEPEST, absentAt(scene, memory.store, frame));
	const kept = await keepPoses(shot, scene.ids, parted.poses, chosen);
	const crumbled = [...crumbledAt(memory.store).values()].filter((since) => since <= frame).length;
	return { ...kept, deepest: parted.deepest, crumbled };
}

/** Lets things fall until they rest or it is stopped, and gives where they lie. Nothing is stored but that. */
export async function settle(
	shot: Shot,
	picked: readonly string[],
	onProgress: RunEvents["onProgress"],
	onPoses: (ids: readonly string[], poses: Float32Array, frame: number) => void,
): Promise<KeptFrame> {
	const settled = settleShot(shot, picked);
	if (!settled.ok) throw new Error(settled.problems[0]!.message);
	const signal = begin("run");
	const progress = letMessagesIn(signal, onProgress);
	const { built, scene } = await sceneAside(settled.value, progress);
	if (built.problems.length > 0) throw new Error(built.problems[0]!.message);
	let last: { readonly poses: Float32Array; readonly frame: number } | undefined;
	const ids = scene.ids.slice(0, scene.shown);
	const watch = new RestWatch(signal);
	const size = 7 * scene.shown;
	await simulate(scene, rapierEngine, {
		...progress,
		signal: watch,
		onChunk: (chunk) => {
			last = { poses: chunk.poses.slice(-size), frame: chunk.firstFrame + chunk.frames - 1 };
			watch.see(chunk);
			onPoses(ids, last.poses, last.frame);
		},
	});
	if (!last) throw new Error("cancelled");
	const parted = await separate(scene, rapierEngine, last.poses, last.frame, DEEPEST);
	return { ...(await keepPoses(settled.value, scene.ids, parted.poses, [])), deepest: parted.deepest, rested: watch.rested };
}

/** What keeping poses does to the shot; the table of pieces and copies is stored. */
async function keepPoses(shot: Shot, ids: readonly string[], poses: Float32Array, chosen: readonly string[]): Promise<KeptFrame> {
	const { bodies, before } = await bodiesAndPlaces(shot);
	const made = keepPlaces(shot, bodies, ids, poses, before, chosen.length > 0 ? new Set(chosen) : undefined);
	const asset = made.places && (await keepAsset(encodePlaces(made.places)));
	return { edit: edit(shot, withPlaces(made.placed, asset)).edit, count: made.count, deepest: 0, rested: true, crumbled: 0 };
}

/** Keys from the take on show, on objects, pieces and copies of the shot. */
export async function keysFromTake(shot: Shot, picked: readonly string[], range: ExportRange, options: BakeOptions): Promise<KeysFromTake> {
	if (!memory.take || memory.store.chunks.length === 0) throw new Error("There are no frames to bake. Run the shot first.");
	const made = bakeKeys(shot, memory.take.take.bodies, memory.store, picked, range, options, memory.take.name);
	if (!made.ok) throw new Error(made.problems[0]!.message);
	const { command, ...facts } = made.value;
	return { ...facts, edit: edit(shot, command).edit };
}

/** What a file will come to: its size, its keys, and how far they are off. */
export async function forecast(order: FileOrder): Promise<BakeForecast> {
	const { writer, scene } = await exportScene(
		order,
		letMessagesIn(begin("bake"), () => undefined),
	);
	return { size: await forecastSize(scene, writer), error: scene.baked.error };
}

export async function bake(order: FileOrder, onProgress: (fraction: number, what: string) => void): Promise<BakedFile> {
	const progress = letMessagesIn(begin("bake"), onProgress);
	const { writer, scene } = await exportScene(order, progress);
	const bytes = await writeTake(writer, scene, progress);
	const own = bytes.slice() as Uint8Array<ArrayBuffer>;
	return transfer({ bytes: own, error: scene.baked.error, firstFrame: scene.firstFrame, lastFrame: scene.lastFrame }, [own.buffer]);
}

/** Colours are how things look now, not how they were when they ran. */
async function exportScene({ format, colouring, ...wish }: FileOrder, progress: Progress) {
	if (!memory.take || memory.store.chunks.length === 0) throw new Error("There are no frames to bake. Run the shot first.");
	const writer = TAKE_FORMATS.find(({ id }) => id === format);
	if (!writer) throw new Error(`There is no format “${format}”.`);
	const shot: Shot = { ...memory.take.take.snapshot, colouring };
	const bodies = await bodiesOfTake(shot);
	const lastFrame = Math.min(wish.range.lastFrame, lastStored(memory.store, shot.settings.firstFrame));
	const pictures = new Map<AssetRef, Uint8Array>();
	for (const asset of picturesOf(shot, bodies)) pictures.set(asset, await fetchBytes(assetUrl(asset)));
	await report(progress, 0, "Making keys");
	const scene = exportTake(
		{ shot, bodies, takeBodies: memory.take.take.bodies, store: memory.store, pictures },
		{ ...wish, range: { ...wish.range, lastFrame } },
	);
	await report(progress, 0, "Writing");
	return { writer, scene };
}

/** Events of all stored frames, one after the other. */
export const allEvents = (): FrameEvents | undefined => joinEvents(memory.store);

/** What the last run has left. */
export const storedFrames = (): FrameStore | undefined => (memory.store.chunks.length > 0 ? memory.store : undefined);
