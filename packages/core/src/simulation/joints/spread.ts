import { conjugateGradients, type Vec3 } from "../../maths";

/**
 * What each edge gives its first end (and takes from its second), so that every node gets what it needs: the smallest
 * such. `need` is undefined for nodes that take anything. Conjugate gradients on the graph's Laplacian.
 */
export function spread(edges: readonly (readonly [number, number])[], need: (node: number) => Vec3 | undefined): Vec3[] {
	const index = new Map<number, number>();
	for (const edge of edges) for (const node of edge) if (node >= 0 && need(node) && !index.has(node)) index.set(node, index.size);
	const n = index.size;
	const ends = edges.map(([a, b]) => [index.get(a) ?? -1, index.get(b) ?? -1] as const);
	const nodes = [...index.keys()];
	const laplacian = (x: Float64Array, into: Float64Array): void => {
		for (const [a, b] of ends) {
			const difference = (a < 0 ? 0 : x[a]!) - (b < 0 ? 0 : x[b]!);
			if (a >= 0) into[a]! += difference;
			if (b >= 0) into[b]! -= difference;
		}
	};
	const lambda = [0, 1, 2].map((d) =>
		conjugateGradients(
			laplacian,
			Float64Array.from(nodes, (node) => need(node)![d]!),
			4 * n + 8,
		),
	);
	return ends.map(([a, b]) => [0, 1, 2].map((d) => (a < 0 ? 0 : lambda[d]![a]!) - (b < 0 ? 0 : lambda[d]![b]!)) as unknown as Vec3);
}
