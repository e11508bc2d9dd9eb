import type { SimScene } from "../scene";
import { type BlockMemory, free, makeBlockMemory, placeMatrix, placesOf, placeVector, vectorAt } from "./blockMemory";
import type { BondedPart, BondNet } from "./bondNet";
import { type Structure, stiffnessOf } from "./equilibrium";
import { cycle, type Multigrid, makeMultigrid, placesOfMultigrid } from "./multigrid";

/**
 * Stiffness and preconditioner of each group that is looked at. To make a preconditioner costs as much as a dozen iterations,
 * and breaking a few bonds hardly makes one worse: a group that has lost little goes on with that of the whole as it was at
 * the first frame, any other gets its own. What is chosen follows from the state alone, so that a run that goes on from a
 * stored frame finds the same numbers.
 */
export interface Structures {
	/** Made when the first structure is looked at. */
	memory: BlockMemory | undefined;
	/** Connected parts at the first frame. */
	readonly wholes: readonly Whole[];
	/** 1 per body: its part, −1 for none. */
	readonly partOf: Int32Array;
	/** The last one of each first member, the longest unused first. */
	readonly last: Map<number, Kept>;
}

interface Kept extends Structure {
	/** What it has in the memory. */
	readonly places: readonly number[];
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
	return { memory: undefined, wholes: wholes.map((whole) => ({ ...whole, levels: undefined })), partOf, last: new Map() };
}

export function structureOf(structures: Structures, net: BondNet, { bonds }: SimScene, { members, list }: BondedPart): Structure {
	const known = structures.last.get(members[0]!);
	structures.last.delete(members[0]!);
	if (known && isSame(known.members, members) && isSame(known.list, list)) {
		structures.last.set(members[0]!, known);
		return known;
	}
	structures.memory ??= makeBlockMemory();
	const { memory } = structures;
	if (known) free(memory, known.places);
	const stiffness = stiffnessOf(net, bonds, { members, list });
	const matrix = placeMatrix(memory, stiffness);
	const vector = () => placeVector(memory, members.length);
	const work = { x: vector(), r: vector(), z: vector(), p: vector(), image: vector() };
	const places = [...placesOf(matrix), ...Object.values(work)];
	const whole = structures.wholes[structures.partOf[members[0]!]!];
	const isNear =
		whole !== undefined &&
		members.length >= (1 - LOST_BODIES) * whole.members.length &&
		list.length >= (1 - LOST_BONDS) * whole.list.length;
	let precondition: Structure["precondition"];
	if (isNear) {
		whole.levels ??= makeMultigrid(memory, stiffnessOf(net, bonds, whole), centresOf(net, whole.members));
		precondition = onPart(whole.levels, whole.members, members);
	} else {
		const levels = makeMultigrid(memory, stiffness, centresOf(net, members), matrix);
		places.push(...placesOfMultigrid(levels));
		precondition = (r, z) => cycle(levels, r, z);
	}
	const made = { members, list, memory, matrix, precondition, work, places };
	structures.last.set(members[0]!, made);
	forget(structures, MOST_KEPT * bonds.count);
	return made;
}

/** Lets go what has not been used for longest until the rest has no more bonds than this. */
function forget({ memory, last }: Structures, most: number): void {
	let sum = 0;
	for (const { list } of last.values()) sum += list.length;
	for (const [first, { list, places }] of last) {
		if (sum <= most) return;
		free(memory!, places);
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
	const { memory } = levels;
	const { given, found } = levels.levels[0]!;
	if (part.length === whole.length) return (r, z) => cycle(levels, r, z);
	const place = new Map(whole.map((body, z) => [body, 6 * z]));
	const at = Int32Array.from(part, (body) => place.get(body)!);
	return (r, z) => {
		const [all, few] = [vectorAt(memory, given, whole.length).fill(0), vectorAt(memory, r, part.length)];
		for (let k = 0; k < at.length; k++) for (let d = 0; d < 6; d++) all[at[k]! + d] = few[6 * k + d]!;
		cycle(levels, given, found);
		const [answer, into] = [vectorAt(memory, found, whole.length), vectorAt(memory, z, part.length)];
		for (let k = 0; k < at.length; k++) for (let d = 0; d < 6; d++) into[6 * k + d] = answer[at[k]! + d]!;
	};
}
