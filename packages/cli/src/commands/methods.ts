import { FRACTURE_METHODS } from "@rubble/core/fracture";
import type { OptionSpec } from "@rubble/core/shot";
import type { Command } from "commander";

export function addMethods(program: Command): void {
	program
		.command("methods")
		.description("list every way to break, with its options, their units and defaults")
		.option("--json", "as JSON")
		.action(({ json }: { json?: boolean }) => {
			if (json)
				process.stdout.write(
					`${JSON.stringify(
						FRACTURE_METHODS.map(({ id, label, help, options }) => ({ id, label, help, options })),
						undefined,
						"\t",
					)}\n`,
				);
			else process.stdout.write(FRACTURE_METHODS.map(describe).join("\n"));
		});
}

const describe = ({ id, label, help, options }: (typeof FRACTURE_METHODS)[number]): string =>
	[
		`${id}  ${label}. ${help}`,
		...Object.entries(options).map(([name, spec]) => `  ${name.padEnd(12)}${summary(spec).padEnd(34)}${spec.help}`),
		"",
	].join("\n");

function summary(spec: OptionSpec): string {
	switch (spec.kind) {
		case "number":
			return `${spec.least}–${spec.most}${spec.unit && ` ${spec.unit}`} (${spec.default})`;
		case "choice":
			return `${spec.choices.map(({ id }) => id).join("|")} (${spec.default})`;
		case "points":
			return "x,y,z a line, m";
		case "planes":
			return "x,y,z,d a line, m";
		case "strokes":
			return "x,y,z a line, m";
		case "picture":
			return "PNG or JPEG";
		case "objects":
			return "mesh files";
		case "rule":
			return "a rule";
		case "places":
			return "objects of a shot";
		case "curve":
			return `${spec.across.unit}:share, … (${spec.default.join(",")})`;
	}
}
