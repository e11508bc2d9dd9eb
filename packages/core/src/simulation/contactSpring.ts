import type { ShotSettings } from "../shot";

/**
 * Contacts are springs to the solver, as stiff as it can hold still: softer ones sink in under load, of stiffer ones piles jitter. It can
 * hold what swings once in so many of its iterations. An arch of bricks with six of them a step: 60 Hz, as for four, left
 * five joints 5 to 12 mm in bricks; 90 Hz one, 7 mm; 240 Hz three, up to 26 mm.
 */
const ITERATIONS_A_SWING = 8;

/** How often a body would swing on its contact, Hz: its stiffness goes with the mass of the lighter of the two that meet. */
export const contactFrequency = ({ stepsPerSecond, solverIterations }: ShotSettings): number =>
	(stepsPerSecond * solverIterations) / ITERATIONS_A_SWING;
