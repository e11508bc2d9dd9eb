import { type FrameStore, isBreak, posesAt } from "../cache";
import { find, unite } from "../mesh";
import { CloseLook, OVERLAP_SHARE } from "./closeLook";
import { absentAt } from "./crumble";
import { type Engine, type EngineFactory, makeBodyState, type Overlap } from "./engine/types";
import { Kind, type SimScene } from "./scene";
import { standingAt } from "./standing";

/**
 * Pairs that overlap at the start would be flung apart; they ignore each other until they have parted once. Pieces that are
 * bonded are among them: their hulls may reach into each other, which shows when they come apart.
 */
export function startOverlaps(scene: SimScene, engine: Engine): Overlap[] {
	const { joined } = makeTied(scene);
	return engine.overlaps(0).filter((one) => !joined(one.a, one.b) && ignoreEachOther(scene, one));
}

/** What lies as deep in each other, as a share of the thinner one and in metres, is pushed apart without being flung. */
const GENTLE_SHARE = 0.1;
const GENTLE_DEPTH = 0.01;
/** The same of things that stand where a run has left them: their contacts bear each other already. */
const KEPT_SHARE = 0.5;

/**
 * Whether two that overlap at the start ignore each other. Not so with passive bodies: what lies a little deep in the ground must
 * still be carried by it, and rises gently; nor in a heap, whose contacts are always a little deep: it would sink into itself.
 */
export function ignoreEachOther(scene: SimScene, { a, b, depth }: Pick<Overlap, "a" | "b" | "depth">): boolean {
	if (scene.kind[a] === Kind.Passive || scene.kind[b] === Kind.Passive) return false;
	if (scene.unparted(a, b)) return depth > overlapTolerance(scene, a, b);
	const thinner = Math.min(scene.thickness[a]!, scene.thickness[b]!);
	return depth > (scene.kept[a] === 1 && scene.kept[b] === 1 ? KEPT_SHARE * thinner : Math.min(GENTLE_DEPTH, GENTLE_SHARE * thinner));
}

/**
 * Pairs that stand in each other before anything has moved, deeper than rounding: what the check names. `least`: deeper
 * than this instead, metres. `parted`: bodies that push each other though they were bonded at first. `absent`: see `absentAt`.
 */
export async function findStartOverlaps(
	scene: SimScene,
	factory: EngineFactory,
	least?: number,
	parted?: (a: number, b: number) => boolean,
	absent?: Uint8Array,
): Promise<Overlap[]> {
	const finder = await makeOverlapFinder(scene, factory, least, parted, absent);
	try {
		return finder.find();
	} finally {
		finder.dispose();
	}
}

/**
 * Pairs that reach into each other at a stored frame of a run, deeper than `least` metres (than rounding where absent). What is
 * bonded then does not count, nor does what is not there, because it has crumbled or comes of what has not.
 */
export async function overlapsAt(
	scene: SimScene,
	factory: EngineFactory,
	run: FrameStore,
	frame: number,
	least?: number,
): Promise<Overlap[]> {
	const poses = posesAt(run, frame);
	if (!poses) throw new Error(`frame ${frame} is not stored`);
	const breaks = breaksOf(run, scene.count);
	return findStartOverlaps(standingAt(scene, poses, frame), factory, least, (a, b) => breaks(a, b) <= frame, absentAt(scene, run, frame));
}

/** When the last bond between two bodies broke; Infinity where none did. */
function breaksOf(run: FrameStore, count: number): (a: number, b: number) => number {
	const frames = new Map<number, number>();
	for (const { events } of run.chunks)
		events.kind.forEach((kind, e) => {
			if (isBreak(kind)) frames.set(pairKey(events.a[e]!, events.b[e]!, count), events.frame[e]!);
		});
	return (a, b) => frames.get(pairKey(a, b, count)) ?? Number.POSITIVE_INFINITY;
}

/** A number for two of `count` bodies, whichever comes first. */
const pairKey = (a: number, b: number, count: number): number => Math.min(a, b) * count + Math.max(a, b);

export interface OverlapFinder {
	readonly find: () => Overlap[];
	/** Call once `scene.position` or `scene.rotation` of these bodies has changed. */
	readonly moved: (bodies: ReadonlySet<number>) => void;
	readonly dispose: () => void;
}

/** The same for a scene whose bodies are moved in between: the engine is made once, and what stays is not looked at again. */
export async function makeOverlapFinder(
	scene: SimScene,
	factory: EngineFactory,
	least?: number,
	parted: (a: number, b: number) => boolean = () => false,
	absent: Uint8Array = absentAt(scene),
): Promise<OverlapFinder> {
	const engine = await factory(scene, absent);
	const { joinedAsWhole, bonded } = makeTied(scene);
	const look = new CloseLook(scene, engine, least);
	const counts = ({ a, b, depth }: Overlap) => depth > (least ?? overlapTolerance(scene, a, b));
	const standing = makeBodyState(scene.count);
	return {
		find: () =>
			engine
				.overlaps(0)
				.filter((one) => counts(one) && !joinedAsWhole(one.a, one.b) && (!bonded(one.a, one.b) || parted(one.a, one.b)))
				.map((one) => look.at(one))
				.filter((one) => one !== undefined && counts(one)) as Overlap[],
		moved(bodies) {
			look.forget(bodies);
			standing.position.set(scene.position);
			standing.rotation.set(scene.rotation);
			engine.place(standing);
		},
		dispose: () => engine.dispose(),
	};
}

/**
 * Whether two bodies do not push each other anyway: joined by a connector that says so, themselves or with what one of them was bonded to;
 * or bonded, for as long as the bond holds.
 */
function makeTied({ bonds, joints, count, kind }: SimScene) {
	const [byBond, byJoint, byWhole] = [new Set<number>(), new Set<number>(), new Set<number>()];
	const root = Int32Array.from({ length: count }, (_, i) => i);
	for (let k = 0; k < bonds.count; k++) {
		byBond.add(pairKey(bonds.a[k]!, bonds.b[k]!, count));
		if (kind[bonds.b[k]!] === Kind.Active) unite(root, bonds.a[k]!, bonds.b[k]!);
	}
	const wholes = Array.from(root, (_, i) => find(root, i));
	for (const { a, b, options } of joints) {
		if (b < 0 || options.collide === "yes") continue;
		byJoint.add(pairKey(a, b, count));
		byWhole.add(pairKey(wholes[a]!, wholes[b]!, count));
	}
	const joined = (a: number, b: number): boolean => byJoint.has(pairKey(a, b, count));
	return {
		bonded: (a: number, b: number) => byBond.has(pairKey(a, b, count)),
		joined,
		joinedAsWhole: (a: number, b: number) =>
			joined(a, b) || (wholes[a] !== wholes[b] && byWhole.has(pairKey(wholes[a]!, wholes[b]!, count))),
	};
}

/** Metres that two bodies may overlap without being called so. */
export const overlapTolerance = (scene: SimScene, a: number, b: number): number =>
	OVERLAP_SHARE * Math.min(scene.thickness[a]!, scene.thickness[b]!, 1);
