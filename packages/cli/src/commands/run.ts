import { runChecks } from "@rubble/core/simulation";
import type { Command } from "commander";
import { Failure } from "../failure";
import { openShot, writeJson } from "../files";
import { frameRange } from "../options";
import { terminalProgress } from "../progress";
import { runTake } from "../runTake";

interface Options {
	readonly frames?: { first: number; last: number };
	readonly out: string;
	readonly report?: string;
}

export function addRun(program: Command): void {
	program
		.command("run")
		.description("simulate a shot and store the take")
		.argument("<shot>", "a shot.json, a folder that holds one, or a shot file")
		.option("--frames <range>", "the frames to make, such as 1-120; they begin where the shot does", frameRange)
		.requiredOption("--out <take>", "the folder the take is written to")
		.option("--report <file>", "where the report goes: JSON")
		.action(run);
}

async function run(file: string, { frames, out, report }: Options): Promise<void> {
	const opened = await openShot(file);
	let { shot } = opened;
	if (frames) {
		if (frames.first !== shot.settings.firstFrame)
			throw new Failure(`the shot begins at frame ${shot.settings.firstFrame}; a run cannot begin at ${frames.first}`);
		shot = { ...shot, settings: { ...shot.settings, lastFrame: frames.last } };
	}
	const progress = terminalProgress();
	const done = await runTake("Take 1", shot, opened.workshop, opened.assets, out, progress);
	progress.done();
	const { built, scene, hash, events } = done;
	const msPerFrame = done.milliseconds / done.frames;
	if (report)
		writeJson(report, {
			frames: done.frames,
			bodies: scene.shown,
			msPerFrame,
			hash,
			events,
			checks: runChecks({ shot, built, reports: new Map(), scene }).map(({ check, level, message }) => ({ check, level, message })),
		});
	else
		process.stdout.write(`${done.frames} frames, ${scene.count} bodies, ${msPerFrame.toFixed(1)} ms a frame, hash ${hash.slice(0, 16)}\n`);
}
