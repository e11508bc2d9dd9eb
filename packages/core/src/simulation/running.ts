import type { BodyState, Engine } from "./engine";
import type { SimScene } from "./scene";

/** What a step of a run is looked at with. */
export interface Running {
	readonly scene: SimScene;
	readonly engine: Engine;
	/** 1 per body, see `Held`. */
	readonly held: Uint8Array;
	/** State of all bodies before and after the step. */
	readonly before: BodyState;
	readonly after: BodyState;
}
