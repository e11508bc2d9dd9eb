import { rotate, type Vec3, vec3 } from "../maths";
import { type Bounds, bounds, hullDepth, hullDistance } from "../mesh";
import { absentAt } from "./crumble";
import type { Engine, EngineFactory, Overlap } from "./engine/types";
import { Kind, type SimScene } from "./scene";

/** Overlaps up to this share of the thinner body are rounding. */
const OVERLAP_SHARE = 0.01;

/**
 * Pairs that overlap at the start would be flung apart; they ignore each other until they have parted once. Pieces that are
 * bonded are among them: their hulls may reach into each other, which shows when they come apart.
 * Not so with passive bodies: what lies a little deep in the ground must still be carried by it, and rises gently.
 */
export function startOverlaps(scene: SimScene, engine: Engine): [number, number][] {
	const tied = makeTied({ ...scene, bonds: { ...scene.bonds, count: 0 } });
	return engine
		.overlaps(0)
		.filter(
			({ a, b, depth }) =>
				!tied(a, b) && scene.kind[a] !== Kind.Passive && scene.kind[b] !== Kind.Passive && depth > overlapTolerance(scene, a, b),
		)
		.map(({ a, b }) => [a, b]);
}

/**
 * Pairs that stand in each other before anything has moved, deeper than rounding: what the check names. `least`: deeper
 * than this instead, metres. `parted`: bodies that push each other though they were bonded at first. `absent`: see `absentAt`.
 */
export async function findStartOverlaps(
	scene: SimScene,
	factory: EngineFactory,
	least?: number,
	parted: (a: number, b: number) => boolean = () => false,
	absent: Uint8Array = absentAt(scene),
): Promise<Overlap[]> {
	const engine = await factory(scene, absent);
	const tied = makeTied(scene);
	const look = new CloseLook(scene, least);
	try {
		const counts = ({ a, b, depth }: Overlap) => depth > (least ?? overlapTolerance(scene, a, b));
		return engine
			.overlaps(0)
			.filter((one) => (!tied(one.a, one.b) || parted(one.a, one.b)) && counts(one) && look.reallyOverlap(one.a, one.b))
			.map((one) => look.measured(one))
			.filter(counts);
	} finally {
		engine.dispose();
	}
}

/** Whether two bodies do not push each other anyway: they are bonded, or joined by a connector that says so. */
function makeTied({ bonds, joints, count }: SimScene): (a: number, b: number) => boolean {
	const pairs = new Set<number>();
	const key = (a: number, b: number) => Math.min(a, b) * count + Math.max(a, b);
	for (let k = 0; k < bonds.count; k++) pairs.add(key(bonds.a[k]!, bonds.b[k]!));
	for (const { a, b, options } of joints) if (b >= 0 && options.collide !== "yes") pairs.add(key(a, b));
	return (a, b) => pairs.has(key(a, b));
}

/** Metres that two bodies may overlap without being called so. */
export const overlapTolerance = (scene: SimScene, a: number, b: number): number =>
	OVERLAP_SHARE * Math.min(scene.thickness[a]!, scene.thickness[b]!, 1);

/** Convex parts of a body in the world, with their boxes. */
type Parts = readonly { readonly points: number[]; readonly box: Bounds }[];

/** Looks closely at pairs; each body's parts are placed once. */
class CloseLook {
	private readonly whole = new Map<number, Parts | undefined>();
	private readonly shrunk = new Map<number, Parts | undefined>();

	constructor(
		private readonly scene: SimScene,
		/** Overlaps up to this are none, metres; rounding where absent. */
		private readonly least: number | undefined,
	) {}

	/**
	 * Whether two bodies share room deeper than rounding. The engine's own depth is unsure between thin pieces: neighbours
	 * in a 4 mm pane were said to overlap by 3 mm. So hulls are shrunk by the tolerance and must still meet.
	 */
	reallyOverlap(a: number, b: number): boolean {
		const [one, other] = [this.parts(this.shrunk, a, this.share(a)), this.parts(this.shrunk, b, this.share(b))];
		if (!one || !other) return true;
		return boxedPairs(one, other).some(({ hull, against }) => hullDistance(hull, against) === 0);
	}

	/**
	 * The overlap as it really is: the engine says 21 cm of pieces with a common face that are in each other by 8 mm, and
	 * another way out.
	 */
	measured(overlap: Overlap): Overlap {
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
		const middle = [0, 1, 2].map((k) => {
			let sum = 0;
			for (let v = k; v < points.length; v += 3) sum += points[v]!;
			return (3 * sum) / points.length;
		});
		const placed: number[] = [];
		for (let v = 0; v < points.length; v += 3) {
			const local = [0, 1, 2].map((k) => middle[k]! + (points[v + k]! - middle[k]!) * (1 - share)) as unknown as Vec3;
			placed.push(...vec3.add(at, rotate(q, local)));
		}
		return placed;
	});
}

/** The points of what is convex and has corners, in the body's frame. */
function cornersOf(shape: SimScene["colliders"][number]["shape"]): readonly ArrayLike<number>[] | undefined {
	if (shape.kind === "hulls") return shape.hulls;
	if (shape.kind !== "box") return undefined;
	const corner = (k: number): Vec3 => [0, 1, 2].map((d) => (k & (1 << d) ? shape.half[d]! : -shape.half[d]!)) as unknown as Vec3;
	return [[0, 1, 2, 3, 4, 5, 6, 7].flatMap((k) => vec3.add(shape.centre, rotate(shape.turn, corner(k))))];
}
