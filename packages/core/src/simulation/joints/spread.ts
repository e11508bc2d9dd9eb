import { conjugateGradients, type Vec3, vec3 } from "../../maths";
import { find, unite } from "../../mesh";

/**
 * What each edge gives its first end (and takes from its second), so that every node gets what it needs: the smallest
 * such. `need` is undefined for nodes that take anything. Conjugate gradients on the graph's Laplacian.
 *
 * Where nothing that hangs together takes anything, what its nodes need has to add up to nothing; what it does not is taken off those whose
 * need is not `sure`, in equal shares, or off all. Left in, it made 1e15 MPa of a ball on a rope.
 */
export function spread(
	edges: readonly (readonly [number, number])[],
	need: (node: number) => Vec3 | undefined,
	sure: (node: number) => boolean = () => false,
): Vec3[] {
	const index = new Map<number, number>();
	for (const edge of edges) for (const node of edge) if (node >= 0 && need(node) && !index.has(node)) index.set(node, index.size);
	const n = index.size;
	const ends = edges.map(([a, b]) => [index.get(a) ?? -1, index.get(b) ?? -1] as const);
	const nodes = [...index.keys()];
	const needs = addedUp(
		ends,
		nodes.map((node) => need(node)!),
		nodes.map(sure),
	);
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
			Float64Array.from(needs, (own) => own[d]!),
			4 * n + 8,
		),
	);
	return ends.map(([a, b]) => [0, 1, 2].map((d) => (a < 0 ? 0 : lambda[d]![a]!) - (b < 0 ? 0 : lambda[d]![b]!)) as unknown as Vec3);
}

/** Needs that add up to nothing in each whole that no edge ties to what takes anything, −1. */
function addedUp(ends: readonly (readonly [number, number])[], needs: readonly Vec3[], sure: readonly boolean[]): Vec3[] {
	const root = Int32Array.from({ length: needs.length + 1 }, (_, i) => i);
	for (const [a, b] of ends) unite(root, a + 1, b + 1);
	const wholes = new Map<number, number[]>();
	for (const i of needs.keys()) {
		const whole = find(root, i + 1);
		if (whole !== find(root, 0)) wholes.set(whole, [...(wholes.get(whole) ?? []), i]);
	}
	const settled = [...needs];
	for (const all of wholes.values()) {
		const unsure = all.filter((i) => !sure[i]);
		const takers = unsure.length > 0 ? unsure : all;
		const left = vec3.scale(
			all.reduce((sum, i) => vec3.add(sum, needs[i]!), vec3.ZERO),
			1 / takers.length,
		);
		for (const i of takers) settled[i] = vec3.subtract(needs[i]!, left);
	}
	return settled;
}
