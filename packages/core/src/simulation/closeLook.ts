import { boxCorners, cos, inverse, quatAt, rotate, sin, tripleAt, type Vec3, vec3 } from "../maths";
import { type Bounds, bounds, containment, hullDepth, hullDistance, meanPoint } from "../mesh";
import type { Engine, Overlap } from "./engine/types";
import type { SimScene } from "./scene";

/** Overlaps up to this share of the thinner body are rounding. */
export const OVERLAP_SHARE = 0.01;

/** Convex parts of a body in the world, with their boxes. */
type Parts = readonly { readonly points: number[]; readonly box: Bounds }[];

/** Looks closely at pairs of bodies; what stays where it is, is looked at once. */
export class CloseLook {
	private readonly whole = new Map<number, Parts | undefined>();
	private readonly shrunk = new Map<number, Parts | undefined>();
	/** Of those that collide as their mesh: whether a point of their own frame is in it. */
	private readonly insides = new Map<number, (x: number, y: number, z: number) => boolean>();
	/** By pair (a × count + b): what was found of it. */
	private readonly found = new Map<number, Overlap | undefined>();

	constructor(
		private readonly scene: SimScene,
		private readonly engine: Pick<Engine, "nearest">,
		/** Overlaps up to this are none, metres; rounding where absent. */
		private readonly least: number | undefined,
	) {}

	/** The overlap of a pair as it really is; undefined where rounding alone says that they are in each other. */
	at(overlap: Overlap): Overlap | undefined {
		const pair = overlap.a * this.scene.count + overlap.b;
		if (!this.found.has(pair)) this.found.set(pair, this.look(overlap));
		return this.found.get(pair);
	}

	private look(overlap: Overlap): Overlap | undefined {
		const { a, b } = overlap;
		const meshes = [a, b].filter((i) => this.scene.colliders[i]!.shape.kind === "mesh");
		if (meshes.length === 1) return this.inMesh(overlap, meshes[0]!);
		return this.reallyOverlap(a, b) ? this.measured(overlap) : undefined;
	}

	/**
	 * How deep a convex body lies in a mesh. The engine takes the mesh for the triangles that it is made of: a prism that lies on
	 * a floor of long ones, 1 mm deep in it, was said to be in it by 47 mm, along the floor.
	 */
	private inMesh(overlap: Overlap, mesh: number): Overlap | undefined {
		const other = mesh === overlap.a ? overlap.b : overlap.a;
		const parts = this.parts(this.whole, other, 0);
		if (!parts) return overlap;
		const step = Math.max(this.scene.thickness[mesh]! / 2, this.scene.thickness[other]! / 4);
		let found = { depth: 0, way: overlap.normal };
		for (const { points } of parts)
			for (const point of raysOf(points, step)) {
				if (!this.isInside(mesh, point)) continue;
				const out = vec3.subtract(this.engine.nearest(mesh, point), point);
				const depth = vec3.length(out);
				if (depth > found.depth) found = { depth, way: vec3.scale(out, 1 / depth) };
			}
		if (found.depth === 0) return undefined;
		// The way in which b leaves a.
		const normal = mesh === overlap.a ? found.way : vec3.scale(found.way, -1);
		return found.depth < overlap.depth ? { ...overlap, depth: found.depth, normal } : overlap;
	}

	/** Whether a point of the world is in a body that collides as its mesh. */
	private isInside(body: number, point: Vec3): boolean {
		const { position, rotation, colliders } = this.scene;
		const { shape } = colliders[body]!;
		if (shape.kind !== "mesh") return false;
		const contains = this.insides.get(body) ?? containment(shape.mesh);
		this.insides.set(body, contains);
		const local = rotate(inverse(quatAt(rotation, body)), vec3.subtract(point, tripleAt(position, body)));
		return contains(...local);
	}

	/** Forgets what it knows of bodies that have moved. */
	forget(bodies: ReadonlySet<number>): void {
		for (const i of bodies) {
			this.whole.delete(i);
			this.shrunk.delete(i);
		}
		for (const pair of this.found.keys())
			if (bodies.has(Math.floor(pair / this.scene.count)) || bodies.has(pair % this.scene.count)) this.found.delete(pair);
	}

	/**
	 * Whether two bodies share room deeper than rounding. The engine's own depth is unsure between thin pieces: neighbours
	 * in a 4 mm pane were said to overlap by 3 mm. So hulls are shrunk by the tolerance and must still meet.
	 */
	private reallyOverlap(a: number, b: number): boolean {
		const [one, other] = [this.parts(this.shrunk, a, this.share(a)), this.parts(this.shrunk, b, this.share(b))];
		if (!one || !other) return true;
		return boxedPairs(one, other).some(({ hull, against }) => hullDistance(hull, against) === 0);
	}

