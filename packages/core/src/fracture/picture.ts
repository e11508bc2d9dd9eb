import { bad, good, report } from "../common";
import { type Mesh, solid, transformMesh } from "../mesh";
import { fromSolid, type Solids, scoped } from "../solid";
import { assemble, type CarvedCell } from "./assemble";
import { carveCells, roomAround } from "./carve";
import { makeDomain, voronoiCells } from "./cells";
import { partByKnife } from "./knife";
import { defineMethod } from "./options";
import { planarUv } from "./planarUv";
import { type Face, thinnestFace } from "./prisms";
import { findStones, type Picture, type Stones, type StonesOptions } from "./stones";
import type { Piece } from "./types";

const MOST_STONES = 5000;

/** Stones and mortar as they are seen in a picture, which covers the object's broadest face. */
export const picture = defineMethod<StonesOptions & { readonly mortar: "pieces" | "gap" }>({
	id: "picture",
	label: "From a picture",
	help: "Finds the joints in a picture of masonry: stones and mortar become pieces.",
	options: {
		picture: { kind: "picture", label: "Picture", help: "PNG or JPEG; it covers the broadest face" },
		joints: {
			kind: "choice",
			label: "Joints",
			default: "dark",
			choices: [
				{ id: "dark", label: "Dark", help: "Darker than the stones" },
				{ id: "light", label: "Light", help: "Lighter than the stones" },
			],
			help: "How joints look in the picture",
		},
		threshold: {
			kind: "number",
			label: "Threshold",
			unit: "",
			default: 0,
			least: 0,
			most: 1,
			help: "Brightness between joints and stones; 0 finds it by itself",
		},
		smallest: {
			kind: "number",
			label: "Smallest",
			unit: "",
			default: 0.0008,
			least: 0,
			most: 1,
			percent: true,
			help: "Smaller stones than this share of the picture go to the mortar",
		},
		calm: {
			kind: "number",
			label: "Calm",
			unit: "px",
			default: 1,
			least: 0,
			most: 20,
			help: "Averages this many pixels, so that grain is no joint",
		},
		mortar: {
			kind: "choice",
			label: "Mortar",
			default: "pieces",
			choices: [
				{ id: "pieces", label: "Pieces", help: "One between each two stones" },
				{ id: "gap", label: "Gap", help: "Left out" },
			],
			help: "What fills the joints",
		},
		paint: {
			kind: "choice",
			label: "Front",
			default: "picture",
			choices: [
				{ id: "picture", label: "Picture", help: "The picture is on the front and the back" },
				{ id: "plain", label: "Plain", help: "Only the material is to be seen" },
			],
			help: "What the faces that were there before look like",
		},
	},
	estimate: () => 1.2,
	run: async ({ solids, mesh, volume, pictures: [seen] }, { mortar, ...options }, progress) => {
		if (!seen) return bad("From a picture: choose a picture of masonry first.");
		await report(progress, 0, "Looking for joints");
		const stones = findStones(seen, options);
		if (stones.outlines.length < 2)
			return bad("From a picture: no joints were found in it. Try the other kind of joints, or another threshold.");
		if (stones.outlines.length > MOST_STONES)
			return bad(
				`From a picture: ${stones.outlines.length.toLocaleString("en")} stones were found; the most is ${MOST_STONES.toLocaleString("en")}. Take a larger smallest stone or more calm.`,
			);
		await report(progress, 0.2, "Cutting stones");
		const face = thinnestFace(mesh);
		const parted = partByKnife(solids, mesh, extrudeStones(solids, mesh, face, seen, stones));
		if (!parted) return bad("From a picture: the stones leave no joint between them. Try another threshold.");
		const bricks = inRows(parted.inside, face);
		const cells: CarvedCell[] = bricks.map((part, seed) => ({ seed, group: "brick", parts: [part] }));
		if (mortar === "pieces") {
			await report(progress, 0.6, "Parting the mortar");
			cells.push(...(await joints(solids, parted.outside, bricks, face, progress)));
		}
		const made = assemble(cells, volume, "surface");
		return good({ ...made, pieces: made.pieces.map((piece) => ({ ...piece, mesh: { ...piece.mesh, uv: pictureUv(piece, face) } })) });
	},
});

