import { POSE_STRIDE } from "../cache";
import { tripleAt, vec3 } from "../maths";
import type { EngineFactory } from "./engine/types";
import { makeOverlapFinder } from "./overlaps";
import { Kind, type SimScene } from "./scene";
import { standingAt } from "./standing";

/** Overlaps are parted to this share of the limit; it ends once none is deeper than the other, so that rounding does not bring them back. */
const GOAL = 0.25;
const ENOUGH = 0.5;
const MOST_ROUNDS = 60;
/** What is left of a pair's depth is done in the next rounds: neighbours pull at each other. */
const SHARE = 0.7;

/**
 * Moves what lies too deep in something else just out of it, turned as it is: the contact solver lets things sink in by
 * a share of their size. In every round each pair parts along the way in which it leaves soonest, the lighter one
 * farther (Müller et al. 2007, position based dynamics, without the rest of it). `poses`: those of a
 * frame; `absent`: what is not there then. Returns 7 numbers per body as it got them, the deepest overlap that is left, metres, and how many are deeper than the limit.
 */
export async function separate(
	scene: SimScene,
	factory: EngineFactory,
	poses: ArrayLike<number>,
	frame: number,
	limit: number,
	absent?: Uint8Array,
): Promise<{ readonly poses: Float32Array; readonly deepest: number; readonly pairs: number }> {
	const standing = standingAt(scene, poses, frame);
	const finder = await makeOverlapFinder(standing, factory, limit * GOAL, undefined, absent);
	try {
		for (let round = 0; ; round++) {
			const overlaps = finder.find();
			const deepest = overlaps.reduce((most, { depth }) => Math.max(most, depth), 0);
			if (deepest <= limit * ENOUGH || round === MOST_ROUNDS) {
				const out = Float32Array.from(poses);
				for (let i = 0; i < scene.shown; i++)
					for (let k = 0; k < 3; k++) if (easeOf(scene, i) > 0) out[POSE_STRIDE * i + k] = standing.position[3 * i + k]!;
				return { poses: out, deepest, pairs: overlaps.filter(({ depth }) => depth > limit).length };
			}
			const moved = new Set<number>();
			for (const { a, b, depth, normal } of overlaps) {
				const [ease, other] = [easeOf(scene, a), easeOf(scene, b)];
				if (ease + other === 0) continue;
				const way = SHARE * (depth - 0.5 * limit * GOAL);
				for (const [i, by] of [
					[a, (-way * ease) / (ease + other)],
					[b, (way * other) / (ease + other)],
				] as const) {
					if (by === 0) continue;
					standing.position.set(vec3.add(tripleAt(standing.position, i), vec3.scale(normal, by)), 3 * i);
					moved.add(i);
				}
			}
			finder.moved(moved);
		}
	} finally {
		finder.dispose();
	}
}

/** How easily it is moved; 0 where it holds still. */
const easeOf = (scene: SimScene, i: number): number => (scene.kind[i] === Kind.Active && scene.mass[i]! > 0 ? 1 / scene.mass[i]! : 0);
