import { selfCrossings, topology } from "@rubble/core/mesh";
import { buildShape, shapeById } from "@rubble/core/shapes";
import { inspectMesh, loadSolids } from "@rubble/core/solid";
import { type Bench, median, type Row } from "./types";

const TIMES = 5;

/** A ball of so many triangles, as when it has been imported: its edges, where it passes through itself, and the whole report. */
const row = (detail: number): Row => ({
	name: `${(20 * 4 ** (detail - 1)).toLocaleString("en")} triangles`,
	run: async () => {
		const mesh = buildShape(shapeById("ball")!, { radius: 1, detail });
		const solids = await loadSolids();
		const { shellOf } = topology(mesh);
		const edges = await median(TIMES, () => topology(mesh));
		const crossings = await median(TIMES, () => selfCrossings(mesh, shellOf));
		const report = await median(TIMES, () => inspectMesh(solids, mesh));
		return {
			"edges, ms": edges,
			"crossings, ms": crossings,
			"crossings, µs a triangle": (1000 * crossings) / (mesh.triangles.length / 3),
			"whole report, ms": report,
		};
	},
});

export const meshes: Bench = { id: "meshes", title: "Looking a mesh over", rows: [4, 5, 6, 7].map(row) };
