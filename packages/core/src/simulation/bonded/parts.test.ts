import { random } from "../../maths";
import { Kind, type SimScene } from "../scene";
import { BOND_BROKEN } from "./lattice";
import { partsOf, partsOff } from "./parts";
import type { Whereabouts } from "./state";

/** A wall of so many bricks by so many, each bonded to its neighbours, the lowest to the ground, which comes last. */
function wall(columns: number, rows: number) {
	const count = columns * rows;
	const pairs = Array.from({ length: count }, (_, i) => [
		...(i % columns < columns - 1 ? [[i, i + 1]] : []),
		...(i + columns < count ? [[i, i + columns]] : []),
		...(i < columns ? [[i, count]] : []),
	]).flat() as [number, number][];
	const [a, b] = [pairs.map(([one]) => one), pairs.map(([, other]) => other)];
	const scene = { bonds: { count: a.length, a, b }, kind: [...new Array(count).fill(Kind.Active), Kind.Passive] };
	const of = Array.from({ length: count + 1 }, (_, i) => a.flatMap((_, k) => (a[k] === i || b[k] === i ? [k] : [])));
	const whereabouts = {
		net: { of, anchors: a.flatMap((_, k) => (b[k] === count ? [k] : [])) },
		state: { state: new Uint8Array(a.length) },
		part: new Int32Array(count + 1),
	};
	return {
		scene: scene as unknown as SimScene,
		whereabouts: whereabouts as unknown as Whereabouts,
		members: Array.from({ length: count }, (_, i) => i),
	};
}

test.each([0.02, 0.2, 0.5, 0.8])("what has come off is found as by looking at everybody: %p of the bonds break", (share) => {
	for (let seed = 0; seed < 20; seed++) {
		const { scene, whereabouts, members } = wall(20, 12);
		const { state } = whereabouts.state;
		const broken = [...state.keys()].filter((k) => random(seed, k, 0) < share);
		// A band all across, now and then.
		if (seed % 3 === 0)
			broken.push(
				...[...state.keys()].filter((k) => scene.bonds.b[k] === scene.bonds.a[k]! + 20 && Math.floor(scene.bonds.a[k]! / 20) === 5),
			);
		for (const k of broken) state[k] = BOND_BROKEN;
		const ends = broken.flatMap((k) => [scene.bonds.a[k]!, scene.bonds.b[k]!]);
		const all = partsOf(scene, whereabouts, members);
		const off = partsOff(scene, whereabouts, members, true, ends);
		const stays = all.filter(({ bodies }) => !off.some((part) => part.bodies[0] === bodies[0]));
		expect(off).toEqual(all.filter((part) => !stays.includes(part)));
		// What is not named is one part, and it still holds.
		expect(stays.length).toBeLessThan(2);
		for (const { anchored } of stays) expect(anchored).toBe(true);
		expect(whereabouts.part.every((mark) => mark === 0)).toBe(true);
	}
});

test("what nothing holds is told whole, with what is left of it", () => {
	const { scene, whereabouts, members } = wall(20, 12);
	const { state } = whereabouts.state;
	for (const k of [...whereabouts.net.anchors, ...whereabouts.net.of[239]!]) state[k] = BOND_BROKEN;
	const ends = whereabouts.net.of[239]!.flatMap((k) => [scene.bonds.a[k]!, scene.bonds.b[k]!]);
	expect(partsOff(scene, whereabouts, members, false, ends)).toEqual([
		{ bodies: members.slice(0, -1), anchored: false },
		{ bodies: [239], anchored: false },
	]);
});
