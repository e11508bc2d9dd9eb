import { area, type Mesh, solid, transformMesh } from "../mesh";
import type { CarvedCell } from "./carve";
import type { Contact, Piece, Pieces } from "./types";

/** Crumbs below this share of the source are rounding, not pieces. */
const LEAST_SHARE = 1e-10;

/**
 * Gives carved parts their names, pivots and shared faces. Cell n (counted from 1) becomes `0000n`; where it
 * fell into several connected parts the largest keeps that name and the others are `0000nb`, `0000nc`, ….
 */
export function assemble(carved: readonly CarvedCell[], sourceVolume: number): Pieces {
	const pieces: Piece[] = [];
	/** Each piece's mesh before it was moved to its pivot. */
	const placed: Mesh[] = [];
	const cellOf: number[] = [];
	const membersOf = new Map<number, number[]>();
	for (const cell of carved) {
		const parts = cell.parts
			.map((mesh) => ({ mesh, ...solid(mesh) }))
			.filter((part) => part.volume > LEAST_SHARE * sourceVolume)
			.sort((a, b) => b.volume - a.volume || a.centroid[0] - b.centroid[0] || a.centroid[1] - b.centroid[1]);
		membersOf.set(
			cell.seed,
			parts.map((part, n) => {
				const number = cell.seed + 1;
				const [x, y, z] = part.centroid;
				pieces.push({
					key: n === 0 ? `${number}` : `${number}.${n + 1}`,
					name: `${String(number).padStart(5, "0")}${suffix(n)}`,
					mesh: transformMesh(part.mesh, { translation: [-x, -y, -z] }),
					pivot: part.centroid,
					volume: part.volume,
					area: area(part.mesh),
				});
				placed.push(part.mesh);
				cellOf.push(cell.seed);
				return pieces.length - 1;
			}),
		);
	}
	const total = pieces.reduce((sum, piece) => sum + piece.volume, 0);
	return { pieces, contacts: findContacts(placed, cellOf, membersOf), sourceVolume, lacking: sourceVolume - total };
}

/** "" for the first, then b, c … z, then aa, ab …. */
function suffix(n: number): string {
	if (n === 0) return "";
	return n < 26 ? String.fromCharCode(97 + n) : suffix(Math.floor(n / 26)) + String.fromCharCode(97 + (n % 26));
}

/**
 * Sums the inside triangles of each piece by the piece beyond them. Where the cell beyond fell into several parts,
 * the one whose own face covers the triangle's middle is meant: both sides cover the same region of the plane.
 */
function findContacts(meshes: readonly Mesh[], cellOf: readonly number[], membersOf: ReadonlyMap<number, readonly number[]>): Contact[] {
	const sums = new Map<number, { a: number; b: number; n: [number, number, number]; area: number; c: [number, number, number] }>();
	meshes.forEach((mesh, a) => {
		const { positions: p, triangles: t, neighbour } = mesh;
		for (let f = 0; f < neighbour.length; f++) {
			const cell = neighbour[f]!;
			if (cell < 0) continue;
			const members = membersOf.get(cell) ?? [];
			if (members.length === 0) continue;
			// One side is enough: both cover the same region.
			if (cellOf[a]! > cell) continue;
			const [i, j, k] = [t[3 * f]! * 3, t[3 * f + 1]! * 3, t[3 * f + 2]! * 3];
			const e = [0, 1, 2].map((x) => p[j + x]! - p[i + x]!);
			const g = [0, 1, 2].map((x) => p[k + x]! - p[i + x]!);
			const n = [0, 1, 2].map((x) => (e[(x + 1) % 3]! * g[(x + 2) % 3]! - e[(x + 2) % 3]! * g[(x + 1) % 3]!) / 2) as [
				number,
				number,
				number,
			];
			const size = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2);
			const middle = [0, 1, 2].map((x) => (p[i + x]! + p[j + x]! + p[k + x]!) / 3) as [number, number, number];
			const b = members.length === 1 ? members[0]! : members.find((m) => covers(meshes[m]!, cellOf[a]!, middle, n));
			if (b === undefined || size === 0) continue;
			const key = a * meshes.length + b;
			let sum = sums.get(key);
			if (!sum) {
				sum = { a, b, n: [0, 0, 0], area: 0, c: [0, 0, 0] };
				sums.set(key, sum);
			}
			sum.area += size;
			for (let x = 0; x < 3; x++) {
				sum.n[x]! += n[x]!;
				sum.c[x]! += size * middle[x]!;
			}
		}
	});
	return [...sums.values()]
		.map(({ a, b, n, area, c }): Contact => {
			const l = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2);
			const s = l > 0 ? (a < b ? 1 : -1) / l : 0;
			return {
				a: Math.min(a, b),
				b: Math.max(a, b),
				area,
				normal: [n[0] * s, n[1] * s, n[2] * s],
				centre: [c[0] / area, c[1] / area, c[2] / area],
			};
		})
		.sort((x, y) => x.a - y.a || x.b - y.b);
}

/** Whether a face of this mesh towards `cell` covers the point, seen along the normal. */
function covers(
	{ positions: p, triangles: t, neighbour }: Mesh,
	cell: number,
	point: readonly number[],
	normal: readonly number[],
): boolean {
	const drop = [0, 1, 2].reduce((best, k) => (Math.abs(normal[k]!) > Math.abs(normal[best]!) ? k : best), 0);
	const u = (drop + 1) % 3;
	const v = (drop + 2) % 3;
	for (let f = 0; f < neighbour.length; f++) {
		if (neighbour[f] !== cell) continue;
		const [a, b, c] = [t[3 * f]! * 3, t[3 * f + 1]! * 3, t[3 * f + 2]! * 3];
		const side = (i: number, j: number) =>
			(p[j + u]! - p[i + u]!) * (point[v]! - p[i + v]!) - (p[j + v]! - p[i + v]!) * (point[u]! - p[i + u]!);
		const [x, y, z] = [side(a, b), side(b, c), side(c, a)];
		if ((x >= 0 && y >= 0 && z >= 0) || (x <= 0 && y <= 0 && z <= 0)) return true;
	}
	return false;
}
