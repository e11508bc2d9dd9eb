import { XMLParser, XMLValidator } from "fast-xml-parser";
import svgpath from "svgpath";
import { bad, good, type Outcome } from "../common";
import type { Drawing } from "../fracture";

/** Points that a curve becomes. */
const STEPS = 12;
const MOST_LINES = 5000;
const MOST_BYTES = 8 * 1024 * 1024;
/** Characters of all paths together: half a million segments. */
const MOST_PATH = 2_000_000;
/** Groups in each other. */
const MOST_DEPTH = 100;

/** What is wrong with a drawing, in words of our own. */
class DrawingError extends Error {}

type Point = readonly [number, number];
/** An element as the parser gives it: its children under its name, its attributes under `:@`. */
type Node = Readonly<Record<string, unknown>>;
type Attributes = Readonly<Record<string, string>>;

/**
 * Reads the lines of an SVG drawing: paths, lines, polylines, polygons and rectangles as they run, circles and ellipses
 * as dots in their middles. Groups and transforms are followed; texts, pictures and styles are passed over.
 */
export function readSvg(bytes: Uint8Array): Outcome<Drawing> {
	if (bytes.length > MOST_BYTES)
		return bad(`The drawing is ${Math.ceil(bytes.length / 1048576)} MB; up to ${MOST_BYTES / 1048576} MB can be read.`);
	try {
		return drawingIn(new TextDecoder().decode(bytes));
	} catch (error) {
		return bad(error instanceof DrawingError ? error.message : "The drawing is damaged and cannot be read. Save it again as SVG.");
	}
}

function drawingIn(text: string): Outcome<Drawing> {
	const valid = XMLValidator.validate(text);
	if (valid !== true) return bad(`The drawing is damaged at line ${valid.err.line}: what stands there is no XML. Save it again as SVG.`);
	const nodes = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: "", preserveOrder: true, processEntities: false }).parse(
		text,
	) as Node[];
	const root = nodes.find((node) => node.svg !== undefined);
	if (!root) return bad("This is no SVG drawing.");
	const sheet = sheetOf(attributesOf(root));
	if (!sheet) return bad("The drawing says neither its viewBox nor its width and height.");
	const lines: Point[][] = [];
	visit(root.svg as Node[], "", lines, { path: 0, depth: 0 });
	if (lines.length === 0) return bad("The drawing has no lines. Draw paths, lines or circles.");
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

function visit(nodes: readonly Node[], outer: string, lines: Point[][], spent: { path: number; readonly depth: number }): void {
	if (spent.depth > MOST_DEPTH) throw new DrawingError(`The drawing has groups more than ${MOST_DEPTH} deep in each other.`);
	for (const node of nodes) {
		const name = Object.keys(node).find((key) => key !== ":@");
		if (!name || name === "defs") continue;
		const attributes = attributesOf(node);
		const transform = `${outer} ${attributes.transform ?? ""}`.trim();
		const d = pathOf(name, attributes);
		if (d !== undefined) {
			spent.path += d.length;
			if (spent.path > MOST_PATH) throw new DrawingError("The drawing has longer paths than can be read. Simplify it first.");
			const found = flatten(svgpath(d).transform(transform));
			lines.push(...(name === "circle" || name === "ellipse" ? found.map((line) => [line[0]!]) : found));
		}
		const children = node[name];
		if (Array.isArray(children)) {
			const inside = { path: spent.path, depth: spent.depth + 1 };
			visit(children as Node[], transform, lines, inside);
			spent.path = inside.path;
		}
		if (lines.length > MOST_LINES)
			throw new DrawingError(`The drawing has more than ${MOST_LINES.toLocaleString("en")} lines. Leave some out.`);
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
	if (problem) throw new DrawingError("The drawing has a path that cannot be read. Save it again as SVG.");
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
