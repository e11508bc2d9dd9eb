import { join } from "node:path";
import { fileStem } from "@rubble/core/formats";
import { formatShotNumber, parseValues, type SweepAxis, shotNumbers, sweep } from "@rubble/core/takes";
import { type Command, InvalidArgumentError } from "commander";
import { Failure, unwrap } from "../failure";
import { openShot, writeJson } from "../files";
import { terminalProgress } from "../progress";
import { runTake } from "../runTake";

interface Options {
	readonly set: readonly { readonly path: string; readonly text: string }[];
	readonly list?: boolean;
	readonly out?: string;
}

export function addSweep(program: Command): void {
	program
		.command("sweep")
		.description("simulate a shot with one or more of its numbers over values, a take for every combination")
		.argument("<shot>", "a shot.json, a folder that holds one, or a shot file")
		.option("--set <path=values>", "such as bonds/Concrete/factor=0.5,1,2 or settings/seed=1..5; may be given again", readSet, [])
		.option("--list", "say which numbers there are, and what they are")
		.option("--out <folder>", "where the takes go, a folder each")
		.action(run);
}

function readSet(text: string, before: Options["set"]): Options["set"] {
	const at = text.lastIndexOf("=");
	if (at < 1) throw new InvalidArgumentError("PATH=V1,V2,… is needed");
	return [...before, { path: text.slice(0, at), text: text.slice(at + 1) }];
}

async function run(file: string, { set, list, out }: Options): Promise<void> {
	const { shot, workshop, assets } = await openShot(file);
	const numbers = shotNumbers(shot);
	if (list) {
		for (const number of numbers) process.stdout.write(`${number.path.padEnd(48)} ${formatShotNumber(number, number.value)}\n`);
		return;
	}
	if (!out) throw new Failure("say with --out where the takes go");
	const axes: SweepAxis[] = set.map(({ path, text }) => ({
		path,
		values: unwrap(parseValues(text, numbers.find((number) => number.path === path)?.factor)),
	}));
	const variants = unwrap(sweep(shot, axes));
	const table: unknown[] = [];
	for (const [n, variant] of variants.entries()) {
		const folder = join(out, `${String(n + 1).padStart(3, "0")}-${fileStem(variant.name)}`);
		const progress = terminalProgress();
		const done = await runTake(variant.name, variant.shot, workshop, assets, folder, progress);
		progress.done();
		table.push({ take: folder, name: variant.name, changes: variant.changes, hash: done.hash, events: done.events });
		process.stdout.write(`${variant.name}: ${done.events.breaks} broken, ${done.events.lost} lost, hash ${done.hash.slice(0, 16)}\n`);
	}
	writeJson(join(out, "sweep.json"), table);
}
