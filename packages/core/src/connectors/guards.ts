import { type Vec3, vec3 } from "../maths";
import { isFirm, reachOf } from "./make";
import type { Joint } from "./types";

/**
 * A line from what holds a chain, or else from the heaviest body on it, straight to a heavy body, as long as the way along the chain. The
 * engine's solver passes a load on from joint to joint, and 1,000 kg on a link of 1 kg stretch a chain by a third before it has done so;
 * and a rope of 0.1 kg parts between two balls that fly apart shook itself to pieces. With the line the load is where it belongs at once, and as no
 * way is shorter than the chain nothing is held that would not be (long range attachments; Kim, Chentanez, Müller-Fischer 2012).
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
/**
 * Room, so that the joints themselves are taut, too: without any, links of a rope that is drawn straight flew off. With ten times as much,
 * 500 kg on a chain of 5 m fell through 5 mm before the line took them, and came up with four times their weight instead of twice.
 */
const SLACK = 1.0001;

/** The heaviest body of each chain that nothing holds: two boats on a rope are as far apart as it is long. */
function heaviestOfFree(of: ReadonlyMap<number, readonly Side[]>, mass: ArrayLike<number>, isRoot: (body: number) => boolean): number[] {
	const seen = new Set<number>();
	const found: number[] = [];
	for (const first of [...of.keys()].sort((a, b) => a - b)) {
		if (isRoot(first) || seen.has(first)) continue;
		const chain = [first];
		seen.add(first);
		let isHeld = false;
		for (const body of chain)
			for (const { other } of of.get(body)!) {
				if (isRoot(other)) isHeld = true;
				else if (!seen.has(other)) {
					seen.add(other);
					chain.push(other);
				}
			}
		if (!isHeld) found.push(chain.reduce((heaviest, body) => (mass[body]! > mass[heaviest]! ? body : heaviest)));
	}
	return found;
}

/**
 * `mass`: kg by body; `holds`: whether a body holds still or goes by its keys; `stands`: whether it does so until it breaks off: lines end
 * there, and others begin there. −1 is the world.
 */
export function guardsOf(
	joints: readonly Joint[],
	mass: ArrayLike<number>,
	holds: (body: number) => boolean,
	stands: (body: number) => boolean = () => false,
): Guard[] {
	const sides = sidesOf(joints);
	const isFixed = (body: number): boolean => body < 0 || holds(body);
	const bodies = [...sides.keys()].sort((a, b) => a - b);
	const fixed = bodies.filter(isFixed);
	const standing = bodies.filter((body) => !isFixed(body) && stands(body));
	const free = heaviestOfFree(sides, mass, (body) => isFixed(body) || stands(body));
	return [...linesFrom([...fixed, ...free], sides, mass, isFixed), ...linesFrom(standing, sides, mass, isFixed)];
}

/** A joint as one of its ends has it. */
interface Side {
	readonly joint: number;
	readonly own: Vec3;
	readonly other: number;
	readonly far: Vec3;
	readonly length: number;
}

function sidesOf(joints: readonly Joint[]): Map<number, Side[]> {
	const of = new Map<number, Side[]>();
	const add = (body: number, side: Side): void => {
		const list = of.get(body);
		if (list) list.push(side);
		else of.set(body, [side]);
	};
	for (const [n, joint] of joints.entries()) {
		if (!isFirm(joint)) continue;
		const length = reachOf(joint);
		add(joint.a, { joint: n, own: joint.from, other: joint.b, far: joint.to, length });
		add(joint.b, { joint: n, own: joint.to, other: joint.a, far: joint.from, length });
	}
	return of;
}

/** To each heavy body that is reached from these, the shortest. */
function linesFrom(
	roots: readonly number[],
	sides: ReadonlyMap<number, readonly Side[]>,
	mass: ArrayLike<number>,
	isFixed: (body: number) => boolean,
): Guard[] {
	interface Reached extends Guard {
		readonly lightest: number;
	}
	const known = new Set(roots);
	const best = new Map<number, Reached>();
	let front = [...roots]
		.sort((a, b) => a - b)
		.flatMap((root) =>
			sides.get(root)!.flatMap(({ joint, own, other, far, length }): Reached[] => {
				if (isFixed(other) || known.has(other)) return [];
				return [{ root, rootPoint: own, body: other, point: far, length, path: [joint], lightest: mass[other]! }];
			}),
		);
	while (front.length > 0) {
		front.sort((a, b) => a.length - b.length || a.body - b.body);
		const next = front.shift()!;
		best.set(next.body, next);
		for (const { joint, own, other, far, length } of sides.get(next.body)!) {
			if (isFixed(other) || known.has(other) || next.path.includes(joint) || best.has(other)) continue;
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
