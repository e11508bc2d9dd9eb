import { edgeTable, nextCorner } from "./topology";
import { type Mesh, makeMesh } from "./types";

/**
 * Closes every hole with a fan about the middle of its rim. Rims are followed along open half-edges;
 * a rim that touches itself is split into simple loops first. Meant for small and fairly flat holes: a large
 * or winding one is closed too, but voxel re-meshing gives a better surface there.
 */
export function fillHoles(mesh: Mesh): Mesh {
	const t = mesh.triangles;
	const { order, groups } = edgeTable(mesh);
	// Open edges, run against their triangle, so that the fan runs the right way round.
	const next = new Map<number, number[]>();
	for (let g = 0; g + 1 < groups.length; g++) {
		if (groups[g + 1]! - groups[g]! !== 1) continue;
		const h = order[groups[g]!]!;
		const from = t[nextCorner(h)]!;
		const to = t[h]!;
		const list = next.get(from);
		if (list) list.push(to);
		else next.set(from, [to]);
	}
	const positions = Array.from(mesh.positions);
	const triangles = Array.from(t);
	for (const start of [...next.keys()].sort((a, b) => a - b))
		while ((next.get(start)?.length ?? 0) > 0) for (const loop of simpleLoops(next, start)) closeLoop(positions, triangles, loop);
	const added = triangles.length / 3 - t.length / 3;
	if (added === 0) return mesh;
	return makeMesh(Float32Array.from(positions), Uint32Array.from(triangles), {
		...(mesh.uv.length > 0 && { uv: extend(mesh.uv, added * 6, (n) => new Float32Array(n)) }),
		...(mesh.inside.length > 0 && { inside: extend(mesh.inside, added, (n) => new Uint8Array(n)) }),
	});
}

/** Walks one rim and cuts it wherever it comes back to a vertex it has passed. */
function simpleLoops(next: Map<number, number[]>, start: number): number[][] {
	const loops: number[][] = [];
	const path: number[] = [start];
	const place = new Map([[start, 0]]);
	for (let at = start; ; ) {
		const to = next.get(at)?.pop();
		if (to === undefined) return loops; // a rim that does not close: nothing can be filled there
		const seen = place.get(to);
		if (seen !== undefined) {
			const loop = path.splice(seen + 1);
			for (const v of loop) place.delete(v);
			loops.push([to, ...loop]);
			if (path.length === 1 && to === start) return loops;
		} else {
			place.set(to, path.length);
			path.push(to);
		}
		at = to;
	}
}

function closeLoop(positions: number[], triangles: number[], loop: readonly number[]): void {
	if (loop.length < 3) return;
	if (loop.length === 3) {
		triangles.push(loop[0]!, loop[1]!, loop[2]!);
		return;
	}
	const middle = positions.length / 3;
	for (let k = 0; k < 3; k++) {
		let sum = 0;
		for (const v of loop) sum += positions[3 * v + k]!;
		positions.push(sum / loop.length);
	}
	for (let i = 0; i < loop.length; i++) triangles.push(loop[i]!, loop[(i + 1) % loop.length]!, middle);
}

function extend<A extends Float32Array | Uint8Array>(source: A, by: number, make: (n: number) => A): A {
	const out = make(source.length + by);
	out.set(source);
	return out;
}
