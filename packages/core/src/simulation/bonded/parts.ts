import type { Group } from "../engine";
import { Kind, type SimScene } from "../scene";
import { BOND_WHOLE } from "./lattice";
import type { Whereabouts } from "./state";

/** Connected parts of bodies over bonds that hold. `members` and bodies of parts ascending. */
export function partsOf({ bonds, kind }: SimScene, { net, state, part }: Whereabouts, members: readonly number[]): Group[] {
	for (const body of members) part[body] = WAITING;
	const anchored: boolean[] = [];
	const open: number[] = [];
	for (const first of members) {
		if (part[first] !== WAITING) continue;
		const own = anchored.push(false);
		part[first] = own;
		open.push(first);
		for (let body = open.pop(); body !== undefined; body = open.pop())
			for (const k of net.of[body]!) {
				if (state.state[k] !== BOND_WHOLE) continue;
				if (kind[bonds.b[k]!] !== Kind.Active) {
					anchored[own - 1] = true;
					continue;
				}
				const other = bonds.a[k] === body ? bonds.b[k]! : bonds.a[k]!;
				if (part[other] !== WAITING) continue;
				part[other] = own;
				open.push(other);
			}
	}
	const bodies = anchored.map(() => [] as number[]);
	for (const body of members) {
		bodies[part[body]! - 1]!.push(body);
		part[body] = 0;
	}
	return bodies.map((list, n) => ({ bodies: list, anchored: anchored[n]! }));
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
	return inOrder ? list : Array.from(Int32Array.from(list).sort());
}

const WAITING = -1;
