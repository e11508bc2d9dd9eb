import { bad, good, report } from "../common";
import { curveAt, noise2, type Vec3, vec3 } from "../maths";
import { bounds, boundsSize, flip, type Mesh, retile, transformMesh } from "../mesh";
import { fromSolid, type Solids, scoped } from "../solid";
import { assemble } from "./assemble";
import { partByKnife } from "./knife";
import { defineMethod } from "./options";
import { centred, collect } from "./pieces";
import { drawnAxis, type Face, faceAlong } from "./prisms";
import { breakSeed } from "./specs";
import type { Opening, Piece, Pieces } from "./types";

export interface CrackOptions {
	/** Lines of 3 numbers per point; each runs on straight to the rim. */
	readonly strokes?: readonly (readonly number[])[];
	/** What opens between the parts in the end, metres. */
	readonly width: number;
	/** How far the crack departs from the line, metres. */
	readonly jagged: number;
	/** Edge length of the triangles, metres; 0: a thirtieth of the size. */
	readonly detail: number;
	/** The frame at which it begins. */
	readonly from: number;
	/** Frames since then, share of the way. */
	readonly grows: readonly number[];
	/** Frames since then, share of the width. */
	readonly opens: readonly number[];
	readonly seed: number;
}

const MOST_LINES = 20;

/** A crack that runs along drawn lines, opens over frames, and leaves parts that then move by themselves. */
export const crack = defineMethod<CrackOptions>({
	id: "crack",
	label: "Crack",
	help: "Draw a line: a crack runs along it, opens over frames, and the parts come free.",
	options: {
		strokes: { kind: "strokes", label: "Lines", help: "Drawn on the object; each runs on straight to the rim" },
		from: { kind: "number", label: "From", unit: "frame", default: 1, least: -100_000, most: 100_000, whole: true, help: "When it begins" },
		grows: {
			kind: "curve",
			label: "Runs",
			default: [0, 0, 19, 1],
			across: { label: "Frames since it began", unit: "frames" },
			least: 0,
			most: 1,
			percent: true,
			help: "How far along its way the tip is",
		},
		opens: {
			kind: "curve",
			label: "Opens",
			default: [0, 0.3, 19, 1],
			across: { label: "Frames since it began", unit: "frames" },
			least: 0,
			most: 1,
			percent: true,
			help: "How wide it is where the tip has passed, as a share of the width",
		},
		width: {
			kind: "number",
			label: "Width",
			unit: "m",
			default: 0.01,
			least: 0,
			most: 100,
			help: "What opens between the parts in the end; it takes volume away",
		},
		jagged: { kind: "number", label: "Jagged", unit: "m", default: 0.01, least: 0, most: 100, help: "How far it departs from the line" },
		detail: {
			kind: "number",
			label: "Detail",
			unit: "m",
			default: 0,
			least: 0,
			most: 100,
			help: "Edge length of the triangles; 0 takes a thirtieth of the size",
		},
		seed: breakSeed,
	},
	estimate: (triangles) => 0.3 + triangles * 3e-5,
	crack: (given) => {
		const { from, grows, opens } = given as unknown as CrackOptions;
		const end = Math.max(grows[grows.length - 2]!, opens[opens.length - 2]!);
		const full = curveAt(opens, end);
		return {
			first: from,
			last: from + Math.ceil(end),
			at: (frame) =>
				frame >= from + end
					? { tip: 1, width: 1 }
					: frame < from
						? { tip: 0, width: 0 }
						: { tip: curveAt(grows, frame - from), width: full > 0 ? curveAt(opens, frame - from) / full : 1 },
		};
	},
	run: async ({ solids, mesh, volume }, options, progress) => {
		const { strokes: lines = [], width } = options;
		if (lines.length === 0) return bad("Crack: nothing is drawn yet. Draw a line on the object.");
		if (lines.length > MOST_LINES) return bad(`Crack: the most is ${MOST_LINES} lines.`);
		if (lines.some((line) => line.length % 3 !== 0 || line.some((value) => !Number.isFinite(value))))
			return bad("Crack: every line needs points of three finite numbers.");
		if (lines.some((line) => line.length < 6)) return bad("Crack: a dot has no direction. Draw a line instead.");
		const size = Math.max(...boundsSize(bounds(mesh)));
		const edge = options.detail > 0 ? options.detail : size / 30;
		if (size / edge > 1000) return bad(`Crack: a detail of ${edge * 1000} mm is too fine for this object. Take a larger one.`);
		const face = faceAlong(mesh, drawnAxis(mesh, lines));
		if (width > 0.2 * edge + 0.2 * size) return bad(`Crack: a width of ${width * 1000} mm leaves too little of the object.`);
		const ways: Way[] = [];
		let parts: readonly Mesh[] = [mesh];
		let tags = 0;
		for (const [i, line] of lines.entries()) {
			await report(progress, (0.7 * i) / lines.length, "Cracking");
			const path = wayOf(line, face, edge, options.jagged, options.seed + i);
			const knife = knifeAlong(solids, path, face);
			const next = parts.flatMap((part) => {
				const parted = partByKnife(solids, part, knife, tags);
				return parted ? [...parted.inside, ...parted.outside] : [part];
			});
			if (next.length === parts.length) return bad(`Crack: line ${i + 1} does not part the object. Draw it across it.`);
			parts = next;
			ways.push({ path, firstTag: tags });
			tags += knife.triangles.length / 3;
		}
		const cells = parts.map((part, n) => ({ seed: n, parts: [retile(part, edge)] }));
		const whole = assemble(cells, volume, "surface");
		return good(opened(whole, ways, face, width));
	},
});

