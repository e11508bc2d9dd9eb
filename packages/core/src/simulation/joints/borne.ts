import { type Vec3, vec3 } from "../../maths";
import type { JointLoad } from "./loads";
import type { JointState } from "./state";

/** What a joint bore, N and N m. */
export interface Borne {
	readonly force: number;
	readonly moment: number;
}

/** By joint, ascending: all that it bore in a step; it may be loaded by several things. */
export function borneIn(loads: readonly JointLoad[]): Map<number, Borne> {
	const sums = new Map<number, { force: Vec3; moment: Vec3 }>();
	for (const { joint, force, moment } of loads) {
		const known = sums.get(joint);
		sums.set(joint, known ? { force: vec3.add(known.force, force), moment: vec3.add(known.moment, moment) } : { force, moment });
	}
	return new Map(
		[...sums]
			.sort(([m], [n]) => m - n)
			.map(([joint, { force, moment }]) => [joint, { force: vec3.length(force), moment: vec3.length(moment) }]),
	);
}

/** Adds what joints bore in a step to the most that they bore in a frame. */
export function noteBorne(most: Map<number, Borne>, step: ReadonlyMap<number, Borne>): void {
	for (const [joint, { force, moment }] of step) {
		const known = most.get(joint);
		most.set(joint, { force: Math.max(force, known?.force ?? 0), moment: Math.max(moment, known?.moment ?? 0) });
	}
}

/** Ends a frame: what has come to rest is told by nobody, and bears what it bore; what has broken bears nothing. */
export function takeBorne({ broken, load }: JointState, most: ReadonlyMap<number, Borne>): void {
	for (const [joint, gone] of broken.entries()) {
		const own = most.get(joint);
		if (own) load.set([own.force, own.moment], 2 * joint);
		else if (gone === 1) load.fill(0, 2 * joint, 2 * joint + 2);
	}
}
