import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { readPicture } from "@rubble/core/formats";
import { breakMesh, methodById, roughen } from "@rubble/core/fracture";
import { type Mesh, makeMesh, volume } from "@rubble/core/mesh";
import { buildShape, shapeById } from "@rubble/core/shapes";
import type { OptionValues } from "@rubble/core/shot";
import { loadSolids } from "@rubble/core/solid";
import { type Bench, milliseconds, type Row } from "./types";

/** A ball with dents and bumps: concave, closed, and as fine as asked for. */
function bumpyBall(detail: number): Mesh {
	const ball = buildShape(shapeById("ball")!, { radius: 1, detail });
	const positions = ball.positions.slice();
	for (let i = 0; i < positions.length; i += 3) {
		const [x, y, z] = [positions[i]!, positions[i + 1]!, positions[i + 2]!];
		const r = 1 + 0.08 * Math.sin(9 * x) * Math.sin(8 * y + 1) * Math.sin(7 * z + 2);
		positions[i] = x * r;
		positions[i + 1] = y * r;
		positions[i + 2] = z * r;
	}
	return makeMesh(positions, ball.triangles);
}

const voronoi = (name: string, source: () => Mesh, count: number): Row => row(name, "voronoi", source, { count });

/** The picture of masonry that ships with the core. */
const BRICKS = createRequire(import.meta.url).resolve("@rubble/core/pictures/bricks.png");

const row = (
	name: string,
	id: string,
	source: () => Mesh,
	chosen: OptionValues,
	cutters: readonly Mesh[] = [],
	files: readonly string[] = [],
): Row => ({
	name,
	run: async () => {
		const solids = await loadSolids();
		const method = methodById(id)!;
		const mesh = source();
		const pictures = files.map((file) => {
			const picture = readPicture(new Uint8Array(readFileSync(file)));
			if (!picture.ok) throw new Error(picture.problems[0]!.message);
			return picture.value;
		});
		let error = 0;
		let pieces = 0;
		const ms = await milliseconds(async () => {
			const result = await breakMesh(solids, mesh, method, chosen, { cutters, pictures });
			if (!result.ok) throw new Error(result.problems[0]!.message);
			pieces = result.value.pieces.length;
			error = Math.abs(result.value.pieces.reduce((sum, piece) => sum + piece.volume, 0) / volume(mesh) - 1);
		});
		return { triangles: mesh.triangles.length / 3, pieces, ms, "ms per piece": ms / pieces, "lacking share": error };
	},
});

const box = () => buildShape(shapeById("box")!, { width: 2, height: 1, depth: 1 });

/** Triangles of the ball by its detail. */
const DETAILS: readonly (readonly [number, string])[] = [
	[4, "5k"],
	[5, "20k"],
	[6, "82k"],
];

export const fracture: Bench = {
	id: "fracture",
	title: "Voronoi fracture: pieces × triangles",
	rows: [
		...[200, 2_000, 20_000].map((count) => voronoi(`box, ${count.toLocaleString("en")} pieces`, box, count)),
		...DETAILS.map(([detail, name]) => voronoi(`bumpy ball, ${name} triangles, 500 pieces`, () => bumpyBall(detail), 500)),
		...[50, 5_000].map((count) => voronoi(`bumpy ball, 82k triangles, ${count.toLocaleString("en")} pieces`, () => bumpyBall(6), count)),
	],
};

const wall = () => buildShape(shapeById("box")!, { width: 3, height: 2, depth: 0.24 });
const pane = () => buildShape(shapeById("panel")!, { width: 1.2, height: 1.6, thickness: 0.004 });
const bar = () => buildShape(shapeById("cylinder")!, { radius: 0.3, height: 4, segments: 48 });
const blow = {
	strokes: [
		[0, 0, 0.002],
		[-0.4, -0.3, 0.002, 0.4, -0.2, 0.002],
	],
};

