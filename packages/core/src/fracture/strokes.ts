import { bad, good, type Outcome, report } from "../common";
import { cos, random, sin } from "../maths";
import { bounds, boundsSize, containment } from "../mesh";
import { assemble } from "./assemble";
import { carve } from "./carve";
import { defineMethod } from "./options";
import { drawnAxis, type Face, faceAlong } from "./prisms";
import { breakSeed, gapSpec, shareSpec } from "./specs";
import type { Pieces } from "./types";

export interface StrokesOptions {
	/** Lines of 3 numbers per point. One as short as a dot is a blow. */
	readonly strokes?: readonly (readonly number[])[];
	readonly count: number;
	/** Share of the pieces that lie along the lines, where there are blows too. */
	readonly crumbs: number;
	/** Metres on both sides of a line. */
	readonly width: number;
	/** How many times longer than wide splinters around a blow are. */
	readonly length: number;
	/** Share of a splinter's width and length, 0 to 1. */
	readonly jitter: number;
	readonly gap: number;
	readonly seed: number;
}

const MOST_PIECES = 50_000;
/** A stroke shorter than this share of the object is a dot. */
const DOT = 0.02;
/** Radius of a blow's innermost ring, as a share of the way to the farthest corner. */
const INNERMOST = 0.02;
/** ln(1 / INNERMOST): how many times the radius grows by e from the innermost ring to the rim. */
const GROWTHS = 3.912;

/**
 * Cells along what was drawn: a dot is a blow, around which splinters radiate that grow longer outwards; a line leaves
 * crumbs along it. Points of a blow stand on rings, the same number on each, whose radii grow by 1 + 2π · length /
 * number: a cell is as wide as its ring's arc and `length` times as long, which is what radial cracks with concentric
 * breaks look like. Everything is laid out on the side that is drawn on and cut straight through.
 */
export const strokes = defineMethod<StrokesOptions>({
	id: "strokes",
	label: "Strokes",
	help: "Draw on it: a dot is a blow with splinters around it, a line leaves crumbs along it.",
	options: {
		strokes: { kind: "strokes", label: "Strokes", help: "Drawn on the object in the view" },
		count: {
			kind: "number",
			label: "Pieces",
			unit: "",
			default: 400,
			least: 2,
			most: MOST_PIECES,
			whole: true,
			help: "How many pieces in all, about",
		},
		crumbs: shareSpec("Crumbs", 0.5, "Share of the pieces that lie along the lines, where there are blows too"),
		width: {
			kind: "number",
			label: "Width",
			unit: "m",
			default: 0.06,
			least: 0.0005,
			most: 10_000,
			help: "How far from a line crumbs lie",
		},
		length: {
			kind: "number",
			label: "Splinters",
			unit: "× longer",
			default: 3,
			least: 0.5,
			most: 20,
			help: "How many times longer than wide the pieces around a blow are",
		},
		jitter: shareSpec("Jitter", 0.6, "How uneven splinters are"),
		gap: gapSpec,
		seed: breakSeed,
	},
	estimate: (triangles, { count }) =>
		Number(count ?? 400) * 3e-4 + (triangles > 64 ? 0.3 + Number(count ?? 400) * 1.2e-3 + triangles * 1.5e-5 : 0),
	run: async ({ solids, mesh, volume }, options, progress): Promise<Outcome<Pieces>> => {
		const { strokes: lines = [], gap } = options;
		if (lines.length === 0) return bad("Strokes: nothing is drawn yet. Draw a dot or a line on the object.");
		if (lines.some((line) => line.length < 3 || line.length % 3 !== 0 || line.some((value) => !Number.isFinite(value))))
			return bad("Strokes: every stroke needs points of three finite numbers.");
		await report(progress, 0, "Spreading points along the strokes");
		const contains = containment(mesh);
		const face = faceAlong(mesh, drawnAxis(mesh, lines));
		const size = Math.max(...boundsSize(bounds(mesh)));
		const flat = lines.map((line) => onFace(line, face));
		const dots = flat.filter((line) => lengthOf(line) < DOT * size);
		const paths = flat.filter((line) => lengthOf(line) >= DOT * size);
		const sites = layOut(dots, paths, face, options, contains);
		if (!sites) return bad("Strokes: all strokes lie outside the object. Draw on its surface.");
		const carved = await carve(solids, mesh, sites, gap, progress);
		return good(assemble(carved, volume, "cell"));
	},
});

type Flat = readonly (readonly [number, number])[];

function onFace(line: readonly number[], { u, v }: Face): Flat {
	return Array.from({ length: line.length / 3 }, (_, i) => [line[3 * i + u]!, line[3 * i + v]!] as const);
}

const distance = ([ax, ay]: readonly [number, number], [bx, by]: readonly [number, number]): number =>
	Math.sqrt((bx - ax) ** 2 + (by - ay) ** 2);
const lengthOf = (line: Flat): number => line.slice(1).reduce((sum, point, i) => sum + distance(line[i]!, point), 0);