	/**
	 * The overlap as it really is: the engine says 21 cm of pieces with a common face that are in each other by 8 mm, and
	 * another way out.
	 */
	private measured(overlap: Overlap): Overlap {
		const { a, b } = overlap;
		const [one, other] = [this.parts(this.whole, a, 0), this.parts(this.whole, b, 0)];
		if (!one || !other) return overlap;
		let deepest = { depth: 0, way: overlap.normal };
		for (const { hull, against, most } of boxedPairs(one, other)) {
			if (most <= deepest.depth) break;
			const found = hullDepth(hull, against);
			if (found.depth > deepest.depth) deepest = found;
		}
		return deepest.depth < overlap.depth ? { a, b, depth: deepest.depth, normal: deepest.way } : overlap;
	}

	private share(i: number): number {
		return this.least === undefined ? 2 * OVERLAP_SHARE : Math.min(0.5, this.least / this.scene.thickness[i]!);
	}

	private parts(known: Map<number, Parts | undefined>, i: number, share: number): Parts | undefined {
		if (!known.has(i))
			known.set(
				i,
				shrunkHulls(this.scene, i, share)?.map((points) => ({ points, box: bounds({ positions: points }) })),
			);
		return known.get(i);
	}
}

/** Points of a convex part: its corners, and between each of them and its middle others no farther apart than `step`. */
function raysOf(points: readonly number[], step: number): Vec3[] {
	const middle = meanPoint(points);
	const rays = [middle];
	for (let v = 0; v < points.length; v += 3) {
		const way = [0, 1, 2].map((k) => points[v + k]! - middle[k]!) as unknown as Vec3;
		const parts = Math.min(MOST_ON_RAY, Math.max(1, Math.ceil(vec3.length(way) / step)));
		for (let n = 1; n <= parts; n++) rays.push(vec3.add(middle, vec3.scale(way, n / parts)));
	}
	return rays;
}

const MOST_ON_RAY = 32;

/** Pairs of parts whose boxes meet, and how deep each can reach into the other at most by them, deepest first: most need no closer look. */
function boxedPairs(one: Parts, other: Parts) {
	const pairs: { hull: number[]; against: number[]; most: number }[] = [];
	for (const { points: hull, box: a } of one)
		for (const { points: against, box: b } of other) {
			let most = Number.POSITIVE_INFINITY;
			for (let k = 0; k < 3; k++) most = Math.min(most, a.max[k]! - b.min[k]!, b.max[k]! - a.min[k]!);
			if (most >= 0) pairs.push({ hull, against, most });
		}
	return pairs.sort((x, y) => y.most - x.most);
}

/** The collider's hulls in the world, each a little smaller about its middle; undefined for other shapes. */
function shrunkHulls(scene: SimScene, i: number, share: number): number[][] | undefined {
	const hulls = cornersOf(scene.colliders[i]!.shape);
	if (!hulls) return undefined;
	const at = Array.from(scene.position.subarray(3 * i, 3 * i + 3)) as unknown as Vec3;
	const q = Array.from(scene.rotation.subarray(4 * i, 4 * i + 4)) as [number, number, number, number];
	return hulls.map((points) => {
		const middle = meanPoint(points);
		const placed: number[] = [];
		for (let v = 0; v < points.length; v += 3) {
			const local = [0, 1, 2].map((k) => middle[k]! + (points[v + k]! - middle[k]!) * (1 - share)) as unknown as Vec3;
			placed.push(...vec3.add(at, rotate(q, local)));
		}
		return placed;
	});
}

/** The points of what is convex and has corners or rims, in the body's frame. */
function cornersOf(shape: SimScene["colliders"][number]["shape"]): readonly ArrayLike<number>[] | undefined {
	switch (shape.kind) {
		case "hulls":
			return shape.hulls;
		case "box":
			return [boxCorners(shape.centre, shape.half, shape.turn).flat()];
		case "cylinder":
		case "cone": {
			const { centre, half, radius, turn } = shape;
			const at = (y: number, [c, s]: readonly [number, number]) => vec3.add(centre, rotate(turn, [radius * c, y, radius * s]));
			const foot = RIM.flatMap((way) => at(-half, way));
			return [[...foot, ...(shape.kind === "cone" ? at(half, [0, 0]) : RIM.flatMap((way) => at(half, way)))]];
		}
		default:
			return undefined;
	}
}

/** Ways out to the rim of what is round. */
const RIM = Array.from({ length: 32 }, (_, i) => [cos((i * Math.PI) / 16), sin((i * Math.PI) / 16)] as const);
