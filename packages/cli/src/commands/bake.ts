import { join } from "node:path";
import type { BakeOptions } from "@rubble/core/bake";
import { type Body, buildBodies, matchesRule, parseRule, picturesOf, rowOf, ruleFacts } from "@rubble/core/bodies";
import { withCrumbs } from "@rubble/core/bonds";
import { lastStored } from "@rubble/core/cache";
import { exportTake, FILM_DEFAULTS, isSequence, sequenceFiles, TAKE_FORMATS, zipSequence } from "@rubble/core/formats";
import { radians } from "@rubble/core/maths";
import { assetHash, type Described, formatNumber, type Id, objectPath, optionProblem, type Shot } from "@rubble/core/shot";
import { type Command, Option } from "commander";
import { Failure, unwrap } from "../failure";
import { assetsIn, openWorkshop, readBytes, writeBytes } from "../files";
import { finiteNumber, frameRange, pictureSize, wholeNumber } from "../options";
import { terminalProgress } from "../progress";
import { assetFolder, openTake } from "../takeFolder";

interface Options {
	readonly format: string;
	readonly frames?: { first: number; last: number };
	readonly every?: number;
	readonly tolerance?: number;
	readonly degrees: number;
	readonly size: { readonly width: number; readonly height: number };
	readonly camera?: string;
	readonly only?: string;
	readonly out: string;
	/** Of the format. */
	readonly [choice: string]: unknown;
}

/** The options of all formats, each name once; the size of pictures has a flag of its own, which takes any. */
const { size: _, ...CHOICES } = Object.assign({}, ...TAKE_FORMATS.map((format) => format.options)) as Described["options"];

export function addBake(program: Command): void {
	const command = program
		.command("bake")
		.description("write a take's motion as keyframes")
		.argument("<take>", "a folder that `run` wrote")
		.addOption(new Option("--format <format>", "the kind of file").choices(TAKE_FORMATS.map((format) => format.id)).default("glb"))
		.option("--frames <range>", "the frames to write, such as 1-96; all that are stored by default", frameRange)
		.option("--every <frames>", "a key at every Nth frame", wholeNumber)
		.addOption(
			new Option("--tolerance <mm>", "as few keys as stay within this many millimetres").argParser(finiteNumber).conflicts("every"),
		)
		.option("--degrees <angle>", "the tolerance of rotations, with --tolerance", finiteNumber, 0.5)
		.addOption(new Option("--size <pixels>", "of pictures and videos").argParser(pictureSize).default(FILM_DEFAULTS, "1280x720"))
		.option("--camera <name>", "the camera that pictures and videos are taken through; the first one by default")
		.option("--only <rule>", "what to write, as a rule that the ledger knows; everything by default")
		.requiredOption("--out <path>", "the file to write; for a file per frame a folder, or a .zip")
		.action(run);
	for (const [name, spec] of Object.entries(CHOICES))
		if (spec.kind === "choice") command.addOption(new Option(`--${name} <word>`, spec.help).choices(spec.choices.map(({ id }) => id)));
}

async function run(folder: string, options: Options): Promise<void> {
	if (options.every !== undefined && options.every < 1) throw new Failure("--every needs 1 or more");
	if (options.tolerance !== undefined && !(options.tolerance > 0 && options.degrees > 0))
		throw new Failure("tolerances must be above zero");
	const format = TAKE_FORMATS.find(({ id }) => id === options.format)!;
	const formatOptions = Object.fromEntries(
		Object.keys(CHOICES).flatMap((name) => (options[name] === undefined ? [] : [[name, options[name] as string]])),
	);
	const wrong = optionProblem(format, formatOptions);
	if (wrong) throw new Failure(wrong);
	const { take, store } = await openTake(folder);
	const shot = take.snapshot;
	const progress = terminalProgress();
	const workshop = await openWorkshop(assetsIn(assetFolder(folder)));
	const built = await buildBodies(workshop, shot, progress);
	progress.done();
	if (built.problems.length > 0) throw new Failure(built.problems.map(({ message }) => message).join(" "));
	const stored = { firstFrame: shot.settings.firstFrame, lastFrame: lastStored(store, shot.settings.firstFrame) };
	if (stored.lastFrame < stored.firstFrame) throw new Failure("the take holds no frames");
	const range = options.frames ? { firstFrame: options.frames.first, lastFrame: options.frames.last } : stored;
	if (range.firstFrame < stored.firstFrame || range.lastFrame > stored.lastFrame)
		throw new Failure(`the take holds frames ${stored.firstFrame}–${stored.lastFrame}; --frames asks for others`);
	const way: BakeOptions =
		options.tolerance === undefined
			? { way: "every", frames: options.every ?? 1 }
			: { way: "reduced", position: options.tolerance / 1000, rotation: radians(options.degrees) };
	const pictures = new Map(
		picturesOf(shot, built.bodies).map((asset) => [asset, readBytes(join(assetFolder(folder), assetHash(asset)))] as const),
	);
	const bodies = await withCrumbs(workshop, shot, built.bodies, progress);
	const scene = exportTake(
		{ shot, bodies, takeBodies: take.bodies, store, pictures },
		{
			range,
			keys: way,
			only: options.only === undefined ? undefined : meantBy(options.only, shot, built.bodies),
			options: formatOptions,
			size: options.size,
			camera: options.camera === undefined ? undefined : cameraNamed(shot, options.camera),
		},
	);
	if (!isSequence(format)) writeBytes(options.out, await format.write(scene, progress));
	else if (options.out.endsWith(".zip")) writeBytes(options.out, await zipSequence(format, scene, progress));
	else for (const { name, bytes } of sequenceFiles(format, scene)) writeBytes(join(options.out, name), bytes);
	progress.done();
	const { error } = scene.baked;
	process.stdout.write(
		`${error.keys} keys instead of ${error.fullKeys}, off by at most ${formatNumber(error.position * 1000)} mm and ${formatNumber((error.rotation * 180) / Math.PI)}°\n`,
	);
}

function cameraNamed(shot: Shot, name: string): Id {
	const cameras = Object.keys(shot.objects).filter((id) => shot.objects[id]!.source.kind === "camera");
	const found = cameras.find((id) => objectPath(shot, id) === name);
	if (found) return found;
	const known = cameras.map((id) => `“${objectPath(shot, id)}”`).join(", ");
	throw new Failure(`the shot has no camera “${name}”${known ? `; it has ${known}` : ", nor any other"}`);
}

function meantBy(rule: string, shot: Shot, bodies: readonly Body[]): string[] {
	const parsed = unwrap(parseRule(rule));
	const meant = bodies.filter((body) => matchesRule(parsed, ruleFacts(shot, rowOf(body)))).map(({ id }) => id);
	if (meant.length === 0) throw new Failure(`--only ${rule} means nothing of the take`);
	return meant;
}
