import type { Engine } from "./engine";

/**
 * How much harder to move bodies are made than they are, for what the library cannot follow in its steps: in doublings, 1 per body each.
 * They weigh what they did. Part of the checkpoint.
 */
export interface HeavierState {
	/** By what they bear, see `braced.ts`. */
	readonly load: Uint8Array;
	/** By what pulls at them, see `joints/taut.ts`. */
	readonly taut: Uint8Array;
}

/** What pulls at both ends of something has it turn too fast; that it moves aside too fast takes so many doublings less. */
const LESS = 2;

export const makeHeavierState = (count: number): HeavierState => ({ load: new Uint8Array(count), taut: new Uint8Array(count) });
export const copyHeavierState = ({ load, taut }: HeavierState): HeavierState => ({ load: load.slice(), taut: taut.slice() });

/** So many times harder than it is a body is to move, and to turn. */
export const massTimes = ({ load, taut }: HeavierState, i: number): number => 2 ** Math.max(load[i]!, taut[i]! - LESS);
export const turnTimes = ({ load, taut }: HeavierState, i: number): number => 2 ** Math.max(load[i]!, taut[i]!);

/** Has the engine know. */
export const showHeavier = (engine: Engine, state: HeavierState, i: number): void =>
	engine.setInertia(i, massTimes(state, i), turnTimes(state, i));
