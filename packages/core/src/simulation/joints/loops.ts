import { conjugateGradients, tripleAt, type Vec3, vec3 } from "../../maths";
import { find, unite } from "../../mesh";

/** A joint between two nodes; −1 is whatever takes anything. */
export interface Edge {
	readonly ends: readonly [number, number];
	/** Where it holds them, from their centres, metres. */
	readonly arms: readonly [Vec3, Vec3];
}

/** More loops than these are left as they are. */
const MOST_LOOPS = 64;
/** Of the squared errors in moments (over the arms' length), so much do the forces themselves weigh: for where moments tell nothing. */
const SMALL = 1e-4;

/**
 * Forces of joints, N or N s on their first ends, in which moments are in balance, too. Along a tree of joints the balance of forces leaves
 * no choice. Around a loop, and from one post to another through a chain that hangs between them, any force may go round: a garland needs one
 * that holds it apart, and the smallest forces that carry its weight have none. What goes round each loop is what brings the moments of what
 * turns freely nearest to balance, by least squares. `moment`: what joints give a node beyond what they bear themselves, N m or N m s;
 * undefined where they bear moments or nothing is known.
 */
export function balanceLoops(edges: readonly Edge[], forces: readonly Vec3[], moment: (node: number) => Vec3 | undefined): Vec3[] {
	const loops = findLoops(edges);
	if (loops.length === 0 || loops.length > MOST_LOOPS) return [...forces];
	const needs = new Map<number, Vec3>();
	const lengths = new Map<number, number[]>();
	for (const { ends, arms } of edges)
		for (const side of [0, 1] as const) {
			const own = ends[side] < 0 ? undefined : moment(ends[side]);
			if (!own) continue;
			needs.set(ends[side], own);
			lengths.set(ends[side], [...(lengths.get(ends[side]) ?? []), vec3.length(arms[side])]);
		}
	/** 1 / m² of each node. */
	const scales = new Map([...lengths].map(([node, list]) => [node, (list.length / list.reduce((sum, v) => sum + v, 1e-9)) ** 2]));
	/** Forces of all edges from what goes round the loops. */
	const around = (z: Float64Array): Vec3[] => {
		const sums = edges.map((): Vec3 => vec3.ZERO);
		for (const [j, loop] of loops.entries())
			for (const { edge, sign } of loop) sums[edge] = vec3.add(sums[edge]!, vec3.scale(tripleAt(z, j), sign));
		return sums;
	};
	const momentsOf = (list: readonly Vec3[]): Map<number, Vec3> => {
		const sums = new Map<number, Vec3>();
		for (const [k, { ends, arms }] of edges.entries())
			for (const side of [0, 1] as const)
				if (needs.has(ends[side])) {
					const own = vec3.cross(arms[side], vec3.scale(list[k]!, side === 0 ? 1 : -1));
					sums.set(ends[side], vec3.add(sums.get(ends[side]) ?? vec3.ZERO, own));
				}
		return sums;
	};
	/** How the loops act on these moments of nodes and these forces of edges, weighed: the transposed of the two above. */
	const gather = (moments: ReadonlyMap<number, Vec3>, list: readonly Vec3[], into: Float64Array): void => {
		const pulls = edges.map(({ ends, arms }, k) => {
			let sum = vec3.scale(list[k]!, SMALL);
			for (const side of [0, 1] as const) {
				const own = moments.get(ends[side]);
				if (own) sum = vec3.add(sum, vec3.scale(vec3.cross(own, arms[side]), (side === 0 ? 1 : -1) * scales.get(ends[side])!));
			}
			return sum;
		});
		for (const [j, loop] of loops.entries())
			for (const { edge, sign } of loop) for (let d = 0; d < 3; d++) into[3 * j + d]! += sign * pulls[edge]![d]!;
	};
	const given = momentsOf(forces);
	const missing = new Map([...needs].map(([node, need]) => [node, vec3.subtract(need, given.get(node) ?? vec3.ZERO)]));
	const wanted = new Float64Array(3 * loops.length);
	gather(
		missing,
		forces.map((force) => vec3.scale(force, -1)),
		wanted,
	);
	const z = conjugateGradients(
		(x, into) => {
			const list = around(x);
			gather(momentsOf(list), list, into);
		},
		wanted,
		4 * wanted.length + 8,
	);
	return around(z).map((more, k) => vec3.add(forces[k]!, more));
}

interface OnLoop {
	readonly edge: number;
	/** Whether what goes round is added to what it gives its first end, or taken off. */
	readonly sign: 1 | -1;
}

/** One loop for each edge that closes one; what takes anything is one node. */
function findLoops(edges: readonly Edge[]): OnLoop[][] {
	const most = edges.reduce((highest, { ends }) => Math.max(highest, ...ends), -1);
	const place = (node: number): number => node + 1;
	const root = Int32Array.from({ length: most + 2 }, (_, i) => i);
	const tree = new Map<number, { readonly to: number; readonly on: OnLoop }[]>();
	const closing: number[] = [];
	for (const [edge, { ends }] of edges.entries()) {
		const [a, b] = [place(ends[0]), place(ends[1])];
		if (find(root, a) === find(root, b)) {
			if (a !== b) closing.push(edge);
			continue;
		}
		unite(root, a, b);
		tree.set(a, [...(tree.get(a) ?? []), { to: b, on: { edge, sign: 1 } }]);
		tree.set(b, [...(tree.get(b) ?? []), { to: a, on: { edge, sign: -1 } }]);
	}
	return closing.map((edge) => [{ edge, sign: 1 }, ...wayThrough(tree, place(edges[edge]!.ends[1]), place(edges[edge]!.ends[0]))]);
}

function wayThrough(
	tree: ReadonlyMap<number, readonly { readonly to: number; readonly on: OnLoop }[]>,
	from: number,
	to: number,
): OnLoop[] {
	const came = new Map<number, { readonly from: number; readonly on: OnLoop }>();
	const open = [from];
	for (const node of open) {
		if (node === to) break;
		for (const step of tree.get(node) ?? [])
			if (step.to !== from && !came.has(step.to)) {
				came.set(step.to, { from: node, on: step.on });
				open.push(step.to);
			}
	}
	const way: OnLoop[] = [];
	for (let node = to; node !== from; node = came.get(node)!.from) way.unshift(came.get(node)!.on);
	return way;
}
