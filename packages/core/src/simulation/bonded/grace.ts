import { rotate, tripleAt, vec3 } from "../../maths";
import { Kind } from "../scene";
import { fromFrame, stillFrames } from "./groupFrame";
import type { Bonded, BreakEvent, Running } from "./state";

/**
 * What came apart shares a face, where rounding alone would throw it apart: for so many steps it does not push each other.
 * Where the speeds that the lattice gave it bring it into each other, that ends at once: a blow of 7 m/s left pieces of
 * concrete 19 cm inside each other for half a second otherwise, and even 1 cm of patience left them 12 cm deep.
 */
const GRACE_STEPS = 10;

/** Has what these bonds tied not push each other for a while. */
export function giveGrace({ scene, step }: Pick<Running, "scene" | "step">, { state }: Bonded, broke: readonly BreakEvent[]): void {
	for (const { bond, b } of broke) if (scene.kind[b] === Kind.Active) state.grace.push(bond, step + GRACE_STEPS);
}

/** Pairs that came apart a moment ago; forgets those whose time is over and those that close in on each other. */
export function inGrace(run: Pick<Running, "scene" | "before" | "step">, { net, state }: Bonded): [number, number][] {
	const { bonds } = run.scene;
	const kept: number[] = [];
	const pairs: [number, number][] = [];
	const frameNow = stillFrames(run, net);
	for (let k = 0; k < state.grace.length; k += 2) {
		const [bond, until] = [state.grace[k]!, state.grace[k + 1]!];
		const [a, b] = [bonds.a[bond]!, bonds.b[bond]!];
		if (until < run.step) continue;
		const frame = frameNow(a);
		const place = tripleAt(bonds.centre, bond);
		const into = vec3.dot(
			rotate(frame.turn, tripleAt(bonds.normal, bond)),
			vec3.subtract(fromFrame(frame, place), fromFrame(frameNow(b), place)),
		);
		if (into > 0) continue;
		kept.push(bond, until);
		pairs.push([a, b]);
	}
	state.grace = kept;
	return pairs;
}