/** All stones through the whole thickness, in the object's frame. */
function extrudeStones(solids: Solids, mesh: Mesh, face: Face, { width, height }: Picture, { outlines }: Stones): Mesh {
	const { min, max } = face;
	const across = (max[0] - min[0]) / width;
	const up = (max[1] - min[1]) / height;
	const { margin } = roomAround(mesh);
	const depth = max[2] - min[2] + 200 * margin;
	return scoped((hold) => {
		// Half a pixel of an outline is less than the picture knows.
		const section = new solids.CrossSection(
			outlines.flatMap((polygon) => polygon.map((ring) => ring.map(([x, y]) => [x, height - y] as [number, number]))),
			"EvenOdd",
		);
		const simple = section.simplify(0.4);
		section.delete();
		const block = hold(simple.extrude(1));
		simple.delete();
		const raw = fromSolid(block);
		const positions = new Float32Array(raw.positions.length);
		for (let v = 0; v < positions.length; v += 3) {
			positions[v + face.u] = min[0] + across * raw.positions[v]!;
			positions[v + face.v] = min[1] + up * raw.positions[v + 1]!;
			positions[v + face.w] = (min[2] + max[2]) / 2 + depth * (raw.positions[v + 2]! - 0.5);
		}
		// u, v, w turn the other way round for some faces: then triangles must be turned too.
		const turned = (face.u + 1) % 3 !== face.v;
		return transformMesh(
			{ ...raw, positions, ...(turned && { triangles: raw.triangles.map((_, i, t) => t[i - (i % 3) + [0, 2, 1][i % 3]!]!) }) },
			{},
		);
	});
}

/** Where each corner lies in the picture, from its upper left; faces laid open get metres. */
function pictureUv({ mesh, pivot }: Pick<Piece, "mesh" | "pivot">, { u, v, min, max }: Face): Float32Array {
	const uv = planarUv(mesh);
	const { positions: p, triangles: t } = mesh;
	for (let c = 0; c < t.length; c++) {
		if (mesh.inside[(c / 3) | 0] === 1) continue;
		uv[2 * c] = (p[3 * t[c]! + u]! + pivot[u]! - min[0]) / (max[0] - min[0]);
		uv[2 * c + 1] = (max[1] - p[3 * t[c]! + v]! - pivot[v]!) / (max[1] - min[1]);
	}
	return uv;
}

/** From the top row to the bottom one, left to right. */
function inRows(parts: readonly Mesh[], { u, v, min, max }: Face): Mesh[] {
	const row = (max[1] - min[1]) / 40;
	return parts
		.map((part) => ({ part, at: solid(part).centroid }))
		.sort((a, b) => Math.round((b.at[v]! - a.at[v]!) / row) || a.at[u]! - b.at[u]!)
		.map(({ part }) => part);
}

/**
 * The mortar, a piece for each pair of neighbouring stones: the Voronoi cells of the places between them. Bars between
 * two stones are nearly convex, so they collide as seen; a collar around each stone would be a ring.
 */
async function joints(
	solids: Solids,
	mortar: readonly Mesh[],
	bricks: readonly Mesh[],
	face: Face,
	progress: Parameters<typeof report>[0],
): Promise<CarvedCell[]> {
	const sites = placesBetween(bricks, face);
	const count = sites.length / 3;
	const carved: CarvedCell[] = [];
	let tags = 0;
	for (const brick of bricks) for (const tag of brick.neighbour) tags = Math.max(tags, tag + 1);
	for (const part of mortar) {
		const { min, max } = roomAround(part);
		const cells = [...voronoiCells(sites, makeDomain(min, max))].map((cell) => ({
			...cell,
			// The face between two bars is a cut of its own, the same from both sides.
			neighbour: cell.neighbour.map((other) =>
				other < 0 ? other : tags + Math.min(cell.seed, other) * count + Math.max(cell.seed, other),
			),
		}));
		carved.push(...(await carveCells(solids, part, cells, progress)).map((cell) => ({ ...cell, group: "mortar" })));
	}
	return carved.sort((a, b) => a.seed - b.seed);
}

/** Between each two stones whose Voronoi cells touch: nearer to the smaller one, as its radius is to the other's. */
function placesBetween(bricks: readonly Mesh[], face: Face): Float64Array {
	const stones = bricks.map((brick) => {
		const { centroid, volume } = solid(brick);
		const middle = [...centroid] as [number, number, number];
		middle[face.w] = (face.min[2] + face.max[2]) / 2;
		return { middle, radius: Math.sqrt(volume) };
	});
	const low: [number, number, number] = [0, 0, 0];
	const high: [number, number, number] = [0, 0, 0];
	[face.u, face.v, face.w].forEach((axis, k) => {
		low[axis] = face.min[k]!;
		high[axis] = face.max[k]!;
	});
	const places: number[] = [];
	for (const cell of voronoiCells(Float64Array.from(stones.flatMap(({ middle }) => middle)), makeDomain(low, high)))
		for (const other of cell.neighbour) {
			if (other <= cell.seed) continue;
			const [a, b] = [stones[cell.seed]!, stones[other]!];
			const t = a.radius / (a.radius + b.radius);
			places.push(...[0, 1, 2].map((k) => a.middle[k]! + t * (b.middle[k]! - a.middle[k]!)));
		}
	return Float64Array.from(places);
}
