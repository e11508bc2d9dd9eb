import { extname } from "node:path";
import type { Outcome } from "@rubble/core/common";
import { crackShape, type ExportItem, glb, type ImportChoices, readPicture, readSvg, stillScene, writeObj } from "@rubble/core/formats";
import {
	breakMesh,
	drawingToStrokes,
	FRACTURE_METHODS,
	type FractureMethod,
	insideOptions,
	methodById,
	type Picture,
	type Pieces,
	roughen,
} from "@rubble/core/fracture";
import { IDENTITY } from "@rubble/core/maths";
import { area, type Mesh, topology, triangleCount, volume } from "@rubble/core/mesh";
import { buildShape, shapeById } from "@rubble/core/shapes";
import { MATERIALS, type OptionSpec, type OptionValue, type OptionValues, optionDefaults } from "@rubble/core/shot";
import { loadSolids } from "@rubble/core/solid";
import { type Command, Option } from "commander";
import { Failure, unwrap } from "../failure";
import { readBytes, readMesh, writeBytes, writeJson } from "../files";
import { curvePoints, finiteNumber, unitOption, upOption, wholeNumber } from "../options";
import { terminalProgress } from "../progress";

interface Options extends ImportChoices {
	readonly method: string;
	readonly out?: string;
	readonly report?: string;
	/** Everything that methods describe, by the option's name; paths where it is more than a number or a word. */
	readonly [option: string]: unknown;
}

/** The command line says `--pieces` for what the bench labels “Pieces”. */
const flagOf = (option: string): string => ({ count: "pieces", cutters: "cutter", picture: "image" })[option] ?? option;

export function addBreak(program: Command): void {
	const command = program
		.command("break")
		.description("break a closed mesh into pieces (rubble methods lists every way and its options)")
		.argument("[file]", "OBJ, STL, PLY, GLB or glTF; a picture of --width and --thickness needs none")
		.addOption(new Option("--method <method>", "how").choices(FRACTURE_METHODS.map((method) => method.id)).default("voronoi"));
	for (const [name, spec] of describedOptions()) {
		const option = describedOption(name, spec);
		if (option) command.addOption(option);
	}
	command
		.option("--brick <size>", "masonry: length x height x depth in metres, such as 0.24x0.09x0.115")
		.option(
			"--thickness <metres>",
			"picture without a mesh: the wall's thickness; --width is its width, its height follows from the picture",
			finiteNumber,
		)
		.option("--out <file>", "where the pieces go: .glb, or .obj with one `o` a piece")
		.option("--report <file>", "where the report goes: JSON")
		.addOption(unitOption())
		.addOption(upOption())
		.action(run);
}

/** The options of all methods, each name once. */
const describedOptions = (): Map<string, OptionSpec> => new Map(FRACTURE_METHODS.flatMap((method) => Object.entries(method.options)));

function describedOption(name: string, spec: OptionSpec): Option | undefined {
	const flag = flagOf(name);
	switch (spec.kind) {
		case "number":
			return new Option(`--${flag} <number>`, spec.help).argParser(spec.whole ? wholeNumber : finiteNumber);
		case "choice":
			return new Option(`--${flag} <word>`, spec.help).choices(spec.choices.map(({ id }) => id));
		case "points":
			return new Option(`--${flag} <csv>`, "points from a file, one `x,y,z` a line, metres; cell N is line N");
		case "planes":
			return new Option(`--${flag} <csv>`, "cuts from a file, one `x,y,z,d` a line: direction, and distance along it in metres");
		case "picture":
			return new Option(`--${flag} <file>`, "a PNG or JPEG picture of masonry");
		case "strokes":
			return new Option(
				`--${flag} <file>`,
				"an SVG drawing laid over the broad face; or a CSV, one `x,y,z` a line, metres, an empty line begins the next one",
			);
		case "curve":
			return new Option(`--${flag} <points>`, `${spec.help}, as x:y,x:y with x in ${spec.across.unit}`).argParser(curvePoints);
		case "places":
			return undefined; // of a shot: a file has its points
		case "objects":
			return new Option(`--${flag} <mesh...>`, "mesh files that cut");
	}
}

