import type { Mesh } from "./types";

/** What the index says about a mesh. Edges are counted once per pair of vertices. */
export interface Topology {
	/** Edges with one triangle. */
	readonly openEdges: number;
	/** Edges with more than two triangles. */
	readonly crowdedEdges: number;
	/** Edges whose two triangles run the same way round: one of them is flipped. */
	readonly flippedEdges: number;
	/** Connected parts by shared edges. */
	readonly shells: number;
	readonly closed: boolean;
	/** Holes that go through it, of all shells together: 1 of a ring; 0 where it is not closed. */
	readonly genus: number;
	/** 1 per triangle: its shell, 0 … shells − 1. */
	readonly shellOf: Int32Array;
}

/** Half-edges sorted by their undirected edge: the basis of everything that asks who adjoins whom. */
export interface EdgeTable {
	/** Half-edge ids (triangle × 3 + corner), grouped by undirected edge. */
	readonly order: Uint32Array;
	/** Start of each group in `order`; one more entry than there are edges. */
	readonly groups: Uint32Array;
}

export function edgeTable(mesh: Pick<Mesh, "triangles">): EdgeTable {
	const t = mesh.triangles;
	const count = t.length;
	const keys = new Float64Array(count);
	for (let h = 0; h < count; h++) {
		const a = t[h]!;
		const b = t[nextCorner(h)]!;
		keys[h] = a < b ? a * 4294967296 + b : b * 4294967296 + a;
	}
	const order = Uint32Array.from(keys.keys()).sort((a, b) => keys[a]! - keys[b]! || a - b);
	const starts: number[] = [];
	for (let i = 0; i < count; i++) if (i === 0 || keys[order[i]!] !== keys[order[i - 1]!]) starts.push(i);
	starts.push(count);
	return { order, groups: Uint32Array.from(starts) };
}

/** The half-edge that follows `h` around its triangle. */
export const nextCorner = (h: number): number => (h % 3 === 2 ? h - 2 : h + 1);

export function topology(mesh: Mesh, table: EdgeTable = edgeTable(mesh)): Topology {
	const t = mesh.triangles;
	const { order, groups } = table;
	const parent = Int32Array.from({ length: t.length / 3 }, (_, i) => i);
	let openEdges = 0;
	let crowdedEdges = 0;
	let flippedEdges = 0;
	for (let g = 0; g + 1 < groups.length; g++) {
		const start = groups[g]!;
		const size = groups[g + 1]! - start;
		const first = order[start]!;
		for (let i = 1; i < size; i++) unite(parent, third(first), third(order[start + i]!));
		if (size === 1) openEdges++;
		else if (size > 2) crowdedEdges++;
		else if (t[first] === t[order[start + 1]!]) flippedEdges++;
	}
	const shellOf = new Int32Array(parent.length);
	const number = new Map<number, number>();
	for (let i = 0; i < parent.length; i++) {
		const root = find(parent, i);
		let shell = number.get(root);
		if (shell === undefined) {
			shell = number.size;
			number.set(root, shell);
		}
		shellOf[i] = shell;
	}
	const shells = number.size;
	const closed = t.length > 0 && openEdges === 0 && crowdedEdges === 0 && flippedEdges === 0;
	// Euler and Poincaré: vertices − edges + faces = 2 (shells − genus).
	const genus = closed ? shells - (new Set(t).size - (groups.length - 1) + parent.length) / 2 : 0;
	return { openEdges, crowdedEdges, flippedEdges, shells, closed, genus, shellOf };
}

const third = (h: number): number => (h / 3) | 0;

export function find(parent: Int32Array, i: number): number {
	let root = i;
	while (parent[root] !== root) root = parent[root]!;
	for (let at = i; at !== root; ) {
		const up = parent[at]!;
		parent[at] = root;
		at = up;
	}
	return root;
}

export function unite(parent: Int32Array, a: number, b: number): void {
	const ra = find(parent, a);
	const rb = find(parent, b);
	// The lower index stays the root, so that numbering does not depend on the order of unions.
	if (ra < rb) parent[rb] = ra;
	else parent[ra] = rb;
}
