import type { Mesh } from "../mesh";
import type { Opening } from "./types";

/** Behind its tip, over this share of the whole way, a crack has not yet its full width. */
const TAPER = 0.35;

/**
 * How far a crack has opened at a place, 0 to 1. Behind the tip its width grows with the square root of the distance,
 * as that of a crack in an elastic solid does (Irwin 1957), until it is full.
 */
export function openShare(reached: number, { tip, width }: { readonly tip: number; readonly width: number }): number {
	const behind = tip * (1 + TAPER) - reached;
	return behind <= 0 ? 0 : width * Math.min(1, Math.sqrt(behind / TAPER));
}

/** The piece as it looks while the crack opens. */
export function openedMesh(mesh: Mesh, { closed, reached }: Opening, state: { readonly tip: number; readonly width: number }): Mesh {
	const positions = mesh.positions.slice();
	for (let v = 0; v < reached.length; v++) {
		const shut = 1 - openShare(reached[v]!, state);
		for (let k = 0; k < 3; k++) positions[3 * v + k]! += shut * closed[3 * v + k]!;
	}
	return { ...mesh, positions };
}
