import { type BodyRow, bodyPose } from "@rubble/core/bodies";
import { Color } from "three";
import type { WorkbenchState } from "../store/store";

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

/** Columns of the tables that bodies can be coloured by. */
const COLUMNS: Partial<Record<WorkbenchState["colourBy"], (body: BodyRow, state: WorkbenchState) => number>> = {
	volume: (body) => body.volume,
	mass: (body) => body.mass,
	area: (body) => body.area,
	neighbours: (body) => body.neighbours,
	height: (body, { shot }) => (shot.objects[body.object] ? bodyPose(shot, body, 0).translation[1] : 0),
};

/**
 * From a body to its place between the least and the most of the column that is asked for, 0 to 1; whole objects that
 * are not broken and the ground are left out of that range. Sizes go by their cube root: most pieces are small.
 */
export function columnColours(state: WorkbenchState): ((body: BodyRow) => number) | undefined {
	const column = COLUMNS[state.colourBy];
	if (!column) return undefined;
	const read = (body: BodyRow) =>
		["volume", "mass", "area"].includes(state.colourBy) ? Math.cbrt(column(body, state)) : column(body, state);
	const derived = state.bodies.filter((body) => body.piece >= 0);
	const values = (derived.length > 0 ? derived : state.bodies.filter((body) => !body.endless)).map(read);
	const low = values.reduce((a, b) => Math.min(a, b), Number.POSITIVE_INFINITY);
	const high = values.reduce((a, b) => Math.max(a, b), Number.NEGATIVE_INFINITY);
	return (body) => (high > low ? (read(body) - low) / (high - low) : 0.5);
}
