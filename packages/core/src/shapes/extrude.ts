import { type Mesh, makeMesh } from "../mesh";

/** A flat outline (u right, v up, counter-clockwise) without holes, given as quads or triangles, made `depth` thick along z. */
export function extrude(
	points: readonly (readonly [number, number])[],
	rim: readonly number[],
	faces: readonly (readonly number[])[],
	depth: number,
): Mesh {
	const count = points.length;
	const positions = [...points.flatMap(([u, v]) => [u, v, depth / 2]), ...points.flatMap(([u, v]) => [u, v, -depth / 2])];
	const triangles: number[] = [];
	for (const face of faces)
		for (let i = 1; i + 1 < face.length; i++) {
			const [a, b, c] = [face[0]!, face[i]!, face[i + 1]!];
			triangles.push(a, b, c, count + a, count + c, count + b);
		}
	rim.forEach((a, i) => {
		const b = rim[(i + 1) % rim.length]!;
		triangles.push(a, count + a, count + b, a, count + b, b);
	});
	return makeMesh(positions, triangles);
}
