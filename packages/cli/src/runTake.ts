import { type BuiltShot, buildBodies, type Workshop } from "@rubble/core/bodies";
import { EventKind, encodeChunk, isBreak } from "@rubble/core/cache";
import { hashBytes, type Progress } from "@rubble/core/common";
import type { Shot } from "@rubble/core/shot";
import {
	frameHashes,
	makeScene,
	makeTake,
	rapierEngine,
	type SimScene,
	simulate,
	type Take,
	takeHash,
	withChunk,
} from "@rubble/core/simulation";
import { Failure } from "./failure";
import { type Assets, writeBytes, writeJson } from "./files";
import { assetFolder, chunkFile, prepareFolder, takeFile } from "./takeFolder";

export interface RunSummary {
	readonly take: Take;
	readonly scene: SimScene;
	readonly built: BuiltShot;
	readonly hash: string;
	readonly frames: number;
	readonly milliseconds: number;
	readonly events: { readonly contacts: number; readonly wakes: number; readonly lost: number; readonly breaks: number };
}

export async function buildShot(workshop: Workshop, shot: Shot, progress: Progress): Promise<{ built: BuiltShot; scene: SimScene }> {
	const built = await buildBodies(workshop, shot, progress);
	if (built.problems.length > 0) throw new Failure(built.problems.map(({ message }) => message).join(" "));
	return { built, scene: await makeScene(workshop, shot, built.bodies, progress) };
}

/** Simulates a shot into a take folder. */
export async function runTake(
	name: string,
	shot: Shot,
	workshop: Workshop,
	assets: Assets,
	out: string,
	progress: Progress,
): Promise<RunSummary> {
	const { built, scene } = await buildShot(workshop, shot, progress);
	prepareFolder(out);
	const hashes = frameHashes(shot);
	let take = makeTake(name, shot, scene);
	const events = { contacts: 0, wakes: 0, lost: 0, breaks: 0 };
	const begin = performance.now();
	await simulate(scene, rapierEngine, {
		...progress,
		onChunk: (chunk) => {
			const bytes = encodeChunk(chunk);
			writeBytes(chunkFile(out, chunk.firstFrame), bytes);
			take = withChunk(take, chunk, hashBytes(bytes), null, hashes);
			events.contacts += chunk.contacts.reduce((sum, n) => sum + n, 0);
			events.wakes += chunk.events.kind.filter((kind) => kind === EventKind.Wake).length;
			events.breaks += chunk.events.kind.filter((kind) => isBreak(kind) || kind === EventKind.Parted).length;
			events.lost += chunk.events.kind.filter((kind) => kind === EventKind.Lost).length;
		},
	});
	const milliseconds = performance.now() - begin;
	writeJson(takeFile(out), take);
	assets.copyTo(assetFolder(out));
	const frames = shot.settings.lastFrame - shot.settings.firstFrame + 1;
	return { take, scene, built, hash: takeHash(take), frames, milliseconds, events };
}
