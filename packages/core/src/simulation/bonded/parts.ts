import type { Group } from "../engine";
import type { Running } from "../running";
import { Kind, type SimScene } from "../scene";
import { BOND_WHOLE } from "./lattice";
import type { Whereabouts } from "./state";

/** Whether bonds hold a body to others that have it move with them, or to what holds still. */
export const isTied = ({ scene, engine, held }: Pick<Running, "scene" | "engine" | "held">, i: number): boolean =>
	scene.bonded[i] === 1 && held[i] === 0 && (engine.isAnchored(engine.carrier[i]!) || engine.membersOf(engine.carrier[i]!).length > 1);

/** Calls with each body that a bond holds to this one; whether another bond holds it to what holds still. */
function visitHeld({ bonds, kind }: SimScene, { net, state }: Whereabouts, body: number, visit: (other: number) => void): boolean {
	let isHeld = false;
	for (const k of net.of[body]!) {
		if (state.state[k] !== BOND_WHOLE) continue;
		if (kind[bonds.b[k]!] !== Kind.Active) isHeld = true;
		else visit(bonds.a[k] === body ? bonds.b[k]! : bonds.a[k]!);
	}
	return isHeld;
}

const ascending = (list: readonly number[]): number[] => Array.from(Int32Array.from(list).sort());

/** Connected parts of bodies over bonds that hold. `members` and bodies of parts ascending. */
export function partsOf(scene: SimScene, whereabouts: Whereabouts, members: readonly number[]): Group[] {
	const { part } = whereabouts;
	for (const body of members) part[body] = WAITING;
	const anchored: boolean[] = [];
	const open: number[] = [];
	for (const first of members) {
		if (part[first] !== WAITING) continue;
		const own = anchored.push(false);
		part[first] = own;
		open.push(first);
		for (let body = open.pop(); body !== undefined; body = open.pop())
			anchored[own - 1] =
				visitHeld(scene, whereabouts, body, (other) => {
					if (part[other] !== WAITING) return;
					part[other] = own;
					open.push(other);
				}) || anchored[own - 1]!;
	}
	const bodies = anchored.map(() => [] as number[]);
	for (const body of members) {
		bodies[part[body]! - 1]!.push(body);
		part[body] = 0;
	}
	return bodies.map((list, n) => ({ bodies: list, anchored: anchored[n]! }));
}

/** A search for who hangs together that has got so far is in what is left, not in a part that has come off. Bodies. */
const FAR = 64;

/**
 * Parts that have come off a group whose bonds have broken between these bodies; and, where it held still and does no more, or never
 * did, what is left of it; in the order of their first bodies. What is left of a large group is not looked through: searches go out
 * from where it broke, one after the other. One that comes to an end has found a part; the first to get far is said to be in what is
 * left, and so is one that meets it.
 */
export function partsOff(
	scene: SimScene,
	whereabouts: Whereabouts,
	members: readonly number[],
	anchored: boolean,
	broken: readonly number[],
): Group[] {
	const { net, state, part } = whereabouts;
	for (const body of members) part[body] = WAITING;
	const found: { bodies: number[]; anchored: boolean }[] = [];
	let hasGotFar = false;
	for (const first of broken) {
		if (part[first] !== WAITING) continue;
		const bodies = [first];
		part[first] = SEARCHED;
		let isHeld = false;
		let isRest = false;
		for (let at = 0; at < bodies.length && !isRest; at++) {
			const touchesStill = visitHeld(scene, whereabouts, bodies[at]!, (other) => {
				if (part[other] === REST) isRest = true;
				if (part[other] !== WAITING) return;
				part[other] = SEARCHED;
				bodies.push(other);
			});
			isHeld ||= touchesStill;
			isRest ||= !hasGotFar && bodies.length > FAR;
		}
		if (!isRest) found.push({ bodies: ascending(bodies), anchored: isHeld });
		hasGotFar ||= isRest;
		for (const body of bodies) part[body] = isRest ? REST : FOUND;
	}
	const isLeft = (body: number): boolean => part[body] === WAITING || part[body] === REST;
	const isHeld = anchored && net.anchors.some((k) => state.state[k] === BOND_WHOLE && isLeft(scene.bonds.a[k]!));
	const left = isHeld ? [] : members.filter(isLeft);
	for (const body of members) part[body] = 0;
	const parts = left.length === 0 ? found : [...found, { bodies: left, anchored: false }];
	return parts.sort((one, other) => one.bodies[0]! - other.bodies[0]!);
}

/** Bonds that hold bodies of a group together, or to what holds still; ascending. */
export function holdingBonds({ bonds, kind }: SimScene, { net, state, part }: Whereabouts, members: readonly number[]): number[] {
	for (const body of members) part[body] = WAITING;
	const list: number[] = [];
	let inOrder = true;
	for (const body of members)
		for (const k of net.of[body]!) {
			if (bonds.a[k] !== body || state.state[k] !== BOND_WHOLE) continue;
			if (kind[bonds.b[k]!] === Kind.Active && part[bonds.b[k]!] !== WAITING) continue;
			inOrder &&= list.length === 0 || list[list.length - 1]! < k;
			list.push(k);
		}
	for (const body of members) part[body] = 0;
	return inOrder ? list : ascending(list);
}

const WAITING = -1;
const SEARCHED = -2;
const FOUND = -3;
const REST = -4;
