import { cos, sin } from "../maths";
import { type Mesh, makeMesh } from "../mesh";

/**
 * A closed outline turned around the upright axis. Points are radius and height in turn, counter-clockwise with the
 * axis at the left; points on the axis (radius 0) become one vertex.
 */
export function lathe(outline: readonly (readonly [number, number])[], segments: number): Mesh {
	const positions: number[] = [];
	const rings = outline.map(([radius, height]) => {
		const first = positions.length / 3;
		if (radius === 0) {
			positions.push(0, height, 0);
			return { first, count: 1 };
		}
		for (let s = 0; s < segments; s++) {
			const a = (2 * Math.PI * s) / segments;
			positions.push(radius * cos(a), height, -radius * sin(a));
		}
		return { first, count: segments };
	});
	const triangles: number[] = [];
	rings.forEach((ring, i) => {
		const next = rings[(i + 1) % rings.length]!;
		if (ring.count === 1 && next.count === 1) return;
		for (let s = 0; s < segments; s++) {
			const t = (s + 1) % segments;
			const [a, b] = [ring.first + (ring.count > 1 ? s : 0), ring.first + (ring.count > 1 ? t : 0)];
			const [c, d] = [next.first + (next.count > 1 ? t : 0), next.first + (next.count > 1 ? s : 0)];
			if (ring.count > 1) triangles.push(a, b, c);
			if (next.count > 1) triangles.push(a, c, d);
		}
	});
	return makeMesh(positions, triangles);
}
