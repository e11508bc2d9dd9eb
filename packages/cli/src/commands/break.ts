import { extname } from "node:path";
import type { Outcome } from "@rubble/core/common";
import { type ExportItem, glb, type ImportChoices, writeObj } from "@rubble/core/formats";
import { FRACTURE_METHODS, methodById, optionDefaults, optionProblem, type Pieces } from "@rubble/core/fracture";
import { area, type Mesh, topology, triangleCount, volume } from "@rubble/core/mesh";
import { MATERIALS } from "@rubble/core/shot";
import { loadSolids } from "@rubble/core/solid";
import { type Command, Option } from "commander";
import { Failure, unwrap } from "../failure";
import { readBytes, readMesh, writeBytes, writeJson } from "../files";
import { finiteNumber, unitOption, upOption, wholeNumber } from "../options";
import { terminalProgress } from "../progress";

interface Options extends ImportChoices {
	readonly method: string;
	readonly pieces?: number;
	readonly seed?: number;
	readonly spread?: string;
	readonly gap?: number;
	readonly points?: string;
	readonly out?: string;
	readonly report?: string;
}

export function addBreak(program: Command): void {
	program
		.command("break")
		.description("break a closed mesh into pieces")
		.argument("<file>", "OBJ, STL, PLY, GLB or glTF")
		.addOption(new Option("--method <method>", "how").choices(FRACTURE_METHODS.map((method) => method.id)).default("voronoi"))
		.option("--pieces <count>", "how many pieces", wholeNumber)
		.option("--seed <number>", "another number gives another break", wholeNumber)
		.addOption(new Option("--spread <spread>", "how points are spread").choices(["even", "random"]))
		.option("--gap <metres>", "room between neighbours", finiteNumber)
		.option("--points <csv>", "points from a file, one `x,y,z` a line, metres; cell N is line N")
		.option("--out <file>", "where the pieces go: .glb, or .obj with one `o` a piece")
		.option("--report <file>", "where the report goes: JSON")
		.addOption(unitOption())
		.addOption(upOption())
		.action(run);
}

async function run(file: string, options: Options): Promise<void> {
	const kind = options.out && extname(options.out).toLowerCase();
	if (kind && kind !== ".glb" && kind !== ".obj") throw new Failure(`pieces can be written as .glb or .obj, not “${kind}”`);
	const mesh = await readMesh(file, options);
	const method = methodById(options.method)!;
	const settings = {
		...optionDefaults(method),
		...(options.pieces !== undefined && { count: options.pieces }),
		...(options.seed !== undefined && { seed: options.seed }),
		...(options.spread !== undefined && { spread: options.spread }),
		...(options.gap !== undefined && { gap: options.gap }),
		...(options.points !== undefined && { points: readPoints(options.points) }),
	};
	const problem = optionProblem(method, settings);
	if (problem) throw new Failure(problem);
	const progress = terminalProgress();
	const begin = performance.now();
	const result: Outcome<Pieces> = await method.run(await loadSolids(), mesh, settings, progress);
	const ms = performance.now() - begin;
	progress.done();
	const broken = unwrap(result);
	const name = file.replace(/^.*[/\\]/, "").replace(/\.[^.]*$/, "") || "Object";
	if (options.out) writeBytes(options.out, await piecesFile(name, broken, kind === ".glb" ? "glb" : "obj"));
	if (options.report) writeJson(options.report, report(mesh, name, broken, ms));
	if (process.stdout.isTTY || !options.report)
		process.stdout.write(`${broken.pieces.length} pieces, lacking ${broken.lacking.toExponential(2)} m³, ${Math.round(ms)} ms\n`);
}

function readPoints(path: string): number[] {
	const lines = new TextDecoder().decode(readBytes(path)).split("\n");
	return lines.flatMap((line, i) => {
		if (line.trim() === "") return [];
		const values = line.split(",").map((text) => (text.trim() === "" ? Number.NaN : Number(text)));
		if (values.length !== 3 || values.some((value) => !Number.isFinite(value)))
			throw new Failure(`line ${i + 1} of “${path}” should hold x,y,z in metres, but says “${line.trim().slice(0, 60)}”`);
		return values;
	});
}

async function piecesFile(name: string, { pieces }: Pieces, kind: "glb" | "obj"): Promise<Uint8Array> {
	const outside = MATERIALS.concrete!;
	const items = pieces.map(
		(piece): ExportItem => ({
			path: `${name}/${piece.name}`,
			group: name,
			mesh: piece.mesh,
			outside,
			inside: MATERIALS[outside.inside!]!,
			translation: piece.pivot,
			rotation: [0, 0, 0, 1],
			track: -1,
		}),
	);
	return kind === "obj" ? writeObj(items) : glb.write({ name, fps: 24, firstFrame: 1, items });
}

function report(mesh: Mesh, name: string, { pieces, contacts, sourceVolume, lacking }: Pieces, ms: number) {
	return {
		input: { volume: volume(mesh), area: area(mesh), closed: topology(mesh).closed, triangles: triangleCount(mesh) },
		pieces: pieces.map((piece) => ({
			name: `${name}/${piece.name}`,
			volume: piece.volume,
			area: piece.area,
			centroid: piece.pivot,
			triangles: triangleCount(piece.mesh),
		})),
		contacts: contacts.map(({ a, b, area: shared, normal, centre }) => ({
			a: `${name}/${pieces[a]!.name}`,
			b: `${name}/${pieces[b]!.name}`,
			area: shared,
			normal,
			centre,
		})),
		volumeError: lacking / sourceVolume,
		ms,
	};
}
