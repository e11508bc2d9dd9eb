import { POSE_STRIDE } from "../cache";
import { vec3 } from "../maths";
import type { EngineFactory } from "./engine/types";
import { findStartOverlaps } from "./overlaps";
import { Kind, type SimScene } from "./scene";

/** Overlaps are parted to this share of the limit; it ends once none is deeper than the other, so that rounding does not bring them back. */
const GOAL = 0.25;
const ENOUGH = 0.5;
const MOST_ROUNDS = 60;
/** What is left of a pair's depth is done in the next rounds: neighbours pull at each other. */
const SHARE = 0.7;

/**
 * Moves what lies too deep in something else just out of it, turned as it is: the contact solver lets things sink in by
 * a share of their size. In every round each pair parts along the way in which it leaves soonest, the lighter one
 * farther (Müller et al. 2007, position based dynamics, without the rest of it). Returns 7 numbers per body as it got
 * them, the deepest overlap that is left, metres, and how many are deeper than the limit.
 */
export async function separate(
	scene: SimScene,
	factory: EngineFactory,
	poses: ArrayLike<number>,
	limit: number,
): Promise<{ readonly poses: Float32Array; readonly deepest: number; readonly pairs: number }> {
	const out = Float32Array.from(poses);
	for (let round = 0; ; round++) {
		const overlaps = await findStartOverlaps(at(scene, out), factory, limit * GOAL);
		const deepest = overlaps.reduce((most, { depth }) => Math.max(most, depth), 0);
		if (deepest <= limit * ENOUGH || round === MOST_ROUNDS)
			return { poses: out, deepest, pairs: overlaps.filter(({ depth }) => depth > limit).length };
		for (const { a, b, depth, normal } of overlaps) {
			const [ease, other] = [easeOf(scene, a), easeOf(scene, b)];
			if (ease + other === 0) continue;
			const way = SHARE * (depth - 0.5 * limit * GOAL);
			move(out, a, vec3.scale(normal, (-way * ease) / (ease + other)));
			move(out, b, vec3.scale(normal, (way * other) / (ease + other)));
		}
	}
}

/** Pairs that reach into each other where a run has left them, deeper than `least` metres. */
export const overlapsAt = (scene: SimScene, factory: EngineFactory, poses: Float32Array, least: number) =>
	findStartOverlaps(at(scene, poses), factory, least);

/** The same scene standing elsewhere, at rest. */
function at(scene: SimScene, poses: Float32Array): SimScene {
	const position = scene.position.slice();
	const rotation = scene.rotation.slice();
	for (let i = 0; i < scene.count; i++) {
		if (scene.kind[i] !== Kind.Active) continue;
		const from = POSE_STRIDE * i;
		for (let k = 0; k < 3; k++) position[3 * i + k] = poses[from + k]!;
		for (let k = 0; k < 4; k++) rotation[4 * i + k] = poses[from + 3 + k]!;
	}
	return { ...scene, position, rotation };
}

/** How easily it is moved; 0 where it holds still. */
const easeOf = (scene: SimScene, i: number): number => (scene.kind[i] === Kind.Active && scene.mass[i]! > 0 ? 1 / scene.mass[i]! : 0);

function move(poses: Float32Array, i: number, by: readonly number[]): void {
	for (let k = 0; k < 3; k++) poses[POSE_STRIDE * i + k]! += by[k]!;
}
