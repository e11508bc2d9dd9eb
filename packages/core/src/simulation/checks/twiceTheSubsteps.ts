import { type Shot, setSettings } from "../../shot";
import type { Finding } from "./types";

/** Half of the most substeps a second that a shot may have. */
const MOST_DOUBLED = 600;

/** The fix of what shorter substeps would mend; none where they are as short as they can be. */
export const twiceTheSubsteps = ({ settings: { stepsPerSecond } }: Shot): Finding["fixes"] =>
	stepsPerSecond <= MOST_DOUBLED ? [{ label: "Twice the substeps", command: setSettings({ stepsPerSecond: 2 * stepsPerSecond }) }] : [];
