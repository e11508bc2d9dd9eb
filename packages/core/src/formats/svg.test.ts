import { drawingToStrokes } from "../fracture";
import { shapeById } from "../shapes";
import { readSvg } from ".";

const svg = (body: string, head = 'viewBox="0 0 120 160"') =>
	new TextEncoder().encode(`<svg xmlns="http://www.w3.org/2000/svg" ${head}>${body}</svg>`);
function linesOf(body: string) {
	const drawing = readSvg(svg(body));
	if (!drawing.ok) throw new Error(drawing.problems[0]!.message);
	return drawing.value.lines.map((line) => line.map((point) => point.map((value) => Number(value.toFixed(3)))));
}
const problem = (bytes: Uint8Array) => {
	const drawing = readSvg(bytes);
	return drawing.ok ? "" : drawing.problems[0]!.message;
};

test("paths, lines, polygons and rectangles run as they were drawn; circles are dots", () => {
	expect(linesOf('<path d="M10 10l20 0v5"/><line x1="1" y1="2" x2="3" y2="4"/>')).toEqual([
		[
			[10, 10],
			[30, 10],
			[30, 15],
		],
		[
			[1, 2],
			[3, 4],
		],
	]);
	expect(linesOf('<polyline points="0,0 5,5 9,0"/><circle cx="60" cy="80" r="4"/>')).toEqual([
		[
			[0, 0],
			[5, 5],
			[9, 0],
		],
		[[60, 80]],
	]);
	expect(linesOf('<rect x="1" y="1" width="2" height="3"/>')[0]).toHaveLength(5);
	expect(linesOf('<path d="M0 0H5M9 9H12"/>')).toHaveLength(2);
});

test("curves go through their ends and their middle", () => {
	const [line] = linesOf('<path d="M0 0C0 10 10 10 10 0"/>');
	expect(line![0]).toEqual([0, 0]);
	expect(line![6]).toEqual([5, 7.5]);
	expect(line![12]).toEqual([10, 0]);
	const [arc] = linesOf('<path d="M-5 0A5 5 0 0 1 5 0"/>');
	for (const [x, y] of arc!) expect(Math.hypot(x!, y!)).toBeCloseTo(5, 2);
});

test("groups and transforms are followed, definitions are passed over", () => {
	expect(
		linesOf('<defs><path d="M0 0H1"/></defs><g transform="translate(10 20)"><g transform="scale(2)"><path d="M1 1H3"/></g></g>'),
	).toEqual([
		[
			[12, 22],
			[16, 22],
		],
	]);
});

test("a drawing covers the broad face of a pane, its top up", () => {
	const drawing = readSvg(svg('<circle cx="0" cy="0" r="1"/><circle cx="120" cy="160" r="1"/><circle cx="60" cy="40" r="1"/>'));
	const pane = shapeById("panel")!.build({ width: 1.2, height: 1.6, thickness: 0.004 }, {});
	const strokes = drawingToStrokes(pane, drawing.ok ? drawing.value : (undefined as never));
	expect(strokes.map((line) => line.map((value) => Number(value.toFixed(4)) + 0))).toEqual([
		[-0.6, 0.8, 0.002],
		[0.6, -0.8, 0.002],
		[0, 0.4, 0.002],
	]);
});

test("files that are no drawing are refused with a sentence", () => {
	expect(problem(new TextEncoder().encode("v 0 0 0"))).toMatch(/damaged|no SVG/);
	expect(problem(svg("<path"))).toMatch(/damaged at line 1/);
	expect(problem(new TextEncoder().encode("<html></html>"))).toMatch(/no SVG/);
	expect(problem(svg(""))).toMatch(/no lines/);
	expect(problem(svg('<path d="M0 0"/>', ""))).toMatch(/viewBox/);
	expect(problem(svg('<path d="M0 0 L zero"/>'))).toMatch(/cannot be read/);
});
