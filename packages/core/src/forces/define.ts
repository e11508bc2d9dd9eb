import { WHERE_AND_WHEN } from "./specs";
import type { Force } from "./types";

/** A force with what all forces have: where, when and on whom it acts. */
export const defineForce = (force: Force): Force => ({ ...force, options: { ...force.options, ...WHERE_AND_WHEN } });
