import type { Engine } from "../engine";
import { Kind, type SimScene, stepSeconds } from "../scene";
import { makeBondNet } from "./bondNet";
import { makeLattice } from "./lattice";
import { holdingBonds, partsOf } from "./parts";
import { type Bonded, type BondState, makeBondState } from "./state";
import { makeStructures } from "./structures";

/** Puts what is bonded on common carriers; call once, before the first step. */
export function bindGroups(scene: SimScene, engine: Engine, bonded: Bonded): void {
	if (scene.bonds.count === 0) return;
	const groups = partsOf(scene, bonded, bodiesWithBonds(scene)).filter(({ bodies, anchored }) => bodies.length > 1 || anchored);
	engine.regroup(groups);
}

export function makeBonded(scene: SimScene, state: BondState): Bonded {
	const { net, part, wholes } = atFirstFrame(scene);
	const thickness = bodiesWithBonds(scene)
		.map((i) => scene.thickness[i]!)
		.sort((a, b) => a - b);
	return {
		net,
		state,
		part,
		structures: makeStructures(scene, wholes),
		lattice: makeLattice(net, scene.bonds, scene.mass, (i) => scene.kind[i] === Kind.Active, wholes, stepSeconds(scene)),
		left: new Float64Array(scene.bonds.count).fill(1),
		disturbed: true,
		thickness: thickness[thickness.length >> 1] ?? 0,
		bent: new Uint8Array(scene.count),
		bentBefore: new Float64Array(6 * scene.count),
		struck: new Uint8Array(scene.count),
	};
}

/** Who hangs together before anything has broken, and by which bonds. */
export function atFirstFrame(scene: SimScene) {
	const fresh = { net: makeBondNet(scene), state: makeBondState(scene), part: new Int32Array(scene.count) };
	const wholes = partsOf(scene, fresh, bodiesWithBonds(scene)).map(({ bodies, anchored }) => ({
		members: bodies,
		anchored,
		list: holdingBonds(scene, fresh, bodies),
	}));
	return { ...fresh, wholes };
}

const bodiesWithBonds = ({ count, bonded }: SimScene): number[] =>
	Array.from({ length: count }, (_, i) => i).filter((i) => bonded[i] === 1);
