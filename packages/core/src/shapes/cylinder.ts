import { cos, sin } from "../maths";
import { type Mesh, makeMesh } from "../mesh";
import type { Shape } from "./types";

export const cylinder: Shape = {
	id: "cylinder",
	label: "Cylinder",
	help: "An upright round bar or drum.",
	parameters: {
		radius: { label: "Radius", unit: "m", default: 0.3, least: 0.0005, most: 10_000, help: "From the axis to the side" },
		height: { label: "Height", unit: "m", default: 1, least: 0.0005, most: 10_000, help: "Along the upright axis" },
		segments: { label: "Segments", unit: "", default: 48, least: 3, most: 512, whole: true, help: "Flat strips around the side" },
	},
	build: ({ radius, height, segments }) => cylinderMesh(radius!, height!, Math.round(segments!)),
};

function cylinderMesh(radius: number, height: number, segments: number): Mesh {
	const positions: number[] = [];
	const triangles: number[] = [];
	for (let i = 0; i < segments; i++) {
		const a = (2 * Math.PI * i) / segments;
		const x = cos(a) * radius;
		const z = sin(a) * radius;
		positions.push(x, -height / 2, z, x, height / 2, z);
	}
	const bottom = 2 * segments;
	const top = bottom + 1;
	positions.push(0, -height / 2, 0, 0, height / 2, 0);
	for (let i = 0; i < segments; i++) {
		const a = 2 * i;
		const b = 2 * ((i + 1) % segments);
		triangles.push(a, a + 1, b + 1, a, b + 1, b, bottom, a, b, top, b + 1, a + 1);
	}
	return makeMesh(positions, triangles);
}
