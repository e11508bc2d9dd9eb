import { vec3 } from "../../maths";
import { centreOfMass } from "../pushes";
import type { Running } from "../running";
import { type SimScene, stepSeconds } from "../scene";
import type { JointLoad } from "./loads";
import { type JointState, pointOf } from "./state";

/**
 * What connectors pull at what is bonded. From step to step that jumps with the engine's solver; what loads bonds slowly is its mean over a
 * frame.
 */
export interface Pulls {
	/** Bodies that are in bonds and in joints; whether what pulls at them is known in this frame. */
	readonly bodies: readonly number[];
	readonly known: Uint8Array;
	/** 6 per one of them: N s, and N m s about its centre, in the frame so far. */
	readonly sums: Float64Array;
	/** Which of them a body is. */
	readonly indices: ReadonlyMap<number, number>;
}

export function makePulls({ count, bonded, jointed }: Pick<SimScene, "count" | "bonded" | "jointed">): Pulls {
	const bodies = Array.from({ length: count }, (_, i) => i).filter((i) => bonded[i] === 1 && jointed[i] === 1);
	return {
		bodies,
		known: new Uint8Array(bodies.length),
		sums: new Float64Array(6 * bodies.length),
		indices: new Map(bodies.map((i, z) => [i, z])),
	};
}

/** Adds what joints did in the last step. */
export function notePulls({ scene, after }: Running, { indices, known, sums }: Pulls, loads: readonly JointLoad[]): void {
	const h = stepSeconds(scene);
	for (const { joint, force, moment } of loads) {
		const { a, b, from, to } = scene.joints[joint]!;
		for (const [i, place, sign] of [
			[a, from, h],
			[b, to, -h],
		] as const) {
			const z = indices.get(i);
			if (z === undefined) continue;
			known[z] = 1;
			const arm = vec3.subtract(pointOf(scene, after, i, place).at, centreOfMass(scene, after, i));
			const turn = vec3.add(moment, vec3.cross(arm, force));
			for (let d = 0; d < 3; d++) {
				sums[6 * z + d]! += sign * force[d]!;
				sums[6 * z + 3 + d]! += sign * turn[d]!;
			}
		}
	}
}

/**
 * Ends a frame of so many seconds: `pull` (6 per body of the scene) is what pulled at bodies in it, N and N m. What has come to rest is told
 * by nobody, and pulls as it did.
 */
export function takePulls(
	{ scene: { joints } }: Pick<Running, "scene">,
	{ broken }: JointState,
	pulls: Pulls,
	seconds: number,
	pull: Float64Array,
): void {
	const { bodies, known, sums } = pulls;
	const held = new Set(joints.flatMap(({ a, b }, n) => (broken[n] === 0 ? [a, b] : [])));
	for (const [z, i] of bodies.entries()) {
		if (known[z] === 1) for (let d = 0; d < 6; d++) pull[6 * i + d] = sums[6 * z + d]! / seconds;
		else if (!held.has(i)) pull.fill(0, 6 * i, 6 * i + 6);
	}
	known.fill(0);
	sums.fill(0);
}
