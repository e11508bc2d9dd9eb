import { vec3 } from "../maths";
import { bounds, boundsSize, joinMeshes, type Mesh, selectTriangles, solid, topology, transformMesh, weld } from "../mesh";
import type { OptionSpec } from "../shot";
import { fromSolid, type Solids, scoped, toSolid } from "../solid";
import { makeSums } from "./contacts";
import { centred, collect } from "./pieces";
import type { Contact, Piece, Pieces } from "./types";

/** What every method offers to do with its slivers. */
export interface SliverOptions {
	readonly slivers: "keep" | "merge" | "remove";
	/** Share of the mean volume. */
	readonly below: number;
}

export const SLIVER_OPTIONS: Readonly<Record<keyof SliverOptions, OptionSpec>> = {
	slivers: {
		kind: "choice",
		label: "Slivers",
		default: "keep",
		choices: [
			{ id: "keep", label: "Keep", help: "They stay pieces of their own" },
			{ id: "merge", label: "Merge", help: "Into the neighbour they share most with" },
			{ id: "remove", label: "Remove", help: "They are left out; what they held is lacking" },
		],
		help: "What becomes of tiny and wafer-thin pieces",
	},
	below: {
		kind: "number",
		label: "Below",
		unit: "",
		percent: true,
		default: 0.05,
		least: 0,
		most: 1,
		help: "Pieces of less than this share of the mean volume are slivers",
		when: ({ slivers }) => slivers !== "keep",
	},
};

/** A piece this many times thinner than most is wafer-thin. */
const WAFER = 8;

/**
 * Indices of pieces that are tiny, or far thinner than their like. Thickness is twice the volume over the surface.
 * Bricks are compared with bricks and mortar with mortar, pieces of a piece with each other: by the name up to its last `/`.
 */
export function findSlivers(pieces: readonly Pick<Piece, "name" | "volume" | "area">[], below: number): number[] {
	const likes = new Map<string, number[]>();
	pieces.forEach(({ name }, i) => {
		const kind = name.slice(0, name.lastIndexOf("/") + 1);
		const list = likes.get(kind);
		if (list) list.push(i);
		else likes.set(kind, [i]);
	});
	const found: number[] = [];
	for (const members of likes.values()) {
		if (members.length < 2) continue;
		const mean = members.reduce((sum, i) => sum + pieces[i]!.volume, 0) / members.length;
		const thickness = (i: number) => (2 * pieces[i]!.volume) / pieces[i]!.area;
		const middle = members.map(thickness).sort((x, y) => x - y)[members.length >> 1]!;
		found.push(...members.filter((i) => pieces[i]!.volume < below * mean || thickness(i) < middle / WAFER));
	}
	return found.sort((x, y) => x - y);
}

/** The pieces without their slivers, as the options say. Names of the others stay. */
export function treatSlivers(solids: Solids, broken: Pieces, { slivers, below }: SliverOptions): Pieces {
	if (slivers === "keep") return broken;
	const found = findSlivers(broken.pieces, below);
	if (found.length === 0) return broken;
	return slivers === "remove" ? without(broken, new Set(found)) : merged(solids, broken, found);
}

function without(broken: Pieces, gone: ReadonlySet<number>): Pieces {
	const index = new Int32Array(broken.pieces.length).fill(-1);
	const pieces = broken.pieces.filter((_, i) => !gone.has(i));
	let next = 0;
	broken.pieces.forEach((_, i) => {
		if (!gone.has(i)) index[i] = next++;
	});
	const contacts = broken.contacts
		.filter(({ a, b }) => !gone.has(a) && !gone.has(b))
		.map((contact) => ({ ...contact, a: index[contact.a]!, b: index[contact.b]! }));
	return collect(pieces, contacts, broken.sourceVolume);
}

