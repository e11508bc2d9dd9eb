import { existsSync } from "node:fs";
import { buildMesh, reportMesh, type Workshop } from "@rubble/core/bodies";
import type { FrameEvents, FrameStore } from "@rubble/core/cache";
import type { Shot } from "@rubble/core/shot";
import { type CheckContext, type Finding, findStartOverlaps, rapierEngine, runChecks, sunkAtEnd } from "@rubble/core/simulation";
import { joinEvents } from "@rubble/core/takes";
import type { Command } from "commander";
import { Failure } from "../failure";
import { assetsIn, openShot, openWorkshop } from "../files";
import { terminalProgress } from "../progress";
import { buildShot } from "../runTake";
import { assetFolder, openTake, takeFile } from "../takeFolder";

export function addCheck(program: Command): void {
	program
		.command("check")
		.description("say what looks wrong with a shot, or with how a take went; exit code 1 where something is an error")
		.argument("<shot or take>", "a shot.json, a folder, a shot file, or a folder that `run` wrote")
		.option("--json", "as JSON")
		.action(run);
}

async function run(path: string, { json }: { json?: boolean }): Promise<void> {
	const isTake = existsSync(takeFile(path));
	const taken = isTake ? await openTake(path) : undefined;
	const opened = taken ? { shot: taken.take.snapshot, workshop: await openWorkshop(assetsIn(assetFolder(path))) } : await openShot(path);
	const findings = await findAll(opened.shot, opened.workshop, taken?.store);
	if (json)
		process.stdout.write(
			`${JSON.stringify(
				findings.map(({ check, level, message, about }) => ({ check, level, message, about })),
				undefined,
				1,
			)}\n`,
		);
	else if (findings.length === 0) process.stdout.write("Nothing wrong found\n");
	else for (const { level, message } of findings) process.stdout.write(`${level.padEnd(8)} ${message}\n`);
	const errors = findings.filter(({ level }) => level === "error").length;
	if (errors > 0) throw new Failure(`${errors} ${errors === 1 ? "error" : "errors"} found`);
}

async function findAll(shot: Shot, workshop: Workshop, store: FrameStore | undefined): Promise<Finding[]> {
	const progress = terminalProgress();
	const { built, scene } = await buildShot(workshop, shot, progress);
	const reports = new Map();
	for (const object of Object.keys(shot.objects)) {
		const mesh = await buildMesh(workshop, shot, object);
		if (mesh.ok && mesh.value.triangles.length > 0) reports.set(object, reportMesh(workshop, shot, object, mesh.value));
	}
	const overlaps = scene.count > 0 ? await findStartOverlaps(scene, rapierEngine) : [];
	progress.done();
	const events: FrameEvents | undefined = store && joinEvents(store);
	const sunk = store && (await sunkAtEnd(scene, rapierEngine, store));
	const context: CheckContext = { shot, built, reports, scene, overlaps, sunk, events, run: store };
	return runChecks(context);
}
