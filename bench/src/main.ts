// `npm run bench [-- NAME …]`: each row in a process of its own; prints tables for docs/performance.md.
import { spawnSync } from "node:child_process";
import { fileURLToPath } from "node:url";
import { bonds } from "./bonds";
import { cache } from "./cache";
import { copies } from "./copies";
import { files } from "./files";
import { forces, parts } from "./forces";
import { fracture, methods } from "./fracture";
import { frameApply } from "./frameApply";
import { kills } from "./kills";
import { load } from "./load";
import { meshes } from "./meshes";
import { native } from "./native";
import { pour } from "./pour";
import { steps } from "./steps";
import type { Bench } from "./types";

/** A new one is a file beside this and a line here. */
const BENCHES: readonly Bench[] = [
	fracture,
	methods,
	meshes,
	copies,
	pour,
	steps,
	native,
	bonds,
	forces,
	parts,
	frameApply,
	cache,
	files,
	kills,
	load,
];

const round = (value: number): string =>
	Math.abs(value) >= 100 ? Math.round(value).toLocaleString("en") : Number(value.toPrecision(3)).toString();

async function runRow(benchId: string, name: string): Promise<void> {
	const row = BENCHES.find(({ id }) => id === benchId)?.rows.find((other) => other.name === name);
	if (!row) throw new Error(`There is no row “${name}” in “${benchId}”.`);
	const figures = await row.run();
	process.stdout.write(`${JSON.stringify({ ...figures, "peak MB": process.resourceUsage().maxRSS / 1024 })}\n`);
}

function runBench({ id, title, rows }: Bench): void {
	process.stdout.write(`\n### ${title}\n\n`);
	let columns: string[] | undefined;
	for (const { name } of rows) {
		const { stdout, status } = spawnSync(process.execPath, ["--import", "tsx", fileURLToPath(import.meta.url), "--row", id, name], {
			encoding: "utf8",
			stdio: ["ignore", "pipe", "inherit"],
		});
		const figures = status === 0 ? (JSON.parse(stdout.trim().split("\n").at(-1)!) as Record<string, number>) : {};
		if (!columns) {
			columns = Object.keys(figures);
			process.stdout.write(`| | ${columns.join(" | ")} |\n|${"---|".repeat(columns.length + 1)}\n`);
		}
		process.stdout.write(
			`| ${name} | ${columns.map((column) => (figures[column] === undefined ? "failed" : round(figures[column]))).join(" | ")} |\n`,
		);
	}
}

const words = process.argv.slice(2);
if (words[0] === "--row") await runRow(words[1]!, words[2]!);
else {
	const unknown = words.filter((word) => !BENCHES.some(({ id }) => id === word));
	if (unknown.length > 0) {
		process.stderr.write(`There is no bench “${unknown[0]}”; there are ${BENCHES.map(({ id }) => id).join(", ")}.\n`);
		process.exit(2);
	}
	for (const bench of BENCHES) if (words.length === 0 || words.includes(bench.id)) runBench(bench);
}
