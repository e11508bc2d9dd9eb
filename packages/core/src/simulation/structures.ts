import type { BondedPart, BondNet } from "./bondNet";
import { type Structure, stiffnessOf } from "./equilibrium";
import { cycle, type Multigrid, makeMultigrid } from "./multigrid";
import type { SimScene } from "./scene";

/**
 * Stiffness and preconditioner of each group that is looked at. To make a preconditioner costs as much as a dozen iterations,
 * and breaking a few bonds hardly makes one worse: a group that has lost little goes on with that of the whole as it was at
 * the first frame, any other gets its own. What is chosen follows from the state alone, so that a run that goes on from a
 * stored frame finds the same numbers.
 */
export interface Structures {
	/** Connected parts at the first frame. */
	readonly wholes: readonly Whole[];
	/** 1 per body: its part, −1 for none. */
	readonly partOf: Int32Array;
	/** The last one of each first member, the longest unused first. */
	readonly last: Map<number, Structure>;
}

interface Whole extends BondedPart {
	levels: Multigrid | undefined;
}

/** A group that has lost no more than these shares of its bodies and bonds goes on with what the whole had. */
const LOST_BODIES = 0.1;
const LOST_BONDS = 0.05;
/** As many bonds are kept as a scene has, this many times. */
const MOST_KEPT = 2;

export function makeStructures(scene: SimScene, wholes: readonly BondedPart[]): Structures {
	const partOf = new Int32Array(scene.count).fill(-1);
	for (const [n, { members }] of wholes.entries()) for (const i of members) partOf[i] = n;
	return { wholes: wholes.map((whole) => ({ ...whole, levels: undefined })), partOf, last: new Map() };
}

export function structureOf(structures: Structures, net: BondNet, { bonds }: SimScene, { members, list }: BondedPart): Structure {
	const known = structures.last.get(members[0]!);
	structures.last.delete(members[0]!);
	if (known && isSame(known.members, members) && isSame(known.list, list)) {
		structures.last.set(members[0]!, known);
		return known;
	}
	const matrix = stiffnessOf(net, bonds, { members, list });
	const whole = structures.wholes[structures.partOf[members[0]!]!];
	const isNear =
		whole !== undefined &&
		members.length >= (1 - LOST_BODIES) * whole.members.length &&
		list.length >= (1 - LOST_BONDS) * whole.list.length;
	let precondition: Structure["precondition"];
	if (isNear) {
		whole.levels ??= makeMultigrid(stiffnessOf(net, bonds, whole), centresOf(net, whole.members));
		precondition = onPart(whole.levels, whole.members, members);
	} else {
		const levels = makeMultigrid(matrix, centresOf(net, members));
		precondition = (r, z) => cycle(levels, 0, r, z);
	}
	const made = { members, list, matrix, precondition };
	structures.last.set(members[0]!, made);
	forget(structures.last, MOST_KEPT * bonds.count);
	return made;
}

/** Lets go what has not been used for longest until the rest has no more bonds than this. */
function forget(last: Map<number, Structure>, most: number): void {
	let sum = 0;
	for (const { list } of last.values()) sum += list.length;
	for (const [first, { list }] of last) {
		if (sum <= most) return;
		last.delete(first);
		sum -= list.length;
	}
}

const isSame = (a: readonly number[], b: readonly number[]): boolean => a.length === b.length && a.every((value, k) => value === b[k]);

function centresOf(net: BondNet, members: readonly number[]): Float64Array {
	const centres = new Float64Array(3 * members.length);
	for (const [z, i] of members.entries()) centres.set(net.centre.subarray(3 * i, 3 * i + 3), 3 * z);
	return centres;
}

/** The preconditioner of a whole for a part of it: nothing acts on what is missing. Symmetric as it is itself. */
function onPart(levels: Multigrid, whole: readonly number[], part: readonly number[]): Structure["precondition"] {
	const place = new Map(whole.map((body, z) => [body, 6 * z]));
	const at = Int32Array.from(part, (body) => place.get(body)!);
	const given = new Float64Array(6 * whole.length);
	const found = new Float64Array(6 * whole.length);
	return (r, z) => {
		given.fill(0);
		for (let k = 0; k < at.length; k++) for (let d = 0; d < 6; d++) given[at[k]! + d] = r[6 * k + d]!;
		cycle(levels, 0, given, found);
		for (let k = 0; k < at.length; k++) for (let d = 0; d < 6; d++) z[6 * k + d] = found[at[k]! + d]!;
	};
}
