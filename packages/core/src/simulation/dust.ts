import type { Bonded } from "./bonded";
import type { BodyState, Engine } from "./engine";
import { BOND_WHOLE } from "./lattice";
import { Kind, type SimScene, stepSeconds } from "./scene";

/** Pieces that have come off and turn to dust. Part of the checkpoint. */
export interface DustState {
	/** 1 per body: the step in which it came off all round; −1 where it has not, or never turns to dust. */
	readonly loose: Int32Array;
	/** 1 per body: 1 = it is dust. */
	readonly gone: Uint8Array;
}

export const makeDustState = (count: number): DustState => ({ loose: new Int32Array(count).fill(-1), gone: new Uint8Array(count) });
export const copyDust = ({ loose, gone }: DustState): DustState => ({ loose: loose.slice(), gone: gone.slice() });

/** Seconds after which each body turns to dust once it has come off; Infinity: never. What a connector holds stays. */
export function dustTimes({ count, bonds, size, kind, jointed }: SimScene): Float64Array {
	const times = new Float64Array(count).fill(Number.POSITIVE_INFINITY);
	for (let k = 0; k < bonds.count; k++) {
		const { dust, dustAfter } = bonds.sets[bonds.set[k]!]!;
		for (const i of [bonds.a[k]!, bonds.b[k]!])
			if (kind[i] === Kind.Active && jointed[i] === 0 && size[i]! <= dust) times[i] = Math.min(times[i]!, dustAfter);
	}
	return times;
}

/** Takes away what has been off long enough; returns those bodies. Call once a frame. */
export function turnToDust(
	scene: SimScene,
	engine: Engine,
	bonded: Bonded,
	state: BodyState,
	dust: DustState,
	times: Float64Array,
	step: number,
): number[] {
	const h = stepSeconds(scene);
	const due: number[] = [];
	for (let i = 0; i < scene.count; i++) {
		if (!Number.isFinite(times[i]!) || dust.gone[i] === 1) continue;
		if (bonded.net.of[i]!.some((k) => bonded.state.state[k] === BOND_WHOLE)) continue;
		if (dust.loose[i]! < 0) dust.loose[i] = step;
		if ((step - dust.loose[i]!) * h < times[i]! - 1e-9) continue;
		dust.gone[i] = 1;
		state.awake[i] = 0;
		due.push(i);
	}
	if (due.length > 0) engine.remove(due);
	return due;
}
