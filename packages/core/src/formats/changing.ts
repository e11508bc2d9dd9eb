import { type CrackTime, type Opening, openedMesh } from "../fracture";
import type { Mesh } from "../mesh";

/** How a mesh changes over frames while its triangles stay the same. Between key frames its vertices go straight. */
export interface ChangingShape {
	/** In order; before the first it is as at the first, after the last as at the last. */
	readonly frames: readonly number[];
	readonly meshAt: (frame: number) => Mesh;
}

/** A crack is written as shapes at this many frames at most. */
const MOST_CRACK_SHAPES = 12;
/** Shapes that follow something else are written so that no vertex is farther off. m */
const SHAPE_TOLERANCE = 0.0005;

/** A piece beside a crack, from the whole solid on; at the last key frame it is the mesh itself. */
export function crackShape(mesh: Mesh, opening: Opening, time: CrackTime, sceneFirst: number): ChangingShape | undefined {
	const begin = Math.max(time.first, sceneFirst);
	const count = Math.max(0, Math.min(MOST_CRACK_SHAPES, time.last - begin));
	if (count === 0) return undefined;
	const frames = Array.from({ length: count + 1 }, (_, n) => begin + Math.round(((time.last - begin) * n) / count));
	return { frames, meshAt: (frame) => (frame >= time.last ? mesh : openedMesh(mesh, opening, time.at(frame))) };
}

/** Key frames of a shape that is known at every frame, split at the worst until every vertex is within half a millimetre. */
export function keyedShape(first: number, last: number, meshAt: (frame: number) => Mesh): ChangingShape {
	const known = new Map<number, Mesh>();
	const at = (frame: number) => {
		const mesh = known.get(frame) ?? meshAt(frame);
		known.set(frame, mesh);
		return mesh;
	};
	const keep = new Set([first, last]);
	const spans: [number, number][] = [[first, last]];
	for (let span = spans.pop(); span; span = spans.pop()) {
		const [a, b] = span;
		let worst = SHAPE_TOLERANCE;
		let split: number | undefined;
		for (let frame = a + 1; frame < b; frame++) {
			const off = distance(at(a), at(b), at(frame), (frame - a) / (b - a));
			if (off > worst) [worst, split] = [off, frame];
		}
		if (split === undefined) continue;
		keep.add(split);
		spans.push([a, split], [split, b]);
	}
	const frames = [...keep].sort((x, y) => x - y);
	return { frames, meshAt: at };
}

/** The shape at any frame. */
export function shapeAt({ frames, meshAt }: ChangingShape, frame: number): Mesh {
	const after = frames.findIndex((key) => key >= frame);
	if (after === 0) return meshAt(frames[0]!);
	if (after < 0) return meshAt(frames[frames.length - 1]!);
	const [a, b] = [frames[after - 1]!, frames[after]!];
	if (b === frame) return meshAt(b);
	const t = (frame - a) / (b - a);
	const [from, to] = [meshAt(a), meshAt(b)];
	return { ...from, positions: from.positions.map((v, i) => v + t * (to.positions[i]! - v)) };
}

/** The largest way of a vertex from the straight line between two shapes, along an axis. */
function distance(a: Mesh, b: Mesh, mesh: Mesh, t: number): number {
	let most = 0;
	for (let i = 0; i < mesh.positions.length; i++) {
		const off = Math.abs(mesh.positions[i]! - a.positions[i]! - t * (b.positions[i]! - a.positions[i]!));
		if (off > most) most = off;
	}
	return most;
}
