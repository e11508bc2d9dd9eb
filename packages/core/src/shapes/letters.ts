import earcut from "earcut";
import { makeMesh } from "../mesh";
import { CAPITAL, GLYPHS } from "./font/outlines";
import { length } from "./parameters";
import type { Shape } from "./types";

type Point = readonly [number, number];

/** Bevels up to this share of the height stay inside every stroke of the typeface. */
const MOST_BEVEL = 0.035;

export const letters: Shape = {
	id: "letters",
	label: "Letters",
	help: "Any text in a bold sans-serif, with thickness and bevel. Split it into parts for single letters.",
	texts: { text: { label: "Text", default: "SALTMARSH", most: 80, help: "One line" } },
	parameters: {
		height: length("Height", 0.5, "Of a capital"),
		depth: length("Depth", 0.1, "From front to back"),
		bevel: { ...length("Bevel", 0.006, "How far front and back edges are cut off", 0), least: 0, addsFaces: true },
		spacing: { ...length("Spacing", 0.02, "Added between letters", -10), least: -10 },
	},
	problem({ height, depth, bevel }, { text = "" }) {
		const unknown = [...text].find((character) => !GLYPHS[character]);
		if (unknown) return `The typeface has no “${unknown}”.`;
		if (![...text].some((character) => GLYPHS[character]![1].length > 0)) return "The text holds nothing to be seen.";
		if (bevel! * 2 >= depth!) return "The bevel must be less than half of the depth.";
		if (bevel! > MOST_BEVEL * height!) return `The bevel may be up to 3.5 % of the height, or strokes would grow through one another.`;
		return undefined;
	},
	build({ height, depth, bevel, spacing }, { text = "" }) {
		const size = height! / CAPITAL;
		const positions: number[] = [];
		const triangles: number[] = [];
		let x = 0;
		let right = 0;
		for (const character of text) {
			const [advance, contours] = GLYPHS[character]!;
			for (const figure of figures(contours, size, x)) addSolid(figure, depth!, bevel!, positions, triangles);
			right = x + advance * size;
			x = right + spacing!;
		}
		// The origin is the middle: between the first and the last letter, half a capital high.
		for (let i = 0; i < positions.length; i += 3) {
			positions[i]! -= right / 2;
			positions[i + 1]! -= height! / 2;
		}
		return makeMesh(positions, triangles);
	},
};

/** Each outer contour with the holes that lie in it, metres. */
function figures(contours: readonly (readonly number[])[], size: number, x: number): Point[][][] {
	const rings = contours.map((flat) =>
		Array.from({ length: flat.length / 2 }, (_, i): Point => [flat[2 * i]! * size + x, flat[2 * i + 1]! * size]),
	);
	const outer = rings.filter((ring) => signedArea(ring) > 0);
	return outer.map((ring) => [ring, ...rings.filter((hole) => signedArea(hole) < 0 && smallestAround(outer, hole[0]!) === ring)]);
}

const smallestAround = (rings: readonly Point[][], point: Point): Point[] | undefined =>
	rings.filter((ring) => holds(ring, point)).sort((a, b) => signedArea(a) - signedArea(b))[0];

const signedArea = (points: readonly Point[]): number =>
	points.reduce((sum, [x, y], i) => {
		const [u, v] = points[(i + 1) % points.length]!;
		return sum + (x * v - u * y) / 2;
	}, 0);

const holds = (points: readonly Point[], [x, y]: Point): boolean => {
	let odd = false;
	points.forEach(([ax, ay], i) => {
		const [bx, by] = points[(i + 1) % points.length]!;
		if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) odd = !odd;
	});
	return odd;
};

/** A flat figure with holes as a solid about z = 0 whose front and back edges are cut off. */
function addSolid(rings: readonly Point[][], depth: number, bevel: number, positions: number[], triangles: number[]): void {
	const face = rings.map((ring) => (bevel > 0 ? inset(ring, bevel) : ring));
	const flat = face.flat(2);
	const holes: number[] = [];
	let count = 0;
	for (const ring of face) {
		if (count > 0) holes.push(count);
		count += ring.length;
	}
	const cap = earcut(flat, holes, 2);
	const layers = bevel > 0 ? 4 : 2;
	const base = positions.length / 3;
	const heights = bevel > 0 ? [depth / 2, depth / 2 - bevel, bevel - depth / 2, -depth / 2] : [depth / 2, -depth / 2];
	for (const [layer, z] of heights.entries())
		for (const [x, y] of (layer === 0 || layer === layers - 1 ? face : rings).flat()) positions.push(x, y, z);
	const at = (layer: number, i: number) => base + layer * count + i;
	for (let i = 0; i < cap.length; i += 3) {
		const [a, b, c] = [cap[i]!, cap[i + 1]!, cap[i + 2]!];
		const left = turn(flat, a, b, c) > 0;
		const [p, q] = left ? [b, c] : [c, b];
		triangles.push(at(0, a), at(0, p), at(0, q), at(layers - 1, a), at(layers - 1, q), at(layers - 1, p));
	}
	let first = 0;
	for (const ring of rings) {
		for (let layer = 0; layer + 1 < layers; layer++)
			for (let i = 0; i < ring.length; i++) {
				const [a, b] = [first + i, first + ((i + 1) % ring.length)];
				triangles.push(at(layer, a), at(layer + 1, a), at(layer + 1, b), at(layer, a), at(layer + 1, b), at(layer, b));
			}
		first += ring.length;
	}
}

const turn = (flat: readonly number[], a: number, b: number, c: number): number =>
	(flat[2 * b]! - flat[2 * a]!) * (flat[2 * c + 1]! - flat[2 * a + 1]!) -
	(flat[2 * b + 1]! - flat[2 * a + 1]!) * (flat[2 * c]! - flat[2 * a]!);

/**
 * A ring moved to its left (inwards for outer rings, into the solid for holes). Where an edge is too short for that and
 * would turn round, its ends move less.
 */
function inset(ring: readonly Point[], distance: number): Point[] {
	const n = ring.length;
	const normal = (a: Point, b: Point): Point => {
		const [x, y] = [b[0] - a[0], b[1] - a[1]];
		const l = Math.sqrt(x * x + y * y);
		return [-y / l, x / l];
	};
	const ways = ring.map((point, i): Point => {
		const before = normal(ring[(i + n - 1) % n]!, point);
		const after = normal(point, ring[(i + 1) % n]!);
		const k = distance / Math.max(1 + before[0] * after[0] + before[1] * after[1], 0.22);
		return [(before[0] + after[0]) * k, (before[1] + after[1]) * k];
	});
	const share = new Float64Array(n).fill(1);
	const moved = (i: number): Point => [ring[i]![0] + ways[i]![0] * share[i]!, ring[i]![1] + ways[i]![1] * share[i]!];
	for (let round = 0, turned = true; turned && round < 12; round++) {
		turned = false;
		for (let i = 0; i < n; i++) {
			const j = (i + 1) % n;
			const [a, b] = [moved(i), moved(j)];
			if ((b[0] - a[0]) * (ring[j]![0] - ring[i]![0]) + (b[1] - a[1]) * (ring[j]![1] - ring[i]![1]) > 0) continue;
			share[i]! *= 0.6;
			share[j]! *= 0.6;
			turned = true;
		}
	}
	return ring.map((_, i) => moved(i));
}
