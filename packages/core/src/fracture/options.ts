import type { Outcome } from "../common";
import type { Work } from "./crew";
import { INSIDE_OPTIONS } from "./inside";
import { SLIVER_OPTIONS } from "./slivers";
import type { FractureInput, FractureMethod, Pieces } from "./types";

/**
 * A method whose `run` knows the type of its own options: `breakMesh` has completed and checked them by their descriptions.
 * What may be done with slivers, and how inside faces are drawn, is the same for all.
 */
export const defineMethod = <Options>(
	method: Omit<FractureMethod, "run"> & {
		readonly run: (input: FractureInput, options: Options, work: Work) => Promise<Outcome<Pieces>>;
	},
): FractureMethod => ({ ...method, options: { ...method.options, ...SLIVER_OPTIONS, ...INSIDE_OPTIONS } }) as unknown as FractureMethod;
