import { type Mesh, makeMesh } from "../mesh";
import type { Shape } from "./types";

export const ball: Shape = {
	id: "ball",
	label: "Ball",
	help: "A sphere of even triangles.",
	parameters: {
		radius: { label: "Radius", unit: "m", default: 0.5, least: 0.0005, most: 10_000, help: "From the middle to the surface" },
		detail: {
			label: "Detail",
			unit: "",
			default: 3,
			least: 1,
			most: 6,
			whole: true,
			help: "Each step makes four triangles of one; 3 gives 1,280",
		},
	},
	build: ({ radius, detail }) => icosphere(radius!, Math.round(detail!)),
};

/** An icosahedron whose triangles are split `detail` times and pushed out to the sphere. */
function icosphere(radius: number, detail: number): Mesh {
	const g = (1 + Math.sqrt(5)) / 2;
	let points: number[][] = [
		[-1, g, 0],
		[1, g, 0],
		[-1, -g, 0],
		[1, -g, 0],
		[0, -1, g],
		[0, 1, g],
		[0, -1, -g],
		[0, 1, -g],
		[g, 0, -1],
		[g, 0, 1],
		[-g, 0, -1],
		[-g, 0, 1],
	].map(unit);
	let faces = [
		[0, 11, 5],
		[0, 5, 1],
		[0, 1, 7],
		[0, 7, 10],
		[0, 10, 11],
		[1, 5, 9],
		[5, 11, 4],
		[11, 10, 2],
		[10, 7, 6],
		[7, 1, 8],
		[3, 9, 4],
		[3, 4, 2],
		[3, 2, 6],
		[3, 6, 8],
		[3, 8, 9],
		[4, 9, 5],
		[2, 4, 11],
		[6, 2, 10],
		[8, 6, 7],
		[9, 8, 1],
	];
	for (let level = 0; level < detail; level++) {
		points = points.slice();
		const middles = new Map<number, number>();
		const middle = (a: number, b: number): number => {
			const key = a < b ? a * 1e7 + b : b * 1e7 + a;
			let index = middles.get(key);
			if (index === undefined) {
				index = points.length;
				points.push(unit([0, 1, 2].map((k) => points[a]![k]! + points[b]![k]!)));
				middles.set(key, index);
			}
			return index;
		};
		faces = faces.flatMap(([a, b, c]) => {
			const ab = middle(a!, b!);
			const bc = middle(b!, c!);
			const ca = middle(c!, a!);
			return [
				[a!, ab, ca],
				[b!, bc, ab],
				[c!, ca, bc],
				[ab, bc, ca],
			];
		});
	}
	return makeMesh(
		points.flatMap((p) => p.map((v) => v * radius)),
		faces.flat(),
	);
}

function unit(p: number[]): number[] {
	const l = Math.sqrt(p[0]! ** 2 + p[1]! ** 2 + p[2]! ** 2);
	return p.map((v) => v / l);
}
