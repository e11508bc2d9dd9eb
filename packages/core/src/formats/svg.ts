import { XMLParser, XMLValidator } from "fast-xml-parser";
import svgpath from "svgpath";
import { bad, good, type Outcome } from "../common";
import type { Drawing } from "../fracture";

/** Points that a curve becomes. */
const STEPS = 12;
const MOST_LINES = 5000;

type Point = readonly [number, number];
/** An element as the parser gives it: its children under its name, its attributes under `:@`. */
type Node = Readonly<Record<string, unknown>>;
type Attributes = Readonly<Record<string, string>>;

/**
 * Reads the lines of an SVG drawing: paths, lines, polylines, polygons and rectangles as they run, circles and ellipses
 * as dots in their middles. Groups and transforms are followed; texts, pictures and styles are passed over.
 */
export function readSvg(bytes: Uint8Array): Outcome<Drawing> {
	const text = new TextDecoder().decode(bytes);
	const valid = XMLValidator.validate(text);
	if (valid !== true) return bad(`The drawing is damaged at line ${valid.err.line}: ${valid.err.msg}`);
	const nodes = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: "", preserveOrder: true }).parse(text) as Node[];
	const root = nodes.find((node) => node.svg !== undefined);
	if (!root) return bad("This is no SVG drawing.");
	const sheet = sheetOf(attributesOf(root));
	if (!sheet) return bad("The drawing says neither its viewBox nor its width and height.");
	const lines: Point[][] = [];
	try {
		visit(root.svg as Node[], "", lines);
	} catch (error) {
		return bad(`The drawing has a path that cannot be read: ${error instanceof Error ? error.message : error}`);
	}
	if (lines.length === 0) return bad("The drawing has no lines. Draw paths, lines or circles.");
	if (lines.length > MOST_LINES)
		return bad(`The drawing has ${lines.length.toLocaleString("en")} lines; the most is ${MOST_LINES.toLocaleString("en")}.`);
	return good({ ...sheet, lines });
}

const attributesOf = (node: Node): Attributes => (node[":@"] ?? {}) as Attributes;

function sheetOf({ viewBox, width, height }: Attributes): Omit<Drawing, "lines"> | undefined {
	const box = viewBox
		?.trim()
		.split(/[\s,]+/)
		.map(Number) ?? [0, 0, Number.parseFloat(width ?? ""), Number.parseFloat(height ?? "")];
	const [x, y, w, h] = box as [number, number, number, number];
	return box.length === 4 && box.every(Number.isFinite) && w > 0 && h > 0 ? { x, y, width: w, height: h } : undefined;
}

function visit(nodes: readonly Node[], outer: string, lines: Point[][]): void {
	for (const node of nodes) {
		const name = Object.keys(node).find((key) => key !== ":@");
		if (!name || name === "defs") continue;
		const attributes = attributesOf(node);
		const transform = `${outer} ${attributes.transform ?? ""}`.trim();
		const d = pathOf(name, attributes);
		if (d !== undefined) {
			const found = flatten(svgpath(d).transform(transform));
			lines.push(...(name === "circle" || name === "ellipse" ? found.map((line) => [line[0]!]) : found));
		}
		const children = node[name];
		if (Array.isArray(children)) visit(children as Node[], transform, lines);
	}
}

/** The element as a path; a circle is its middle. */
function pathOf(name: string, a: Attributes): string | undefined {
	switch (name) {
		case "path":
			return a.d;
		case "line":
			return `M${a.x1 ?? 0} ${a.y1 ?? 0}L${a.x2 ?? 0} ${a.y2 ?? 0}`;
		case "polyline":
			return `M${a.points ?? ""}`;
		case "polygon":
			return `M${a.points ?? ""}Z`;
		case "rect":
			return `M${a.x ?? 0} ${a.y ?? 0}h${a.width ?? 0}v${a.height ?? 0}h-${a.width ?? 0}Z`;
		case "circle":
		case "ellipse":
			return `M${a.cx ?? 0} ${a.cy ?? 0}h0`;
		default:
			return undefined;
	}
}

function flatten(path: ReturnType<typeof svgpath>): Point[][] {
	const lines: Point[][] = [];
	let line: Point[] = [];
	const problem = (path as unknown as { err?: string }).err;
	if (problem) throw new Error(problem);
	path
		.abs()
		.unarc()
		.unshort()
		.iterate(([command, ...numbers], _, x, y) => {
			const n = numbers as number[];
			const from: Point = [x, y];
			switch (command) {
				case "M":
					line = [[n[0]!, n[1]!]];
					lines.push(line);
					break;
				case "L":
					line.push([n[0]!, n[1]!]);
					break;
				case "H":
					line.push([n[0]!, y]);
					break;
				case "V":
					line.push([x, n[0]!]);
					break;
				case "C":
					line.push(...curve([from, [n[0]!, n[1]!], [n[2]!, n[3]!], [n[4]!, n[5]!]]));
					break;
				case "Q":
					line.push(...curve([from, [n[0]!, n[1]!], [n[2]!, n[3]!]]));
					break;
				case "Z":
					if (line.length > 0) line.push(line[0]!);
					break;
			}
		});
	return lines.filter((points) => points.length > 0 && points.flat().every(Number.isFinite));
}

/** Points of a Bézier curve after its first, by de Casteljau's halving of the polygon. */
function curve(polygon: readonly Point[]): Point[] {
	return Array.from({ length: STEPS }, (_, i) => {
		const t = (i + 1) / STEPS;
		let points = polygon;
		while (points.length > 1)
			points = points
				.slice(1)
				.map((q, k): Point => [points[k]![0] + t * (q[0] - points[k]![0]), points[k]![1] + t * (q[1] - points[k]![1])]);
		return points[0]!;
	});
}
