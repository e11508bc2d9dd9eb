import type { Vec3 } from "@rubble/core/maths";

/** Where the view looks from, along which direction, and at what: for cameras and beacons that are put there. */
export interface Sight {
	readonly position: Vec3;
	readonly forward: Vec3;
	readonly target: Vec3;
}

/** What the view can be asked by what is not part of it. */
export interface Eye {
	readonly sight: () => Sight;
	/** Draws the shot as it stands into a canvas of any size, without helpers and outlines. `best`: with ambient occlusion too, slowly. */
	readonly capture: (into: HTMLCanvasElement, best: boolean) => void;
}

let eye: Eye | undefined;

/** The view says how to ask it; undefined when it goes. */
export const offerEye = (next: Eye | undefined): void => {
	eye = next;
};

export const sightNow = (): Sight => eye?.sight() ?? { position: [0, 1.5, 5], forward: [0, 0, -1], target: [0, 1, 0] };

export function captureView(into: HTMLCanvasElement, best = false): void {
	if (!eye) throw new Error("There is no view to take a picture of: this browser has no WebGL 2.");
	eye.capture(into, best);
}
