import { breakMesh, methodById, optionDefaults } from "@rubble/core/fracture";
import { type Mesh, makeMesh, volume } from "@rubble/core/mesh";
import { shapeById } from "@rubble/core/shapes";
import { loadSolids } from "@rubble/core/solid";
import { type Bench, milliseconds, type Row } from "./types";

/** A ball with dents and bumps: concave, closed, and as fine as asked for. */
function bumpyBall(detail: number): Mesh {
	const ball = shapeById("ball")!.build({ radius: 1, detail });
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

const voronoi = (name: string, source: () => Mesh, count: number): Row => ({
	name,
	run: async () => {
		const solids = await loadSolids();
		const method = methodById("voronoi")!;
		const mesh = source();
		const options = { ...optionDefaults(method), count };
		let error = 0;
		let pieces = 0;
		const ms = await milliseconds(async () => {
			const result = await breakMesh(solids, mesh, method, options);
			if (!result.ok) throw new Error(result.problems[0]!.message);
			pieces = result.value.pieces.length;
			error = Math.abs(result.value.pieces.reduce((sum, piece) => sum + piece.volume, 0) / volume(mesh) - 1);
		});
		return { triangles: mesh.triangles.length / 3, pieces, ms, "ms per piece": ms / pieces, "volume error": error };
	},
});

const box = () => shapeById("box")!.build({ width: 2, height: 1, depth: 1 });

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