const slab = () => buildShape(shapeById("box")!, { width: 2, height: 1.2, depth: 0.12 });
const line = { strokes: [[-0.9, -0.1, 0.06, 0, 0.1, 0.06, 0.9, -0.1, 0.06]] };

const roughRow = (name: string, grain: number): Row => ({
	name,
	run: async () => {
		const broken = await breakMesh(await loadSolids(), box(), methodById("voronoi")!, { count: 200 });
		if (!broken.ok) throw new Error(broken.problems[0]!.message);
		let triangles = 0;
		let sum = 0;
		const ms = await milliseconds(async () => {
			for (const { mesh, pivot } of broken.value.pieces) {
				const rough = roughen(mesh, { rough: grain / 10, grain }, { offset: pivot, turn: [0, 0, 0, 1] });
				triangles += rough.triangles.length / 3;
				sum += volume(rough);
			}
		});
		return { triangles, pieces: 200, ms, "ms per piece": ms / 200, "lacking share": Math.abs(1 - sum / broken.value.sourceVolume) };
	},
});

/** Every other way to break, each with ten times the pieces, and on a mesh with many triangles. */
export const methods: Bench = {
	id: "methods",
	title: "Other ways to break",
	rows: [
		...[5, 6].map((detail) =>
			row(`cuts through the bumpy ball, ${detail === 5 ? "20k" : "82k"} triangles, 3`, "cuts", () => bumpyBall(detail), {
				planes: [1, 0, 0, 0.1, 0, 1, 0, 0.2, 0, 0, 1, -0.1],
			}),
		),
		row("rounded stones of the bumpy ball, 20k triangles, 100", "cobbles", () => bumpyBall(5), { count: 100 }),
		...[400, 4_000].map((count) => row(`strokes on a pane, ${count.toLocaleString("en")} pieces`, "strokes", pane, { ...blow, count })),
		...[20, 200].map((count) => row(`slices of a box, ${count}`, "slices", box, { count, axis: "x" })),
		row("slices of the bumpy ball, 82k triangles, 20", "slices", () => bumpyBall(6), { count: 20 }),
		...[10, 32].map((count) => row(`rows and columns on a pane, ${count} × ${count}`, "cells", pane, { rows: count, columns: count })),
		...[0.24, 0.076].map((length) =>
			row(`masonry, bricks of ${length * 1000} mm`, "masonry", wall, { length, height: length / 2, joint: 0.008 }),
		),
		...[
			["a panel", () => buildShape(shapeById("panel")!, { width: 3, height: 2.25, thickness: 0.2 })] as const,
			["an arch", () => buildShape(shapeById("arch")!, { radius: 1.2, thickness: 0.55, depth: 0.5, segments: 64 })] as const,
		].map(([name, source]) =>
			row(`${name} from a picture of bricks`, "picture", source, { joints: "dark", mortar: "pieces" }, [], [BRICKS]),
		),
		row("cutter through a box", "cutter", box, {}, [bar()]),
		row("cutter through the bumpy ball, 82k triangles", "cutter", () => bumpyBall(6), {}, [bar()]),
		...[100, 1_000].map((count) => row(`rounded stones, ${count.toLocaleString("en")}`, "cobbles", box, { count })),
		...[0, 0.009].map((detail) => row(`crack of a slab, triangles of ${detail === 0 ? 67 : 9} mm`, "crack", slab, { ...line, detail })),
		row("crack of the bumpy ball, 82k triangles", "crack", () => bumpyBall(6), line),
		...[0.05, 0.016].map((grain) => roughRow(`rough inside faces of 200 pieces, grain of ${grain * 1000} mm`, grain)),
		...[2_000].map((count) =>
			row(`slivers of ${count.toLocaleString("en")} pieces merged`, "voronoi", box, {
				count,
				spread: "random",
				slivers: "merge",
				below: 0.3,
			}),
		),
	],
};
