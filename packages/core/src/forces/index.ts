import { push } from "./push";
import { radial } from "./radial";
import { stream } from "./stream";
import { turbulence } from "./turbulence";
import type { Force } from "./types";
import { whirl } from "./whirl";
import { wind } from "./wind";

export { compileForce, type LiveForce } from "./compile";
export type { Force } from "./types";

/** Every force, in the order of the bench. A new one is a file beside this and a line here. */
export const FORCES: readonly Force[] = [push, radial, whirl, wind, turbulence, stream];

export const forceById = (id: string): Force | undefined => FORCES.find((force) => force.id === id);
