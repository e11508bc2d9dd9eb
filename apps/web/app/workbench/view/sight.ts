import type { Vec3 } from "@rubble/core/maths";

/** Where the view looks from, along which direction, and at what: for cameras and beacons that are put there. */
export interface Sight {
	readonly position: Vec3;
	readonly forward: Vec3;
	readonly target: Vec3;
}

let read: (() => Sight) | undefined;

/** The view says how to ask it; undefined when it goes. */
export const offerSight = (next: (() => Sight) | undefined): void => {
	read = next;
};

export const sightNow = (): Sight => read?.() ?? { position: [0, 1.5, 5], forward: [0, 0, -1], target: [0, 1, 0] };
