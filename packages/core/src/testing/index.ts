import { readFileSync } from "node:fs";
import { buildBodies, makeWorkshop, type Workshop } from "../bodies";
import { addChunk, type Chunk, type FrameStore, isBreak, POSE_STRIDE, posesAt } from "../cache";
import { readPicture } from "../formats";
import type { Picture } from "../fracture";
import { fromTo, tripleAt, type Vec3, vec3 } from "../maths";
import { SAMPLES } from "../samples";
import {
	type AssetRef,
	addArray,
	addConnector,
	addObject,
	assetHash,
	type Command,
	connectorOf,
	edit,
	emptyShot,
	type Id,
	placeObject,
	type Shot,
	setBody,
} from "../shot";
import {
	type Checkpoint,
	decodeCheckpoint,
	encodeCheckpoint,
	makeScene,
	rapierEngine,
	type SimScene,
	type Stopwatch,
	simulate,
} from "../simulation";
import { loadSolids } from "../solid";

/** Helpers that the tests share: a shot from commands, a run of it, and where things were. */
export const shotOf = (...commands: readonly Command[]): Shot =>
	commands.reduce((shot, command) => edit(shot, command).shot, emptyShot("Test"));

export const shape = (
	id: Id,
	kind: string,
	parameters: Record<string, number>,
	translation: [number, number, number] = [0, 0, 0],
): Command => addObject({ id, name: id, source: { kind: "shape", shape: kind, parameters }, translation });

export const makeTestWorkshop = async (): Promise<Workshop> =>
	makeWorkshop(await loadSolids(), { loadAsset: noAssets, loadPicture: samplePicture });

/** Pictures that ship with the samples. */
async function samplePicture(asset: string): Promise<Picture> {
	const file = SAMPLES.map(({ pictures }) => pictures?.[assetHash(asset as AssetRef)]).find((name) => name !== undefined);
	const picture = file === undefined ? undefined : readPicture(new Uint8Array(readFileSync(`packages/core/pictures/${file}`)));
	if (!picture?.ok) throw new Error(`tests have no picture ${asset}`);
	return picture.value;
}

const noAssets = async (): Promise<never> => {
	throw new Error("tests have no assets");
};

export interface TestRun {
	readonly scene: SimScene;
	readonly store: FrameStore;
	readonly chunks: readonly Chunk[];
	/** World position of a body at a frame. */
	readonly at: (id: string, frame: number) => [number, number, number];
	/** m/s between two frames. */
	readonly speed: (id: string, frame: number) => [number, number, number];
}

async function sceneOf(shot: Shot): Promise<SimScene> {
	const workshop = await makeTestWorkshop();
	const built = await buildBodies(workshop, shot);
	if (built.problems.length > 0) throw new Error(built.problems[0]!.message);
	return makeScene(workshop, shot, built.bodies);
}

/** An engine in which nothing has moved yet and nothing is held, or that goes on from a snapshot. */
export async function startEngine(shot: Shot, snapshot?: Uint8Array) {
	const scene = await sceneOf(shot);
	const held = new Uint8Array(scene.count);
	return { scene, held, engine: await rapierEngine(scene, held, snapshot) };
}

/** A run to a frame in one go; one that stops at an earlier frame, and one that goes on from what is stored of that. */
export async function runInTwo(shot: Shot, stop: number, until: number) {
	const scene = await sceneOf(shot);
	const run = async (from: Checkpoint | undefined, last: number) => {
		let store: FrameStore = { bodies: scene.shown, chunks: [] };
		let end: Checkpoint | undefined;
		await simulate(scene, rapierEngine, {
			...(from && { from }),
			until: last,
			onChunk: (chunk, checkpoint) => {
				store = addChunk(store, chunk);
				end = checkpoint;
			},
		});
		return { store, end: decodeCheckpoint(encodeCheckpoint(end!)) };
	};
	const [whole, first] = [await run(undefined, until), await run(undefined, stop)];
	return { whole, first, rest: await run(first.end, until) };
}

export async function runShot(
	shot: Shot,
	until?: number,
	stopwatch?: Stopwatch,
	onCheckpoint?: (checkpoint: Checkpoint) => void,
): Promise<TestRun> {
	const scene = await sceneOf(shot);
	let store: FrameStore = { bodies: scene.shown, chunks: [] };
	await simulate(scene, rapierEngine, {
		...(until !== undefined && { until }),
		...(stopwatch && { stopwatch }),
		onChunk: (chunk, checkpoint) => {
			store = addChunk(store, chunk);
			if (checkpoint) onCheckpoint?.(checkpoint);
		},
	});
	const at = (id: string, frame: number): [number, number, number] => {
		const offset = scene.ids.indexOf(id) * POSE_STRIDE;
		const poses = posesAt(store, frame)!;
		return [poses[offset]!, poses[offset + 1]!, poses[offset + 2]!];
	};
	return {
		scene,
		store,
		chunks: store.chunks,
		at,
		speed: (id, frame) => {
			const [a, b] = [at(id, frame - 1), at(id, frame)];
			return [0, 1, 2].map((k) => (b[k]! - a[k]!) * shot.settings.fps) as [number, number, number];
		},
	};
}

/** A rope of so many pinned parts from one place to another, between two things: bodies `rope:0` and on. */
export function ropeOf(count: number, from: Vec3, to: Vec3, a: Id, b: Id): Command[] {
	const way = vec3.subtract(to, from);
	const pitch = vec3.length(way) / count;
	const first = vec3.mix(from, to, 0.5 / count);
	return [
		shape("part", "cylinder", { radius: 0.02, height: pitch }),
		addArray({
			id: "rope",
			name: "rope",
			source: {
				kind: "array",
				sources: ["part"],
				layout: "line",
				options: { count, stepX: 0, stepY: -pitch, stepZ: 0, turnX: 0, turnY: 0, turnZ: 0 },
			},
			translation: first,
		}),
		placeObject("rope", { rotation: fromTo([0, -1, 0], vec3.normalize(way)) }),
		setBody(["rope"], { kind: "active", collider: "capsule", density: 700 }),
		addConnector("c-pin", connectorOf("pin", { a, b, from: first, to: first, options: { between: "chain", on: "rope/*", collide: "no" } })),
	];
}

/** m/s of what is fastest between a frame and the one before. */
export const fastest = ({ scene, speed }: TestRun, frame: number): number =>
	scene.ids.reduce((most, id) => Math.max(most, vec3.length(speed(id, frame))), 0);

/** Bonds that broke: when, where, by what (`EventKind`), and what they tied. */
export const breaksOf = ({ scene, chunks }: TestRun): { frame: number; kind: number; a: string; b: string; place: Vec3 }[] =>
	chunks.flatMap(({ events }) =>
		[...events.kind].flatMap((kind, k) =>
			isBreak(kind)
				? [
						{
							frame: events.frame[k]!,
							kind,
							a: scene.paths[events.a[k]!]!,
							b: scene.paths[events.b[k]!]!,
							place: tripleAt(events.place, k),
						},
					]
				: [],
		),
	);
