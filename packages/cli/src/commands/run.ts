import { dirname, join } from "node:path";
import { buildBodies } from "@rubble/core/bodies";
import { EventKind, encodeChunk, isBreak } from "@rubble/core/cache";
import { hashBytes } from "@rubble/core/common";
import { frameHashes, makeScene, makeTake, rapierEngine, runChecks, simulate, takeHash, withChunk } from "@rubble/core/simulation";
import type { Command } from "commander";
import { Failure } from "../failure";
import { isFolder, openShot, writeBytes, writeJson } from "../files";
import { frameRange } from "../options";
import { terminalProgress } from "../progress";
import { chunkFile, copyAssets, prepareFolder, takeFile } from "../takeFolder";

interface Options {
	readonly frames?: { first: number; last: number };
	readonly out: string;
	readonly report?: string;
}

export function addRun(program: Command): void {
	program
		.command("run")
		.description("simulate a shot and store the take")
		.argument("<shot>", "a shot.json, or a folder that holds one")
		.option("--frames <range>", "the frames to make, such as 1-120; they begin where the shot does", frameRange)
		.requiredOption("--out <take>", "the folder the take is written to")
		.option("--report <file>", "where the report goes: JSON")
		.action(run);
}

async function run(file: string, { frames, out, report }: Options): Promise<void> {
	const opened = await openShot(file);
	const { workshop } = opened;
	let { shot } = opened;
	if (frames) {
		if (frames.first !== shot.settings.firstFrame)
			throw new Failure(`the shot begins at frame ${shot.settings.firstFrame}; a run cannot begin at ${frames.first}`);
		shot = { ...shot, settings: { ...shot.settings, lastFrame: frames.last } };
	}
	const progress = terminalProgress();
	const built = await buildBodies(workshop, shot, progress);
	if (built.problems.length > 0) throw new Failure(built.problems.map(({ message }) => message).join(" "));
	const scene = await makeScene(workshop, shot, built.bodies, progress);
	prepareFolder(out);
	const hashes = frameHashes(shot);
	let take = makeTake("Take 1", shot, scene);
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
	const ms = performance.now() - begin;
	progress.done();
	writeJson(takeFile(out), take);
	copyAssets(join(isFolder(file) ? file : dirname(file), "assets"), out);
	const count = shot.settings.lastFrame - shot.settings.firstFrame + 1;
	const summary = {
		frames: count,
		bodies: scene.count,
		msPerFrame: ms / count,
		hash: takeHash(take),
		events,
		checks: runChecks({ shot, built, reports: new Map(), scene }).map(({ check, level, message }) => ({ check, level, message })),
	};
	if (report) writeJson(report, summary);
	else
		process.stdout.write(
			`${count} frames, ${scene.count} bodies, ${(ms / count).toFixed(1)} ms a frame, hash ${summary.hash.slice(0, 16)}\n`,
		);
}