/** Points in the object's frame, about the budget of them; undefined where no stroke touches it. */
function layOut(
	dots: readonly Flat[],
	paths: readonly Flat[],
	face: Face,
	{ count, crumbs, width, length, jitter, seed }: StrokesOptions,
	contains: (x: number, y: number, z: number) => boolean,
): Float64Array | undefined {
	const middle = (face.min[2] + face.max[2]) / 2;
	const sites: number[] = [];
	const place = (a: number, b: number): readonly [number, number, number] => {
		const point: [number, number, number] = [0, 0, 0];
		point[face.u] = a;
		point[face.v] = b;
		point[face.w] = middle;
		return point;
	};
	const isInside = (a: number, b: number): boolean => contains(...place(a, b));
	const add = (a: number, b: number): boolean => {
		if (!isInside(a, b)) return false;
		sites.push(...place(a, b));
		return true;
	};
	if (![...dots, ...paths].some((line) => line.some(([a, b]) => isInside(a, b)))) return undefined;
	const along = paths.length === 0 ? 0 : dots.length === 0 ? Math.round(0.8 * count) : Math.round(crumbs * count);
	const total = paths.reduce((sum, path) => sum + lengthOf(path), 0);
	let drawn = 0;
	for (const path of paths) {
		const share = Math.round((along * lengthOf(path)) / total);
		for (let i = 0; i < share; i++, drawn++) {
			const [[a, b], [nx, ny]] = pointAt(path, ((i + random(seed, drawn, 0)) / share) * lengthOf(path));
			// Two draws added: most crumbs lie near the line.
			const off = width * (random(seed, drawn, 1) + random(seed, drawn, 2) - 1);
			add(a + nx * off, b + ny * off);
		}
	}
	const around = count - along;
	if (dots.length > 0)
		dots.forEach((dot, d) => {
			radiate(dot[0]!, Math.round(around / dots.length), d);
		});
	// Without a blow the rest of the body breaks evenly, into large pieces; into two at least.
	const least = dots.length > 0 ? 2 : Math.max(2, sites.length / 3 + around);
	for (let i = 0; sites.length < 3 * least && i < 50 * least; i++)
		add(face.min[0] + (face.max[0] - face.min[0]) * random(seed, i, 3), face.min[1] + (face.max[1] - face.min[1]) * random(seed, i, 4));
	return Float64Array.from(sites);

	/** Rings around a blow, out to the farthest corner; as many spokes as the budget fills. */
	function radiate(centre: readonly [number, number], budget: number, which: number): void {
		const far = Math.max(...[face.min, face.max].flatMap((p) => [face.min, face.max].map((q) => distance(centre, [p[0], q[1]]))));
		let best: (readonly [number, number])[] = [];
		// In the open, spokes² · GROWTHS / (2π · length) points; fewer where the blow is off the middle.
		let spokes = Math.max(4, Math.floor(Math.sqrt((budget * 2 * Math.PI * length) / GROWTHS)));
		for (; best.length < budget && spokes < 4 * budget + 8; spokes++)
			best = ringsOf(centre, far, spokes, which).filter(([a, b]) => isInside(a, b));
		for (const [a, b] of best.slice(0, budget)) add(a, b);
	}

	function ringsOf(centre: readonly [number, number], far: number, spokes: number, which: number): (readonly [number, number])[] {
		const growth = 1 + (2 * Math.PI * length) / spokes;
		const places: (readonly [number, number])[] = [];
		for (let ring = 0, radius = far * INNERMOST; radius < far; ring++, radius *= growth)
			for (let s = 0; s < spokes; s++) {
				const key = (which * 4096 + ring) * 4096 + s;
				// Spokes keep their own direction from ring to ring, so that splinters run on outwards.
				const own = random(seed, which * 4096 + s, 5) - 0.5;
				const angle = (2 * Math.PI * (s + jitter * (0.6 * own + 0.3 * (random(seed, key, 6) - 0.5)))) / spokes;
				const r = radius * (1 + jitter * (growth - 1) * (random(seed, key, 7) - 0.5));
				places.push([centre[0] + r * cos(angle), centre[1] + r * sin(angle)]);
			}
		return places;
	}
}

/** The point of a line after this length, and the direction across it. */
function pointAt(path: Flat, length: number): readonly [readonly [number, number], readonly [number, number]] {
	let left = length;
	for (let i = 1; i < path.length; i++) {
		const [p, q] = [path[i - 1]!, path[i]!];
		const l = distance(p, q);
		if (left <= l || i === path.length - 1) {
			const t = l > 0 ? Math.min(1, left / l) : 0;
			return [[p[0] + t * (q[0] - p[0]), p[1] + t * (q[1] - p[1])], l > 0 ? [-(q[1] - p[1]) / l, (q[0] - p[0]) / l] : [0, 1]];
		}
		left -= l;
	}
	return [path[0]!, [0, 1]];
}
