import { Color } from "three";

/** Slow to fast: slate, sea, kelp, sand, rust would say "wrong", so it ends in a light sand. */
const RAMP = ["#41525c", "#2f6fa8", "#12a594", "#c9cf8a", "#fff3d0"].map((colour) => new Color(colour));

/** `t` from 0 to 1. */
export function rampColour(t: number, into: Color): Color {
	const x = Math.min(Math.max(t, 0), 1) * (RAMP.length - 1);
	const i = Math.min(RAMP.length - 2, Math.floor(x));
	return into.copy(RAMP[i]!).lerp(RAMP[i + 1]!, x - i);
}

/** A soft colour of its own for each piece, the same every time: hues by the golden angle. */
export function pieceColour(index: number, into: Color): Color {
	return into.setHSL((index * 0.381966) % 1, 0.32, 0.66 + 0.12 * (((index * 7) % 5) / 4 - 0.5));
}
