import { type Vec3, vec3 } from "../maths";
import { jointLength } from "./make";
import type { Joint } from "./types";

/**
 * A line from what holds a chain straight to a heavy body on it, as long as the way along the chain. The engine's solver
 * passes a load on from joint to joint, and 1,000 kg on a link of 1 kg stretch a chain by a third before it has done so;
 * with the line the load is where it belongs at once, and as no way is shorter than the chain nothing is held that would
 * not be (long range attachments; Kim, Chentanez, Müller-Fischer 2012).
 */
export interface Guard {
	readonly root: number;
	readonly rootPoint: Vec3;
	readonly body: number;
	readonly point: Vec3;
	/** metres */
	readonly length: number;
	/** Joints on the way: without one of them it holds nothing. */
	readonly path: readonly number[];
}

/** A body this much heavier than the lightest on its way needs one. */
const HEAVY = 4;
/** Room, so that the joints themselves bear what they can. */
const SLACK = 1.001;

/** `mass`: kg by body; `holds`: whether a body holds still or goes by its keys. −1 is the world. */
export function guardsOf(joints: readonly Joint[], mass: ArrayLike<number>, holds: (body: number) => boolean): Guard[] {
	const of = new Map<
		number,
		{ readonly joint: number; readonly own: Vec3; readonly other: number; readonly far: Vec3; readonly length: number }[]
	>();
	const add = (body: number, joint: number, own: Vec3, other: number, far: Vec3, length: number) => {
		const list = of.get(body);
		const entry = { joint, own, other, far, length };
		if (list) list.push(entry);
		else of.set(body, [entry]);
	};
	for (const [n, joint] of joints.entries()) {
		// Springs and sliders give way.
		if (joint.kind === "spring" || joint.kind === "slider") continue;
		const length = joint.kind === "rope" ? jointLength(joint) : 0;
		add(joint.a, n, joint.from, joint.b, joint.to, length);
		add(joint.b, n, joint.to, joint.a, joint.from, length);
	}
	interface Reached extends Guard {
		readonly lightest: number;
	}
	const best = new Map<number, Reached>();
	let front: Reached[] = [];
	for (const [body, list] of [...of].sort(([a], [b]) => a - b)) {
		if (body >= 0 && !holds(body)) continue;
		for (const { joint, own, other, far, length } of list)
			if (other >= 0 && !holds(other))
				front.push({ root: body, rootPoint: own, body: other, point: far, length, path: [joint], lightest: mass[other]! });
	}
	while (front.length > 0) {
		front.sort((a, b) => a.length - b.length || a.body - b.body);
		const next = front.shift()!;
		const known = best.get(next.body);
		if (known && known.length <= next.length) continue;
		best.set(next.body, next);
		for (const { joint, own, other, far, length } of of.get(next.body)!) {
			if (other < 0 || holds(other) || next.path.includes(joint) || best.has(other)) continue;
			front.push({
				...next,
				body: other,
				point: far,
				length: next.length + vec3.length(vec3.subtract(own, next.point)) + length,
				path: [...next.path, joint],
				lightest: Math.min(next.lightest, mass[other]!),
			});
		}
		front = front.filter(({ body }) => !best.has(body));
	}
	return [...best.values()]
		.filter(({ body, path, lightest }) => path.length > 1 && mass[body]! >= HEAVY * lightest)
		.sort((a, b) => a.body - b.body)
		.map(({ lightest: _, ...guard }) => ({ ...guard, length: guard.length * SLACK }));
}
