import type { Described, OptionValues } from "../shot";

/** A place that a field is asked about, in the force's own axes. One record is used again and again. */
export interface FieldPoint {
	/** Metres from the force's middle. */
	x: number;
	y: number;
	z: number;
	/** m/s */
	vx: number;
	vy: number;
	vz: number;
	/** Simulated seconds since the first frame. */
	seconds: number;
	/** Length of the step, simulated seconds. */
	dt: number;
	/** kg */
	mass: number;
	/** Surface of the body, m². */
	area: number;
}

/**
 * Writes what it does at a point into `out` (x, y, z): m/s², or newtons where it acts as a force. `strength` is what holds
 * there and then; `share` is that as a multiple of what the bench says.
 */
export type Field = (out: Float64Array, at: FieldPoint, strength: number, share: number) => void;

/** A way to push things. */
export interface Force extends Described {
	readonly id: string;
	readonly help: string;
	/** It does something at a strength of 0 too: still air drags. */
	readonly alwaysActs?: true;
	/** What the falloff goes by, where it is not the distance from the middle. Metres. */
	readonly distanceOf?: (places: readonly number[]) => (at: FieldPoint) => number;
	/** `places`: of the objects that an option names, 3 numbers each, in the force's own axes. */
	readonly field: (options: OptionValues, places: readonly number[]) => Field;
}
