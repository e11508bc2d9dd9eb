import type { Mesh } from "../mesh";
import { thinnestFace } from "./prisms";

/** Lines on a sheet: x to the right, y down. A line of one point is a dot. */
export interface Drawing {
	readonly x: number;
	readonly y: number;
	readonly width: number;
	readonly height: number;
	readonly lines: readonly (readonly (readonly [number, number])[])[];
}

/** Lays a drawing over the broadest face of a mesh; strokes of 3 numbers per point in the mesh's frame, on its surface. */
export function drawingToStrokes(mesh: Mesh, { x, y, width, height, lines }: Drawing): number[][] {
	const { u, v, w, min, max } = thinnestFace(mesh);
	return lines.map((line) =>
		line.flatMap(([px, py]) => {
			const point = [0, 0, 0];
			point[u] = min[0] + ((px - x) / width) * (max[0] - min[0]);
			point[v] = max[1] - ((py - y) / height) * (max[1] - min[1]);
			point[w] = max[2];
			return point;
		}),
	);
}