function merged(solids: Solids, broken: Pieces, found: readonly number[]): Pieces {
	const { pieces, contacts } = broken;
	const target = Int32Array.from(pieces, (_, i) => i);
	const root = (i: number): number => {
		let at = i;
		while (target[at] !== at) at = target[at]!;
		return at;
	};
	// The smallest first: chains of crumbs grow together until they reach a real piece.
	for (const i of [...found].sort((a, b) => pieces[a]!.volume - pieces[b]!.volume || a - b)) {
		const shared = new Map<number, number>();
		for (const { a, b, area: size } of contacts) {
			const [one, other] = [root(a), root(b)];
			if (one === other || (one !== root(i) && other !== root(i))) continue;
			const beyond = one === root(i) ? other : one;
			shared.set(beyond, (shared.get(beyond) ?? 0) + size);
		}
		const best = [...shared].sort((x, y) => y[1] - x[1] || x[0] - y[0])[0];
		if (best) target[root(i)] = best[0];
	}
	const groups = new Map<number, number[]>();
	pieces.forEach((_, i) => {
		const list = groups.get(root(i)) ?? [];
		if (list.length === 0) groups.set(root(i), list);
		list.push(i);
	});
	const index = new Int32Array(pieces.length);
	const kept = [...groups].sort(([a], [b]) => a - b);
	const made = kept.map(([owner, members], n): Piece => {
		for (const member of members) index[member] = n;
		return members.length === 1
			? pieces[owner]!
			: unite(
					solids,
					pieces[owner]!,
					members.map((member) => pieces[member]!),
				);
	});
	return collect(
		made,
		joinContacts(contacts.map((contact) => ({ ...contact, a: index[contact.a]!, b: index[contact.b]! }))),
		broken.sourceVolume,
	);
}

/** Several pieces as one, named like the owner, with the pivot in their common centre. */
function unite(solids: Solids, owner: Piece, members: readonly Piece[]): Piece {
	const textured = members.every((member) => member.mesh.uv.length > 0);
	const placed = members.map((member) =>
		transformMesh({ ...member.mesh, ...(!textured && { uv: new Float32Array(0) }) }, { translation: member.pivot }),
	);
	return { ...owner, ...centred(sewTogether(placed) ?? united(solids, placed)) };
}

/**
 * Joins meshes whose shared faces have the same corners by leaving those faces out: exact, where a boolean leaves thin
 * voids between faces that differ by rounding. Undefined where the rest does not close.
 */
function sewTogether(parts: readonly Mesh[]): Mesh | undefined {
	const joined = joinMeshes(parts);
	const size = Math.max(...boundsSize(bounds(joined)));
	const welded = weld(joined, WELD * size);
	// Which parts have a corner at this vertex.
	const owners: Set<number>[] = [];
	const partOf = parts.flatMap((part, i) => new Array<number>(part.triangles.length / 3).fill(i));
	if (welded.triangles.length !== joined.triangles.length) return undefined;
	welded.triangles.forEach((v, c) => {
		owners[v] ??= new Set();
		owners[v].add(partOf[Math.floor(c / 3)]!);
	});
	const shared = (f: number): boolean => {
		if (welded.inside[f] !== 1) return false;
		const corners = [0, 1, 2].map((k) => owners[welded.triangles[3 * f + k]!]!);
		return parts.some((_, other) => other !== partOf[f] && corners.every((set) => set.has(other)));
	};
	const kept = partOf.flatMap((_, f) => (shared(f) ? [] : [f]));
	const sewn = selectTriangles(welded, kept);
	return topology(sewn).closed &&
		Math.abs(solid(sewn).volume - parts.reduce((sum, part) => sum + solid(part).volume, 0)) < 1e-6 * solid(sewn).volume
		? sewn
		: undefined;
}

/** Share of the size within which corners are the same. */
const WELD = 1e-6;

function united(solids: Solids, parts: readonly Mesh[]): Mesh {
	return scoped((hold) => {
		const first = solids.Manifold.reserveIDs(parts.length);
		const tagged = parts.map((part, i) =>
			hold(toSolid(solids, part, { id: first + i, faces: Uint32Array.from({ length: part.triangles.length / 3 }, (_, f) => f) })),
		);
		const whole = hold(solids.Manifold.union(tagged));
		const inside = new Uint8Array(whole.numTri());
		const neighbour = new Int32Array(whole.numTri()).fill(-1);
		const raw = fromSolid(whole, (triangle, id, face) => {
			inside[triangle] = parts[id - first]?.inside[face] ?? 0;
			neighbour[triangle] = parts[id - first]?.neighbour[face] ?? -1;
		});
		return { ...raw, inside, neighbour };
	});
}

/** Contacts of the same pair as one; those within a piece are gone. */
function joinContacts(contacts: readonly Contact[]): Contact[] {
	const sums = makeSums();
	for (const { a, b, area: size, normal, centre } of contacts) if (a !== b) sums.add(a, b, vec3.scale(normal, size), size, centre);
	return sums.contacts();
}
