import { createRequire } from "node:module";
import { dirname, join } from "node:path";
import { SAMPLES, samplePictures, sampleShot } from "@rubble/core/samples";
import type { Command } from "commander";
import { Failure } from "../failure";
import { readBytes, writeBytes, writeJson } from "../files";

export function addSample(program: Command): void {
	program
		.command("sample")
		.description("write a sample shot of Saltmarsh Harbour")
		.argument("[name]", "which one")
		.option("--list", "say which there are")
		.option("--out <file>", "where it goes", "shot.json")
		.action((name: string | undefined, options: { list?: boolean; out: string }) => {
			if (options.list || name === undefined) {
				process.stdout.write(`${SAMPLES.map(({ id, shot }) => `${id.padEnd(20)} ${shot.note}`).join("\n")}\n`);
				if (!options.list) throw new Failure("name one of these samples");
				return;
			}
			const shot = sampleShot(name);
			if (!shot) throw new Failure(`there is no sample “${name}”; --list says which there are`);
			writeJson(options.out, shot);
			for (const [hash, file] of Object.entries(samplePictures(name)))
				writeBytes(
					join(dirname(options.out), "assets", hash),
					readBytes(createRequire(import.meta.url).resolve(`@rubble/core/pictures/${file}`)),
				);
		});
}