type Flat = readonly [number, number];
interface Way {
	readonly path: readonly Flat[];
	/** Faces with this tag and beyond lie along it, up to those of the next. */
	readonly firstTag: number;
}

const minus = (a: Flat, b: Flat): Flat => [a[0] - b[0], a[1] - b[1]];
const lengthOf = ([x, y]: Flat): number => Math.sqrt(x * x + y * y);

/** The drawn line on its face, in steps of about `edge`, off it by noise, and on at both ends until it is outside. */
function wayOf(line: readonly number[], face: Face, edge: number, jagged: number, seed: number): Flat[] {
	const drawn = Array.from({ length: line.length / 3 }, (_, i): Flat => [line[3 * i + face.u]!, line[3 * i + face.v]!]);
	const reach = 2 * lengthOf([face.max[0] - face.min[0], face.max[1] - face.min[1]]);
	const on = (from: Flat, to: Flat): Flat => {
		const [x, y] = minus(to, from);
		const l = lengthOf([x, y]) || 1;
		return [to[0] + (x / l) * reach, to[1] + (y / l) * reach];
	};
	const far = [on(drawn[drawn.length - 1]!, drawn[0]!), ...drawn, on(drawn[0]!, drawn[drawn.length - 1]!)];
	const path: Flat[] = [];
	let gone = 0;
	for (let i = 1; i < far.length; i++) {
		const [a, b] = [far[i - 1]!, far[i]!];
		const [x, y] = minus(b, a);
		const l = lengthOf([x, y]);
		if (l === 0) continue;
		const steps = Math.max(1, Math.round(l / edge));
		for (let k = i === 1 ? 0 : 1; k <= steps; k++) {
			const s = (gone + (l * k) / steps) / edge;
			// Two sizes of noise: long waves, and teeth on them.
			const off = jagged * (1.3 * (noise2(s / 6, 0, seed, 1) - 0.5) + 0.7 * (noise2(s / 1.3, 0, seed, 2) - 0.5));
			path.push([a[0] + (x * k) / steps - (y / l) * off, a[1] + (y * k) / steps + (x / l) * off]);
		}
		gone += l;
	}
	return path;
}

/** Everything on one side of the way, through the whole thickness and beyond. */
function knifeAlong(solids: Solids, path: readonly Flat[], face: Face): Mesh {
	const [first, last] = [path[0]!, path[path.length - 1]!];
	const [x, y] = minus(last, first);
	// Closed by a detour far outside, to the left of the way.
	const detour: Flat[] = [
		[last[0] - 2 * y, last[1] + 2 * x],
		[first[0] - 2 * y, first[1] + 2 * x],
	];
	const depth = face.max[2] - face.min[2];
	const raw = scoped((hold) => {
		const section = new solids.CrossSection([...path, ...detour] as [number, number][], "EvenOdd");
		const knife = hold(hold(section.extrude(3 * depth)).translate([0, 0, face.min[2] - depth]));
		section.delete();
		return fromSolid(knife);
	});
	const positions = raw.positions.slice();
	for (let v = 0; v < positions.length; v += 3)
		[face.u, face.v, face.w].forEach((axis, k) => {
			positions[v + axis] = raw.positions[v + k]!;
		});
	const turned = { ...raw, positions };
	// Where the face's axes turn the other way than x, y, z the triangles have come to face inwards.
	return face.w === 2 ? turned : flip(turned);
}

