import { solid } from "./measure";
import { edgeTable, nextCorner } from "./topology";
import { type Mesh, makeMesh } from "./types";
import { selectTriangles } from "./weld";

/** The mesh turned inside out. */
export function flip(mesh: Mesh): Mesh {
	return flipWhere(mesh, () => true);
}

/**
 * Makes neighbouring triangles run the same way round, shell by shell, then turns each shell so that it
 * encloses a positive volume. A shell nested in another (a cavity) keeps the way it came.
 */
export function orient(mesh: Mesh): Mesh {
	const t = mesh.triangles;
	const count = t.length / 3;
	const { order, groups } = edgeTable(mesh);
	const partner = new Int32Array(t.length).fill(-1);
	for (let g = 0; g + 1 < groups.length; g++) {
		const start = groups[g]!;
		if (groups[g + 1]! - start !== 2) continue;
		partner[order[start]!] = order[start + 1]!;
		partner[order[start + 1]!] = order[start]!;
	}
	const turned = new Uint8Array(count);
	const shell = new Int32Array(count).fill(-1);
	const shells: number[][] = [];
	for (let first = 0; first < count; first++) {
		if (shell[first]! >= 0) continue;
		const members = [first];
		shell[first] = shells.length;
		for (let head = 0; head < members.length; head++) {
			const f = members[head]!;
			for (let c = 0; c < 3; c++) {
				const h = 3 * f + c;
				const other = partner[h]!;
				if (other < 0) continue;
				const g = (other / 3) | 0;
				if (shell[g]! >= 0) continue;
				const sameWay = t[h] === t[other] && t[nextCorner(h)] === t[nextCorner(other)];
				turned[g] = turned[f]! ^ (sameWay ? 1 : 0);
				shell[g] = shells.length;
				members.push(g);
			}
		}
		shells.push(members);
	}
	const consistent = flipWhere(mesh, (f) => turned[f] === 1);
	const inward = new Set<number>();
	shells.forEach((members, s) => {
		if (solid(selectTriangles(consistent, members)).volume < 0 && !isNested(consistent, shells, s)) inward.add(s);
	});
	return inward.size === 0 ? consistent : flipWhere(consistent, (f) => inward.has(shell[f]!));
}

/** Whether the box of a shell lies within the box of another one. */
function isNested(mesh: Mesh, shells: readonly number[][], s: number): boolean {
	const boxOf = (members: readonly number[]) => {
		const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
		for (const f of members)
			for (let c = 0; c < 3; c++)
				for (let k = 0; k < 3; k++) {
					const value = mesh.positions[mesh.triangles[3 * f + c]! * 3 + k]!;
					box[k] = Math.min(box[k]!, value);
					box[k + 3] = Math.max(box[k + 3]!, value);
				}
		return box;
	};
	if (shells.length < 2 || shells.length > 200) return false;
	const own = boxOf(shells[s]!);
	return shells.some((members, other) => {
		if (other === s) return false;
		const box = boxOf(members);
		return [0, 1, 2].every((k) => box[k]! < own[k]! && box[k + 3]! > own[k + 3]!);
	});
}

function flipWhere(mesh: Mesh, test: (triangle: number) => boolean): Mesh {
	const triangles = mesh.triangles.slice();
	const uv = mesh.uv.slice();
	for (let f = 0; f < triangles.length / 3; f++) {
		if (!test(f)) continue;
		[triangles[3 * f + 1], triangles[3 * f + 2]] = [triangles[3 * f + 2]!, triangles[3 * f + 1]!];
		if (uv.length > 0) for (let k = 0; k < 2; k++) [uv[6 * f + 2 + k], uv[6 * f + 4 + k]] = [uv[6 * f + 4 + k]!, uv[6 * f + 2 + k]!];
	}
	return makeMesh(mesh.positions, triangles, { uv, inside: mesh.inside, neighbour: mesh.neighbour });
}
