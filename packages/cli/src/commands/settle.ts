import { dirname, join } from "node:path";
import { encodePlaces, keepPlaces, keptPlaces, withPlaces } from "@rubble/core/bodies";
import { hashBytes } from "@rubble/core/common";
import { assetRef, edit, formatQuantity, objectPath } from "@rubble/core/shot";
import { rapierEngine, separate, simulate } from "@rubble/core/simulation";
import { DEEPEST, physicsOff, RestWatch, settleShot } from "@rubble/core/takes";
import type { Command } from "commander";
import { Failure, unwrap } from "../failure";
import { openShot, writeBytes, writeJson } from "../files";
import { terminalProgress } from "../progress";
import { buildShot } from "../runTake";

export function addSettle(program: Command): void {
	program
		.command("settle")
		.description("let things fall until they rest, keep the places, and take physics off them")
		.argument("<shot>", "a shot.json, a folder that holds one, or a shot file")
		.option("--pick <names...>", "objects that fall, by name; everything else holds still. All that is active by default")
		.requiredOption("--out <file>", "the shot.json to write; assets go beside it")
		.action(run);
}

async function run(file: string, { pick, out }: { pick?: readonly string[]; out: string }): Promise<void> {
	const { shot, workshop, assets } = await openShot(file);
	const picked = (pick ?? []).map((name) => {
		const found = Object.keys(shot.objects).find((id) => objectPath(shot, id) === name);
		if (!found) throw new Failure(`the shot has no object “${name}”`);
		return found;
	});
	const settled = unwrap(settleShot(shot, picked));
	const progress = terminalProgress();
	const { built, scene } = await buildShot(workshop, settled, progress);
	const watch = new RestWatch();
	let last: { readonly poses: Float32Array; readonly frame: number } | undefined;
	await simulate(scene, rapierEngine, {
		...progress,
		signal: watch,
		onChunk: (chunk) => {
			last = { poses: chunk.poses.slice(-7 * scene.shown), frame: chunk.firstFrame + chunk.frames - 1 };
			watch.see(chunk);
		},
	});
	progress.done();
	const parted = await separate(scene, rapierEngine, last!.poses, last!.frame, DEEPEST);
	const before = unwrap(await keptPlaces(workshop, shot));
	const kept = keepPlaces(settled, built.bodies, scene.ids, parted.poses, before);
	const folder = join(dirname(out), "assets");
	assets.copyTo(folder);
	const bytes = kept.places && encodePlaces(kept.places);
	const asset = bytes && assetRef(hashBytes(bytes));
	if (bytes) writeBytes(join(folder, hashBytes(bytes)), bytes);
	if (asset && kept.places) workshop.places.set(asset, kept.places);
	const change = edit(settled, withPlaces(kept.placed, asset)).shot;
	// Where things are is taken over; what they were before settling stays.
	const placed = { ...shot, objects: change.objects, keptPlaces: change.keptPlaces };
	writeJson(out, edit(placed, physicsOff(placed, built.bodies)).shot);
	process.stdout.write(
		`${kept.count} kept ${watch.aborted ? "at rest" : "as they were when the time was up"}, ${parted.deepest <= DEEPEST ? `no overlap over ${formatQuantity(DEEPEST, "length", 1)}` : `the deepest overlap is ${formatQuantity(parted.deepest, "length")}`}\n`,
	);
}
