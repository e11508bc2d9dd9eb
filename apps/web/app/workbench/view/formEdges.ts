import { BufferAttribute, BufferGeometry, EdgesGeometry } from "three";
import type { Drawing } from "~/workers/messages";

/** Faces that meet at more than this have an edge between them. degrees */
const EDGE_ANGLE = 24;
/** What has no more edges than this is round. */
const FEW = 6;
/** Contours lie a little off the middle, where vertices often are; a share of the size. */
const OFF = 1.37e-4;

/** What has contours beside its edges. Where the lines are all that is to be seen everything has; among many things they are too much. */
export type Contours = "all" | "round" | "none";

/** Lines that show the form of a solid, 6 numbers each: its edges, and its contours half way along each axis. */
export function formEdges(geometry: BufferGeometry, contoured: Contours = "round"): Float32Array {
	const edges = new EdgesGeometry(geometry, EDGE_ANGLE);
	const lines = edges.getAttribute("position").array as Float32Array;
	edges.dispose();
	if (contoured === "none" || (contoured === "round" && lines.length > 6 * FEW)) return lines;
	return Float32Array.from([...lines, ...contours(geometry)]);
}

/** The same for one of the meshes of a drawing. */
export function edgesOfDrawing(drawing: Drawing, i: number, contoured?: Contours): Float32Array {
	const geometry = new BufferGeometry();
	geometry.setAttribute(
		"position",
		new BufferAttribute(drawing.positions.slice(3 * drawing.vertexStart[i]!, 3 * drawing.vertexStart[i + 1]!), 3),
	);
	geometry.setIndex(new BufferAttribute(drawing.indices.slice(drawing.indexStart[i]!, drawing.indexStart[i + 1]!), 1));
	const lines = formEdges(geometry, contoured);
	geometry.dispose();
	return lines;
}

/** Where three planes, one across each axis, cut the surface. */
function contours(geometry: BufferGeometry): number[] {
	const position = geometry.getAttribute("position");
	const index = geometry.getIndex();
	const count = index ? index.count : position.count;
	geometry.computeBoundingBox();
	const { min, max } = geometry.boundingBox!;
	const lines: number[] = [];
	const corner = (n: number): [number, number, number] => {
		const v = index ? index.getX(n) : n;
		return [position.getX(v), position.getY(v), position.getZ(v)];
	};
	for (let n = 0; n < count; n += 3) {
		const corners = [corner(n), corner(n + 1), corner(n + 2)];
		for (let axis = 0; axis < 3; axis++) {
			const low = min.getComponent(axis);
			const middle = low + (0.5 + OFF) * (max.getComponent(axis) - low);
			const cuts = corners.flatMap((a, k) => {
				const b = corners[(k + 1) % 3]!;
				if (a[axis]! < middle === b[axis]! < middle) return [];
				const share = (middle - a[axis]!) / (b[axis]! - a[axis]!);
				return a.map((x, c) => x + share * (b[c]! - x));
			});
			if (cuts.length === 6) lines.push(...cuts);
		}
	}
	return lines;
}
