import { rotate, type Vec3, vec3 } from "../maths";
import { hullDepth, hullDistance } from "../mesh";
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
 * than this instead, metres. `parted`: bodies that push each other though they were bonded at first.
 */
export async function findStartOverlaps(
	scene: SimScene,
	factory: EngineFactory,
	least?: number,
	parted: (a: number, b: number) => boolean = () => false,
): Promise<Overlap[]> {
	const engine = await factory(scene, new Uint8Array(scene.count));
	const tied = makeTied(scene);
	try {
		const counts = ({ a, b, depth }: Overlap) => depth > (least ?? overlapTolerance(scene, a, b));
		return engine
			.overlaps(0)
			.filter((one) => (!tied(one.a, one.b) || parted(one.a, one.b)) && counts(one) && reallyOverlap(scene, one.a, one.b, least))
			.map((one) => ({ ...one, depth: Math.min(one.depth, trueDepth(scene, one.a, one.b)) }))
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

/**
 * Whether two bodies share room deeper than rounding. The engine's own depth is unsure between thin pieces: neighbours
 * in a 4 mm pane were said to overlap by 3 mm. So hulls are shrunk by the tolerance and must still meet.
 */
function reallyOverlap(scene: SimScene, a: number, b: number, least: number | undefined): boolean {
	const share = (i: number) => (least === undefined ? 2 * OVERLAP_SHARE : Math.min(0.5, least / scene.thickness[i]!));
	const one = shrunkHulls(scene, a, share(a));
	const other = shrunkHulls(scene, b, share(b));
	if (!one || !other) return true;
	return one.some((hull) => other.some((against) => hullDistance(hull, against) === 0));
}

/** How deep the hulls of two bodies reach into each other; the engine says 21 cm of pieces with a common face that are in each other by 8 mm. */
function trueDepth(scene: SimScene, a: number, b: number): number {
	const [one, other] = [shrunkHulls(scene, a, 0), shrunkHulls(scene, b, 0)];
	if (!one || !other) return Number.POSITIVE_INFINITY;
	return Math.max(...one.flatMap((hull) => other.map((against) => hullDepth(hull, against))));
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