/** Pieces drawn back from the cracks by half of the width, and how they get there. */
function opened(whole: Pieces, ways: readonly Way[], face: Face, width: number): Pieces {
	const half = width / 2;
	const rows = whole.pieces.map((piece) => ({ piece, ...faceVertices(piece, ways) }));
	const spans = ways.map((_, i) => spanOf(rows, ways, i, face));
	const pieces = rows.map(({ piece, normal, way }): Piece => {
		const closed = new Float32Array(normal.length);
		const reached = new Float32Array(way.length);
		for (let v = 0; v < way.length; v++) {
			if (way[v]! < 0) continue;
			const n = vec3.normalize([normal[3 * v]!, normal[3 * v + 1]!, normal[3 * v + 2]!]);
			closed.set(vec3.scale(n, half), 3 * v);
			const span = spans[way[v]!]!;
			const s = arcAt(ways[way[v]!]!.path, flatPlace(piece, v, face));
			reached[v] = Math.min(1, Math.max(0, (s - span.from) / (span.to - span.from || 1)));
		}
		const positions = piece.mesh.positions.map((value, i) => value - closed[i]!);
		return { ...piece, mesh: { ...piece.mesh, positions }, opening: { closed, reached } satisfies Opening };
	});
	return remeasured(pieces, whole);
}

interface FaceVertices {
	/** 3 per vertex: the sum of the crack faces' normals there, across the way and level with the face. */
	readonly normal: Float64Array;
	/** 1 per vertex: the last way that it lies on; −1 elsewhere. */
	readonly way: Int32Array;
}

function faceVertices({ mesh }: Piece, ways: readonly Way[]): FaceVertices {
	const { positions: p, triangles: t, neighbour } = mesh;
	const normal = new Float64Array(p.length);
	const way = new Int32Array(p.length / 3).fill(-1);
	for (let f = 0; f < neighbour.length; f++) {
		if (neighbour[f]! < 0) continue;
		const on = ways.findLastIndex(({ firstTag }) => neighbour[f]! >= firstTag);
		const corner = (c: number): Vec3 => {
			const v = 3 * t[3 * f + c]!;
			return [p[v]!, p[v + 1]!, p[v + 2]!];
		};
		const n = vec3.cross(vec3.subtract(corner(1), corner(0)), vec3.subtract(corner(2), corner(0)));
		for (let c = 0; c < 3; c++) {
			const v = t[3 * f + c]!;
			way[v] = Math.max(way[v]!, on);
			for (let k = 0; k < 3; k++) normal[3 * v + k]! += n[k]!;
		}
	}
	return { normal, way };
}

const flatPlace = ({ mesh, pivot }: Piece, v: number, { u, v: up }: Face): Flat => [
	mesh.positions[3 * v + u]! + pivot[u]!,
	mesh.positions[3 * v + up]! + pivot[up]!,
];

/** From where to where along the way there is something to crack. */
function spanOf(
	rows: readonly ({ readonly piece: Piece } & FaceVertices)[],
	ways: readonly Way[],
	which: number,
	face: Face,
): { from: number; to: number } {
	let [from, to] = [Infinity, -Infinity];
	for (const { piece, way } of rows)
		for (let v = 0; v < way.length; v++) {
			if (way[v] !== which) continue;
			const s = arcAt(ways[which]!.path, flatPlace(piece, v, face));
			[from, to] = [Math.min(from, s), Math.max(to, s)];
		}
	return { from, to };
}

/** How far along the way the place nearest to a point lies, metres. */
function arcAt(path: readonly Flat[], point: Flat): number {
	let [best, least, gone] = [0, Infinity, 0];
	for (let i = 1; i < path.length; i++) {
		const [x, y] = minus(path[i]!, path[i - 1]!);
		const l = lengthOf([x, y]);
		const [px, py] = minus(point, path[i - 1]!);
		const t = l > 0 ? Math.min(1, Math.max(0, (px * x + py * y) / (l * l))) : 0;
		const d = lengthOf([px - t * x, py - t * y]);
		if (d < least) [best, least] = [gone + t * l, d];
		gone += l;
	}
	return best;
}

/** Pieces whose meshes have changed: about their own centroids again. */
function remeasured(pieces: readonly Piece[], { contacts, sourceVolume }: Pieces): Pieces {
	return collect(
		pieces.map((piece) => {
			const placed = transformMesh(piece.mesh, { translation: piece.pivot });
			return { ...piece, ...centred(placed) };
		}),
		contacts,
		sourceVolume,
	);
}
