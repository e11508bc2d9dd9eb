import { bad, good, type Outcome } from "../common";
import type { Checkpoint } from "./checkpoint";
import { type BodyState, type EngineFactory, makeBodyState } from "./engine";
import type { SimScene } from "./scene";

/**
 * Where and how fast everything was at a checkpoint, for a run of a changed set-up to go on from there. The set-up may
 * differ in anything but which bodies there are and what ties them: what was broken, woken and lost is taken over by
 * number.
 */
export async function goOnFrom(old: SimScene, checkpoint: Checkpoint, next: SimScene, factory: EngineFactory): Promise<Outcome<BodyState>> {
	if (old.count !== next.count || old.ids.some((id, i) => next.ids[i] !== id))
		return bad(`The bodies are other ones: ${old.shown} then, ${next.shown} now. A run can go on only with the same; start it anew.`);
	const same = (a: ArrayLike<number>, b: ArrayLike<number>) => a.length === b.length && Array.from(a).every((v, k) => b[k] === v);
	if (!same(old.bonds.a, next.bonds.a) || !same(old.bonds.b, next.bonds.b))
		return bad("Other bodies are bonded now than then. A run can go on only where the bonds tie the same; start it anew.");
	if (
		!same(
			old.joints.map(({ a }) => a),
			next.joints.map(({ a }) => a),
		) ||
		!same(
			old.joints.map(({ b }) => b),
			next.joints.map(({ b }) => b),
		)
	)
		return bad("Connectors join other bodies now than then. A run can go on only where they join the same; start it anew.");
	const engine = await factory(old, checkpoint.held, checkpoint.engine);
	const state = makeBodyState(old.count);
	engine.readState(state);
	engine.dispose();
	return good(state);
}
