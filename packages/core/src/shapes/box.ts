import { type Mesh, makeMesh } from "../mesh";
import type { Shape } from "./types";

const side = (label: string, size: number) =>
	({ label, unit: "m", default: size, least: 0.0005, most: 10_000, help: `${label} in metres` }) as const;

export const box: Shape = {
	id: "box",
	label: "Box",
	help: "A block with six flat sides.",
	parameters: { width: side("Width", 1), height: side("Height", 1), depth: side("Depth", 1) },
	build: ({ width, height, depth }) => boxMesh(width!, height!, depth!),
};

/** A thin slab that stands upright: the way panes and boards are used. */
export const panel: Shape = {
	id: "panel",
	label: "Panel",
	help: "A thin upright slab, such as a pane or a board.",
	parameters: {
		width: side("Width", 1.2),
		height: side("Height", 1.6),
		thickness: { ...side("Thickness", 0.004), help: "Glass panes are 3 to 10 mm thick" },
	},
	build: ({ width, height, thickness }) => boxMesh(width!, height!, thickness!),
};

/** Corner k has +x where bit 0 is set, +y where bit 1, +z where bit 2. UVs run over each side in metres. */
function boxMesh(width: number, height: number, depth: number): Mesh {
	const positions = new Float32Array(24);
	for (let k = 0; k < 8; k++) {
		positions[3 * k] = k & 1 ? width / 2 : -width / 2;
		positions[3 * k + 1] = k & 2 ? height / 2 : -height / 2;
		positions[3 * k + 2] = k & 4 ? depth / 2 : -depth / 2;
	}
	const sides = [
		[4, 5, 7, 6, width, height],
		[1, 0, 2, 3, width, height],
		[5, 1, 3, 7, depth, height],
		[0, 4, 6, 2, depth, height],
		[6, 7, 3, 2, width, depth],
		[0, 1, 5, 4, width, depth],
	] as const;
	const triangles: number[] = [];
	const uv: number[] = [];
	for (const [a, b, c, d, u, v] of sides) {
		triangles.push(a, b, c, a, c, d);
		uv.push(0, 0, u, 0, u, v, 0, 0, u, v, 0, v);
	}
	return makeMesh(positions, triangles, { uv: Float32Array.from(uv) });
}
