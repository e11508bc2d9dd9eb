import type { Group } from "../engine";
import { Kind, type SimScene } from "../scene";
import { BOND_WHOLE } from "./lattice";
import type { Whereabouts } from "./state";

/** Connected parts of bodies over bonds that hold; bodies ascending. */
export function partsOf({ bonds, kind }: SimScene, { net, state, waiting }: Whereabouts, members: readonly number[]): Group[] {
	for (const body of members) waiting[body] = 1;
	const parts: Group[] = [];
	for (const first of members) {
		if (waiting[first] === 0) continue;
		waiting[first] = 0;
		const bodies = [first];
		let anchored = false;
		for (let at = 0; at < bodies.length; at++)
			for (const k of net.of[bodies[at]!]!) {
				if (state.state[k] !== BOND_WHOLE) continue;
				if (kind[bonds.b[k]!] !== Kind.Active) {
					anchored = true;
					continue;
				}
				const other = bonds.a[k] === bodies[at] ? bonds.b[k]! : bonds.a[k]!;
				if (waiting[other] === 0) continue;
				waiting[other] = 0;
				bodies.push(other);
			}
		parts.push({ bodies: Array.from(Int32Array.from(bodies).sort()), anchored });
	}
	return parts;
}

/** Bonds that hold bodies of a group together, or to what holds still; ascending. */
export function holdingBonds({ bonds, kind }: SimScene, { net, state, waiting }: Whereabouts, members: readonly number[]): number[] {
	for (const body of members) waiting[body] = 1;
	const list: number[] = [];
	for (const body of members)
		for (const k of net.of[body]!)
			if (bonds.a[k] === body && state.state[k] === BOND_WHOLE && (kind[bonds.b[k]!] !== Kind.Active || waiting[bonds.b[k]!] === 1))
				list.push(k);
	for (const body of members) waiting[body] = 0;
	return Array.from(Int32Array.from(list).sort());
}