async function run(file: string | undefined, options: Options): Promise<void> {
	const kind = options.out && extname(options.out).toLowerCase();
	if (kind && kind !== ".glb" && kind !== ".obj") throw new Failure(`pieces can be written as .glb or .obj, not “${kind}”`);
	const method = methodById(options.method)!;
	const read = file === undefined ? undefined : await readMesh(file, options);
	const cutters: Mesh[] = [];
	const pictures: Picture[] = [];
	const settings: Record<string, OptionValue> = {};
	for (const [name] of describedOptions()) {
		const value = options[flagOf(name)];
		// Without a mesh it is the width of the wall.
		if (value === undefined || (name === "width" && file === undefined)) continue;
		const spec = method.options[name];
		if (!spec)
			throw new Failure(`--${flagOf(name)} is no option of “${method.id}”; it has ${Object.keys(method.options).map(flagOf).join(", ")}`);
		if (spec.kind === "points") settings[name] = readTable(value as string, "x,y,z");
		else if (spec.kind === "planes") settings[name] = readTable(value as string, "x,y,z,d");
		else if (spec.kind === "strokes") settings[name] = readStrokes(value as string, read);
		else if (spec.kind === "picture") pictures.push(unwrap(readPicture(readBytes(value as string))));
		else if (spec.kind === "objects") for (const path of value as string[]) cutters.push(await readMesh(path, options));
		else settings[name] = value as OptionValue;
	}
	if (options.brick !== undefined) Object.assign(settings, brickSize(String(options.brick)));
	const mesh = read ?? wallOf(pictures[0], options);
	const progress = terminalProgress();
	const begin = performance.now();
	const result: Outcome<Pieces> = await breakMesh(await loadSolids(), mesh, method, settings, { ...progress, cutters, pictures });
	const ms = performance.now() - begin;
	progress.done();
	const broken = unwrap(result);
	const name = (file ?? "Wall").replace(/^.*[/\\]/, "").replace(/\.[^.]*$/, "") || "Object";
	if (options.out) writeBytes(options.out, await piecesFile(name, method, settings, broken, kind === ".glb" ? "glb" : "obj"));
	if (options.report) writeJson(options.report, report(mesh, name, method.id, broken, ms));
	if (process.stdout.isTTY || !options.report)
		process.stdout.write(`${broken.pieces.length} pieces, lacking ${broken.lacking.toExponential(2)} m³, ${Math.round(ms)} ms\n`);
}

function brickSize(text: string): Record<string, number> {
	const [length, height, depth = 0] = text.split("x").map(Number);
	if (![length, height, depth].every((value) => Number.isFinite(value)))
		throw new Failure(`--brick ${text} should say length x height x depth, such as 0.24x0.09x0.115`);
	return { length: length!, height: height!, depth };
}

/** An upright wall in the shape of a picture. */
function wallOf(picture: Picture | undefined, { width, thickness }: Options): Mesh {
	if (!picture || typeof width !== "number" || typeof thickness !== "number")
		throw new Failure("name a mesh file, or an --image with the --width and --thickness of the wall");
	return buildShape(shapeById("panel")!, { width, height: (width * picture.height) / picture.width, thickness });
}

/** Numbers from a file, one row a line. */
const readTable = (path: string, columns: string): number[] =>
	new TextDecoder()
		.decode(readBytes(path))
		.split("\n")
		.flatMap((line, i) => (line.trim() === "" ? [] : readRow(line, i, path, columns)));

function readRow(line: string, index: number, path: string, columns: string): number[] {
	const values = line.split(",").map((text) => (text.trim() === "" ? Number.NaN : Number(text)));
	if (values.length !== columns.split(",").length || values.some((value) => !Number.isFinite(value)))
		throw new Failure(`line ${index + 1} of “${path}” should hold ${columns} in metres, but says “${line.trim().slice(0, 60)}”`);
	return values;
}

/** An SVG drawing over the mesh, or lines of points parted by empty lines. */
function readStrokes(path: string, mesh: Mesh | undefined): number[][] {
	if (extname(path).toLowerCase() === ".svg") {
		if (!mesh) throw new Failure("name the mesh file that the drawing is laid over");
		return drawingToStrokes(mesh, unwrap(readSvg(readBytes(path))));
	}
	const strokes: number[][] = [];
	let open = false;
	for (const [i, line] of new TextDecoder().decode(readBytes(path)).split("\n").entries()) {
		if (line.trim() === "") {
			open = false;
			continue;
		}
		if (!open) strokes.push([]);
		open = true;
		strokes[strokes.length - 1]!.push(...readRow(line, i, path, "x,y,z"));
	}
	return strokes;
}

async function piecesFile(
	name: string,
	method: FractureMethod,
	settings: OptionValues,
	{ pieces }: Pieces,
	kind: "glb" | "obj",
): Promise<Uint8Array> {
	const outside = MATERIALS.concrete!;
	const inside = insideOptions(settings);
	const time = method.crack?.({ ...optionDefaults(method), ...settings });
	const items = pieces.map(
		(piece): ExportItem => ({
			path: `${name}/${piece.name}`,
			group: name,
			mesh: piece.opening ? piece.mesh : roughen(piece.mesh, inside, { offset: piece.pivot, turn: IDENTITY }),
			changing: piece.opening && time && crackShape(piece.mesh, piece.opening, time, 1),
			outside,
			inside: MATERIALS[outside.inside!]!,
			translation: piece.pivot,
			rotation: IDENTITY,
			scale: 1,
			track: -1,
		}),
	);
	return kind === "obj" ? writeObj(items) : glb.write(stillScene(name, items), {});
}

function report(mesh: Mesh, name: string, method: string, { pieces, contacts, sourceVolume, lacking }: Pieces, ms: number) {
	return {
		input: { volume: volume(mesh), area: area(mesh), closed: topology(mesh).closed, triangles: triangleCount(mesh) },
		pieces: pieces.map((piece) => ({
			name: `${name}/${piece.name}`,
			parent: name,
			method,
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
