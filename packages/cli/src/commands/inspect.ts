import type { ImportChoices } from "@rubble/core/formats";
import { formatNumber, formatQuantity } from "@rubble/core/shot";
import { inspectMesh, loadSolids } from "@rubble/core/solid";
import type { Command } from "commander";
import { readMesh } from "../files";
import { unitOption, upOption } from "../options";

export function addInspect(program: Command): void {
	program
		.command("inspect")
		.description("say what a mesh file holds: triangles, shells, size, volume, faults")
		.argument("<file>", "OBJ, STL, PLY, GLB or glTF")
		.option("--json", "as JSON")
		.addOption(unitOption())
		.addOption(upOption())
		.action(async (file: string, options: ImportChoices & { json?: boolean }) => {
			const mesh = await readMesh(file, options);
			const report = inspectMesh(await loadSolids(), mesh);
			if (options.json) {
				process.stdout.write(`${JSON.stringify({ file, ...report, faults: report.faults.map(({ message }) => message) }, undefined, 1)}\n`);
				return;
			}
			const lines = [
				`triangles  ${formatNumber(report.triangles, 9)}`,
				`shells     ${report.shells}`,
				`size       ${report.size.map((s) => formatQuantity(s, "length")).join(" × ")}`,
				`area       ${formatQuantity(report.area, "area", 4)}`,
				report.closed ? `volume     ${formatQuantity(report.volume, "volume", 4)}` : "volume     none: not closed",
				...(report.faults.length === 0 ? ["faults     none"] : report.faults.map(({ message }) => `fault      ${message}`)),
			];
			process.stdout.write(`${lines.join("\n")}\n`);
		});
}
